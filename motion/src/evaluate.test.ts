import { describe, expect, it } from "vitest";
import { measure, totalsOf } from "./checkup/measures.ts";
import { Evaluator } from "./evaluate.ts";
import { readBvh } from "./formats/bvh/read.ts";
import { PatchError } from "./formats/errors.ts";
import { quatAngleFlat } from "./math/quat.ts";
import { skatingBody } from "./testing/skatingBody.ts";
import { DEFAULT_RECIPE, DocumentError, emptyWork, makePatch, readDocument, WORK_FORMAT, type Work, workSchema } from "./work.ts";

const file = readBvh(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" });
const start = () => new Evaluator(file.skeleton, file.clip);
const grounded: Work = { ...emptyWork(), patches: DEFAULT_RECIPE.patches };
const joint = (name: string) => file.skeleton.names.indexOf(name);
const lane = (clip: typeof file.clip, j: number) =>
  Array.from({ length: clip.frameCount }, (_, f) => Array.from(clip.rotations.slice((f * clip.jointCount + j) * 4, (f * clip.jointCount + j) * 4 + 4))).flat();

describe("the stack", () => {
  it("returns the source itself when it is empty, and muted patches are as if absent, bit for bit", () => {
    expect(start().evaluate(emptyWork()).result.clip).toBe(file.clip);
    const some = start().evaluate({ ...grounded, patches: [DEFAULT_RECIPE.patches[0]] });
    const muted = start().evaluate({ ...grounded, patches: [DEFAULT_RECIPE.patches[0], { ...DEFAULT_RECIPE.patches[1], muted: true }] });
    expect(muted.result.clip.rotations).toEqual(some.result.clip.rotations);
    expect(muted.result.clip.positions).toEqual(some.result.clip.positions);
  });

  it("solos: only what is soloed takes part", () => {
    const solo = start().evaluate({ ...grounded, patches: [{ ...DEFAULT_RECIPE.patches[0], solo: true }, DEFAULT_RECIPE.patches[1]] });
    expect(solo.stages.map((s) => s.patch.kind)).toEqual(["floor"]);
  });

  it("evaluates from the first patch that changed: what is before it comes from the cache", () => {
    const evaluator = start();
    const first = evaluator.evaluate(grounded);
    const again = evaluator.evaluate({ ...grounded, patches: [grounded.patches[0], { ...grounded.patches[1], settings: { hipsMayDropCm: 1 } }] });
    expect(again.stages[0].motion).toBe(first.stages[0].motion);
    expect(again.stages[1].motion).not.toBe(first.stages[1].motion);
    const renamed = evaluator.evaluate({
      ...grounded,
      patches: [grounded.patches[0], { ...grounded.patches[1], name: "Other", settings: { hipsMayDropCm: 1 } }],
    });
    expect(renamed.stages[1].motion).toBe(again.stages[1].motion);
  });

  it("leaves arms, spine and head bit-equal under plants, and bone lengths alone", () => {
    const { result } = start().evaluate(grounded);
    for (const name of ["Spine", "Chest", "Head", "LeftArm", "LeftForeArm", "RightArm", "RightForeArm"])
      expect(lane(result.clip, joint(name)), name).toEqual(lane(file.clip, joint(name)));
    expect(lane(result.clip, joint("LeftUpLeg"))).not.toEqual(lane(file.clip, joint("LeftUpLeg")));
  });

  it("keeps feet planted when a patch behind the plant moves the body: the plant is solved last", () => {
    const repair = {
      ...makePatch("repair", "Smooth hips", "r", { smooth: 1, smoothInFrames: 12, pops: false, flips: false }),
      mask: ["Hips", "LeftUpLeg", "RightUpLeg", "LeftLeg"],
    };
    const live = start().evaluate({ ...grounded, patches: [...grounded.patches, repair] });
    const loose = start().evaluate({ ...grounded, livePlant: false, patches: [...grounded.patches, repair] });
    expect(live.result.clip.rotations).not.toEqual(loose.result.clip.rotations);
    expect(totalsOf(measure(live.result)).slideP95Cm).toBeLessThan(0.2);
    // Without the last pass the same patches do make the feet slide.
    expect(totalsOf(measure(loose.result)).slideP95Cm).toBeGreaterThan(0.2);
  });

  it("trims: contacts go along, frames of the source are told, and nothing can be trimmed away", () => {
    const trim = (settings: Record<string, unknown>) => start().evaluate({ ...emptyWork(), patches: [makePatch("trim", "Trim", "t", settings)] });
    const { base, result } = trim({ keepFromFrame: 10, keepToFrame: 40 });
    expect(result.clip.frameCount).toBe(31);
    expect(result.timeMap[0]).toBe(10);
    expect(Array.from(result.clip.rotations.slice(0, 40))).toEqual(
      Array.from(base.clip.rotations.slice(10 * base.clip.jointCount * 4, 10 * base.clip.jointCount * 4 + 40)),
    );
    for (const c of result.contacts) expect(c.start >= 0 && c.end <= 30).toBe(true);
    expect(() => trim({ keepFromFrame: 50, keepToFrame: 20 })).toThrow(PatchError);
  });

  it("repairs a pop on its joint and range alone; every other frame and joint keeps its bits", () => {
    const broken = { ...file.clip, rotations: file.clip.rotations.slice() };
    const arm = joint("LeftForeArm");
    const o = (30 * broken.jointCount + arm) * 4;
    broken.rotations.set([Math.sin(0.4), 0, 0, Math.cos(0.4)], o);
    const patch = { ...makePatch("repair", "Repair", "r"), range: { start: 28, end: 32 }, mask: ["LeftForeArm"] };
    const { result } = new Evaluator(file.skeleton, broken).evaluate({ ...emptyWork(), patches: [patch] });
    expect(quatAngleFlat(result.clip.rotations, o, file.clip.rotations, o)).toBeLessThan(0.02);
    result.clip.rotations.forEach((v, i) => {
      if (i < o || i >= o + 4) expect(v).toBe(broken.rotations[i]);
    });
  });

  it("lets a person's contacts stand: set spans replace found ones, a stretch without contact removes them", () => {
    const found = start()
      .evaluate(emptyWork())
      .base.contacts.filter((c) => c.part === "leftToe");
    const edit = {
      id: "e",
      part: "leftToe" as const,
      start: found[0].start + 1,
      end: found[0].end - 2,
      mode: "first" as const,
      point: null,
      rampInFrames: null,
      rampOutFrames: 3,
    };
    const set = start()
      .evaluate({ ...emptyWork(), contacts: [{ ...edit, kind: "span" }] })
      .base.contacts.filter((c) => c.part === "leftToe");
    expect(set[0]).toMatchObject({ start: edit.start, end: edit.end, origin: "set", rampOut: 3 });
    expect(set).toHaveLength(found.length);
    const none = start()
      .evaluate({ ...emptyWork(), contacts: [{ ...edit, kind: "none" }] })
      .base.contacts.filter((c) => c.part === "leftToe");
    expect(none).toHaveLength(found.length - 1);
  });

  it("takes the travel's error out where a root at the origin carries the hips", () => {
    const text = skatingBody()
      .replace("ROOT Hips {", "ROOT Reference { OFFSET 0 0 0 CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n JOINT Hips {")
      .replace("\nMOTION", " }\nMOTION")
      .replace(/^0 96 /gm, "0 0 0 0 0 0 0 96 ");
    const rooted = readBvh(new TextEncoder().encode(text), { fileName: "rooted.bvh" });
    expect(rooted.skeleton.parents[rooted.skeleton.names.indexOf("Hips")]).toBe(0);
    const { base, result } = new Evaluator(rooted.skeleton, rooted.clip).evaluate(grounded);
    expect(totalsOf(measure(base)).travelErrorPercent).toBeGreaterThan(11);
    expect(totalsOf(measure(result)).slideWorstCm).toBeLessThan(0.01);
    expect(Math.abs(totalsOf(measure(result)).travelErrorPercent)).toBeLessThan(2);
  });

  it("says which patch and field is wrong", () => {
    const work = (settings: Record<string, unknown>) => ({ ...emptyWork(), patches: [makePatch("plant", "Feet", "p", settings)] });
    expect(() => start().evaluate(work({ travelStrength: 3 }))).toThrow(/Feet: travelStrength/);
    expect(() => start().evaluate({ ...emptyWork(), patches: [makePatch("wings", "Fly", "w")] })).toThrow(/no kind of patch called "wings"/);
  });
});

describe("documents", () => {
  it("are read back as they were, and unknown versions refused by name", () => {
    expect(readDocument(workSchema, WORK_FORMAT, JSON.parse(JSON.stringify(grounded)))).toEqual(grounded);
    expect(() => readDocument(workSchema, WORK_FORMAT, { ...grounded, format: "patch-stride.work/9" })).toThrow(
      /reads "patch-stride.work\/1", not "patch-stride.work\/9"/,
    );
    expect(() => readDocument(workSchema, WORK_FORMAT, { ...grounded, patches: [{}] })).toThrow(DocumentError);
    expect(() => readDocument(workSchema, WORK_FORMAT, "x")).toThrow(DocumentError);
  });
});
