import { DEFAULT_RECIPE, emptyWork, makePatch, type Patch, type Work } from "@stride/motion";
import { beforeEach, describe, expect, it } from "vitest";
import { around, at, named, stick } from "../../../motion/src/testing/patched.ts";
import { skatingBody } from "../../../motion/src/testing/skatingBody.ts";
import { BenchWorker } from "./benchWorker.ts";
import { takenView } from "./sentViews.ts";
import type { Figures, MotionView, Posed, SentView } from "./views.ts";

let worker: BenchWorker;
let page: Page;

/** What the page does with a worker's answers: it keeps the view that it has, and says which one that is. */
class Page {
  private serial = 0;
  private held: MotionView | null = null;

  constructor(private readonly of: BenchWorker) {}

  pose(work: Work): Omit<Posed, "after"> & { readonly after: MotionView; readonly sent: SentView } {
    const posed = this.of.pose(work, 0, this.serial);
    if (!posed) throw new Error("given up without being asked to");
    this.serial = posed.serial;
    this.held = takenView(posed.after, this.held);
    return { ...posed, after: this.held, sent: posed.after };
  }
}

async function figuresOf(of: BenchWorker): Promise<Figures> {
  const figures = await of.figures();
  if (!figures) throw new Error("nothing was measured");
  return figures;
}

