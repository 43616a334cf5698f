import { DEFAULT_RECIPE, emptyWork, makePatch, type Patch, type Work } from "@stride/motion";
import { beforeEach, describe, expect, it } from "vitest";
import { around, at, named, stick } from "../../../motion/src/testing/patched.ts";
import { skatingBody } from "../../../motion/src/testing/skatingBody.ts";
import { BenchWorker } from "./benchWorker.ts";

let worker: BenchWorker;
beforeEach(() => {
  worker = new BenchWorker();
  worker.open(new TextEncoder().encode(skatingBody()), "skating.bvh", null, null);
});

const grounded: Work = { ...emptyWork(), patches: DEFAULT_RECIPE.patches };
const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });
const edit = { op: "turn", parts: named("LeftArm"), space: "own", degrees: [20, 0, 0], shared: false, pivot: null };
const touchUp = (frame: number, rest: Partial<Patch> = {}): Patch => ({
  ...makePatch("touchUp", "T", "t", { at: at(frame), edits: [edit], holds: [] }),
  ...around(frame),
  ...rest,
});
const arm = stick.joint("LeftArm");

describe("the page's worker", () => {
  it("opens a clip as it was read, or as it was asked to be read", () => {
    expect(worker.open(new TextEncoder().encode(skatingBody()), "skating.bvh", null, null)).toMatchObject({ frameCount: 90, unitScale: 0.01, upAxis: "y" });
    expect(worker.open(new TextEncoder().encode(skatingBody()), "skating.bvh", 0.02, null).unitScale).toBe(0.02);
    expect(() => worker.open(new TextEncoder().encode("no motion"), "x.bvh", null, null)).toThrow(/x\.bvh:1/);
  });

  it("poses the source once and the result each time, in the world", () => {
    const first = worker.pose(emptyWork());
    expect(first.before?.frameCount).toBe(90);
    expect(first.after.positions).toHaveLength(90 * first.after.jointCount * 3);
    // The hips are where the generator puts them: 96 cm up.
    expect(first.after.positions[1]).toBeCloseTo(0.96, 5);
    expect(worker.pose(grounded).before).toBeNull();
    expect(first.problem).toBeNull();
  });

  it("names a work's parts as the body's map does, with the person's corrections of it", () => {
    const held = { ...work(touchUp(40)), body: { leftUpperArm: null } };
    expect(worker.named(work(touchUp(40))).patches[0].settings).toMatchObject({ edits: [{ parts: [{ role: "leftUpperArm" }] }] });
    expect(worker.named(held).patches[0].settings).toMatchObject({ edits: [{ parts: [{ joint: "LeftArm" }] }] });
  });

  it("stops before the patch that fails, known by its id, whatever others are called", () => {
    const twin = (id: string, settings: Record<string, unknown>): Patch => makePatch("touchUp", "Same name", id, settings);
    const fine = twin("fine", { at: at(40), edits: [edit], holds: [] });
    const broken = twin("broken", { at: at(40), edits: [{ ...edit, parts: named("Wing") }], holds: [] });
    const posed = worker.pose(work({ ...fine, ...around(40) }, broken));
    expect(posed.problem).toMatchObject({ patchId: "broken" });
    expect(posed.problem?.message).toMatch(/Same name: .*Wing/);
    // The first of the two has done its work all the same.
    const plain = new BenchWorker();
    plain.open(new TextEncoder().encode(skatingBody()), "skating.bvh", null, null);
    expect(posed.after.positions).toEqual(plain.pose(work({ ...fine, ...around(40) })).after.positions);
    expect(worker.figures()?.stages).toHaveProperty("fine");
    expect(worker.figures()?.stages).not.toHaveProperty("broken");
  });

  it("measures before and after each patch, and says what was treated", () => {
    worker.pose(grounded);
    const figures = worker.figures();
    if (!figures) throw new Error("nothing was measured");
    const { plant } = figures.stages;
    expect(plant.before.slideWorstCm).toBeGreaterThan(4);
    expect(plant.after.slideWorstCm).toBeLessThan(0.05);
    expect(figures.treated.map((f) => f.kind)).toContain("slide");
    expect(figures.after.findings.map((f) => f.kind)).not.toContain("slide");
    worker.pose(work(makePatch("trim", "Trim", "trim", { from: at(10), to: at(60) })));
    expect(worker.figures()?.treated).toEqual([]);
    expect(worker.figures()?.stages.trim.poseMovedCm).toBeNull();
  });

  it("previews one frame as the whole then shows it, and says when it cannot", () => {
    worker.pose(work(touchUp(40)));
    const next = work(touchUp(40, { settings: { at: at(40), edits: [{ ...edit, degrees: [35, 0, 0] }], holds: [] } }));
    const seen = worker.preview(next, 40)?.posed;
    const { after } = worker.pose(next);
    const from = 40 * after.jointCount * 3;
    seen?.positions.forEach((v, i) => {
      expect(v).toBeCloseTo(after.positions[from + i], 5);
    });
    expect(seen?.frame).toBe(40);
    expect(worker.preview(work(touchUp(40), makePatch("plant", "P", "p")), 40)).toBeNull();
  });

  it("draws curves of the source at the moments that the result shows", () => {
    const spec = { kind: "measure", measure: { of: "position", part: { joint: "Hips" }, axis: "z", space: "world" } } as const;
    worker.pose(emptyWork());
    const [whole] = worker.curves([spec]);
    worker.pose(work(makePatch("trim", "Trim", "trim", { from: at(30), to: at(70) })));
    const [cut] = worker.curves([spec]);
    expect(cut.result).toHaveLength(41);
    expect(cut.before).toHaveLength(41);
    [0, 20, 40].forEach((f) => {
      expect(cut.before[f]).toBeCloseTo(whole.result[f + 30], 6);
      expect(cut.result[f]).toBeCloseTo(whole.result[f + 30], 6);
    });
    expect(cut.unit).toBe("cm");
  });

  it("takes poses off the result, the source and rest, and pastes them", () => {
    worker.pose(work(touchUp(40)));
    const taken = worker.takePose(40, [arm], "result");
    const plain = worker.takePose(40, [arm], "source");
    expect(Object.keys(taken.rotations)).toEqual(["leftUpperArm"]);
    expect(taken.rotations.leftUpperArm).not.toEqual(plain.rotations.leftUpperArm);
    expect(worker.takePose(40, [arm], "rest").rotations.leftUpperArm.map(Math.abs)).toEqual([0, 0, 0, 1]);
    const paste = worker.paste(40, plain, { joints: [arm], where: "spot", amount: 1, label: "Back", mirrored: false });
    const back = worker.pose(work(touchUp(40, { settings: { at: at(40), edits: [edit, paste], holds: [] } })));
    const source = worker.pose(emptyWork());
    const o = (40 * source.after.jointCount + arm + 1) * 3;
    for (let i = 0; i < 3; i++) expect(back.after.positions[o + i]).toBeCloseTo(source.after.positions[o + i], 5);
    expect(worker.limbOf([arm], false)).toContain(stick.joint("LeftHand"));
    expect(worker.limbOf([arm], true)).toContain(stick.joint("RightHand"));
    expect(() =>
      worker.paste(40, { ...plain, rotations: { "=Wing": [0, 0, 0, 1] } }, { joints: null, where: "spot", amount: 1, label: "x", mirrored: false }),
    ).toThrow(/share no part/);
  });

  it("says how far held parts are off, at the frame of the result, also over a trim", () => {
    const hold = { part: { joint: "LeftHand" }, position: true, orientation: true, on: null };
    const trim = makePatch("trim", "Trim", "trim", { from: at(20), to: null });
    const held = touchUp(20, { settings: { at: at(20), edits: [edit], holds: [] } });
    worker.pose(work(trim, held));
    const [off] = worker.deviations("t", [hold], 20);
    expect(off.cm).toBeGreaterThan(2);
    expect(off.degrees).toBeCloseTo(20, 1);
    expect(worker.deviations("t", [hold], 50)[0].cm).toBe(0);
    expect(worker.deviations("gone", [hold], 20)).toEqual([]);
  });

  it("reads how far the hips move before and after a patch", () => {
    const calm = makePatch("amplitude", "A", "a", { percent: 50, bob: true, swivel: true });
    worker.pose(work(calm));
    const ranges = worker.ranges("a", 0, 89);
    if (!ranges) throw new Error("no ranges");
    expect(ranges.after.bobCm).toBeLessThanOrEqual(ranges.before.bobCm);
    expect(worker.ranges("gone", 0, 10)).toBeNull();
  });
});