beforeEach(async () => {
  worker = new BenchWorker();
  await worker.open(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" });
  page = new Page(worker);
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
  it("opens a clip as it was read, or as it was asked to be read", async () => {
    expect(await worker.open(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" })).toMatchObject({
      frameCount: 90,
      unitScale: 0.01,
      upAxis: "y",
    });
    expect((await worker.open(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh", unitScale: 0.02 })).unitScale).toBe(0.02);
    await expect(worker.open(new TextEncoder().encode("no motion"), { fileName: "x.bvh" })).rejects.toThrow(/x\.bvh:1/);
  });

  it("poses the source once and the result each time, in the world", () => {
    const first = page.pose(emptyWork());
    expect(first.before?.frameCount).toBe(90);
    expect(first.after.positions).toHaveLength(90 * first.after.jointCount * 3);
    // The hips are where the generator puts them: 96 cm up.
    expect(first.after.positions[1]).toBeCloseTo(0.96, 5);
    expect(page.pose(grounded).before).toBeNull();
    expect(first.problem).toBeNull();
  });

  it("names a work's parts as the body's map does, with the person's corrections of it", () => {
    const held = { ...work(touchUp(40)), body: { leftUpperArm: null } };
    expect(worker.named(work(touchUp(40))).patches[0].settings).toMatchObject({ edits: [{ parts: [{ role: "leftUpperArm" }] }] });
    expect(worker.named(held).patches[0].settings).toMatchObject({ edits: [{ parts: [{ joint: "LeftArm" }] }] });
  });

  it("stops before the patch that fails, known by its id, whatever others are called", async () => {
    const twin = (id: string, settings: Record<string, unknown>): Patch => makePatch("touchUp", "Same name", id, settings);
    const fine = twin("fine", { at: at(40), edits: [edit], holds: [] });
    const broken = twin("broken", { at: at(40), edits: [{ ...edit, parts: named("Wing") }], holds: [] });
    const posed = page.pose(work({ ...fine, ...around(40) }, broken));
    expect(posed.problem).toMatchObject({ patchId: "broken" });
    expect(posed.problem?.message).toMatch(/Same name: .*Wing/);
    // The first of the two has done its work all the same.
    const plain = new BenchWorker();
    await plain.open(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" });
    expect(posed.after.positions).toEqual(new Page(plain).pose(work({ ...fine, ...around(40) })).after.positions);
    const { stages } = await figuresOf(worker);
    expect(stages).toHaveProperty("fine");
    expect(stages).not.toHaveProperty("broken");
  });

  it("measures before and after each patch, and says what was treated", async () => {
    page.pose(grounded);
    const figures = await figuresOf(worker);
    const { plant } = figures.stages;
    expect(plant.before.slideWorstCm).toBeGreaterThan(4);
    expect(plant.after.slideWorstCm).toBeLessThan(0.05);
    expect(figures.treated.map((f) => f.kind)).toContain("slide");
    expect(figures.after.findings.map((f) => f.kind)).not.toContain("slide");
    page.pose(work(makePatch("trim", "Trim", "trim", { from: at(10), to: at(60) })));
    const trimmed = await figuresOf(worker);
    expect(trimmed.treated).toEqual([]);
    expect(trimmed.stages.trim.poseMovedCm).toBeNull();
  });

  it("sends only the stretches that differ from the view that the page has, and all of it to a page that has another", () => {
    page.pose(emptyWork());
    const first = page.pose(work(touchUp(40)));
    expect(first.sent.whole).toBeNull();
    const frames = first.sent.stretches.flatMap(({ start, positions }) =>
      Array.from({ length: positions.length / (3 * first.after.jointCount) }, (_, i) => start + i),
    );
    expect(frames).toContain(40);
    expect(Math.min(...frames)).toBeGreaterThan(30);
    expect(Math.max(...frames)).toBeLessThan(50);
    expect(first.sent.contacts).toBeNull();
    const restored = page.pose(emptyWork());
    expect(restored.sent.whole).toBeNull();
    const source = restored.after.positions.slice();
    const second = page.pose(work(touchUp(40)));
    expect(second.sent.whole).toBeNull();
    // What a page comes to by stretches is what a fresh one is sent whole; taking it back restored the source, bit for bit.
    expect(source).toEqual(new Page(worker).pose(emptyWork()).after.positions);
    const fresh = new Page(worker).pose(work(touchUp(40)));
    expect(fresh.sent.whole).not.toBeNull();
    expect(fresh.before?.whole).not.toBeNull();
    expect(second.after.positions).toEqual(fresh.after.positions);
    expect(second.after.rotations).toEqual(fresh.after.rotations);
    expect(second.after.contacts).toEqual(fresh.after.contacts);
    expect(second.after.prints).toEqual(fresh.after.prints);
    // Of another length there is nothing to go on from; feet that are planted leave other prints.
    expect(page.pose(work(makePatch("trim", "Trim", "trim", { from: at(10), to: at(60) }))).sent.whole).not.toBeNull();
    expect(page.pose(grounded).sent.prints).not.toBeNull();
    expect(() => takenView({ ...first.sent, contacts: null }, null)).toThrow(/before the view/);
  });

  it("gives up what the page no longer wants, in the middle of it, and does the newest", async () => {
    const newest = new Int32Array(new SharedArrayBuffer(8));
    await worker.open(new TextEncoder().encode(skatingBody(3000)), { fileName: "skating.bvh" }, newest.buffer);
    Atomics.store(newest, 0, 2);
    expect(worker.pose(grounded, 1)).toBeNull();
    expect(newest[1]).toBeLessThan(1000);
    expect(worker.pose(grounded, 2)).not.toBeNull();
    // How far it is can be read meanwhile, and at the end it is through.
    expect(newest[1]).toBe(1000);
    const figures = worker.figures(2);
    Atomics.store(newest, 0, 3);
    expect(await figures).toBeNull();
    expect(worker.pose(grounded, 2)).toBeNull();
    expect(worker.pose(emptyWork(), 3)?.problem).toBeNull();
  });

  it("previews one frame as the whole then shows it, and says when it cannot", () => {
    page.pose(work(touchUp(40)));
    const next = work(touchUp(40, { settings: { at: at(40), edits: [{ ...edit, degrees: [35, 0, 0] }], holds: [] } }));
    const seen = worker.preview(next, 40)?.posed;
    const { after } = page.pose(next);
    const from = 40 * after.jointCount * 3;
    seen?.positions.forEach((v, i) => {
      expect(v).toBeCloseTo(after.positions[from + i], 5);
    });
    expect(seen?.frame).toBe(40);
    expect(worker.preview(work(touchUp(40), makePatch("plant", "P", "p")), 40)).toBeNull();
  });

  it("draws curves of the source at the moments that the result shows", () => {
    const spec = { kind: "measure", measure: { of: "position", part: { joint: "Hips" }, axis: "z", space: "world" } } as const;
    page.pose(emptyWork());
    const [whole] = worker.curves([spec]);
    page.pose(work(makePatch("trim", "Trim", "trim", { from: at(30), to: at(70) })));
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
    page.pose(work(touchUp(40)));
    const taken = worker.takePose(40, [arm], "result");
    const plain = worker.takePose(40, [arm], "source");
    expect(Object.keys(taken.rotations)).toEqual(["leftUpperArm"]);
    expect(taken.rotations.leftUpperArm).not.toEqual(plain.rotations.leftUpperArm);
    expect(worker.takePose(40, [arm], "rest").rotations.leftUpperArm.map(Math.abs)).toEqual([0, 0, 0, 1]);
    const paste = worker.paste(40, plain, { joints: [arm], where: "spot", amount: 1, label: "Back", mirrored: false });
    const back = page.pose(work(touchUp(40, { settings: { at: at(40), edits: [edit, paste], holds: [] } })));
    const source = page.pose(emptyWork());
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
    page.pose(work(trim, held));
    const [off] = worker.deviations("t", [hold], 20);
    expect(off.cm).toBeGreaterThan(2);
    expect(off.degrees).toBeCloseTo(20, 1);
    expect(worker.deviations("t", [hold], 50)[0].cm).toBe(0);
    expect(worker.deviations("gone", [hold], 20)).toEqual([]);
  });

  it("reads how far the hips move before and after a patch", () => {
    const calm = makePatch("amplitude", "A", "a", { percent: 50, bob: true, swivel: true });
    page.pose(work(calm));
    const ranges = worker.ranges("a", 0, 89);
    if (!ranges) throw new Error("no ranges");
    expect(ranges.after.bobCm).toBeLessThanOrEqual(ranges.before.bobCm);
    expect(worker.ranges("gone", 0, 10)).toBeNull();
  });
});
