import { describe, expect, it } from "vitest";
import { measure, totalsOf } from "./checkup/measures.ts";
import { flatTrack, rotationBetween } from "./clip/clip.ts";
import { makePatch } from "./documents/patch.ts";
import { DEFAULT_RECIPE, emptyWork, type Work } from "./documents/work.ts";
import { Evaluator } from "./evaluate.ts";
import { readBvh } from "./formats/bvh/read.ts";
import { PatchError } from "./formats/errors.ts";
import { oneSource } from "./sources.ts";
import { at, differences, named, stick, withRotation } from "./testing/patched.ts";
import { skatingBody } from "./testing/skatingBody.ts";
import { inputAt } from "./time/warp.ts";

const file = stick;
const start = () => stick.evaluator();
const grounded: Work = { ...emptyWork(), patches: DEFAULT_RECIPE.patches };
const joint = stick.joint;
const lane = (clip: typeof file.clip, j: number) => flatTrack(clip.rotations[j], 4);

describe("the stack", () => {
  it("returns the source itself when it is empty, and muted patches are as if absent, bit for bit", () => {
    expect(start().evaluate(emptyWork()).result.clip).toBe(file.clip);
    const some = start().evaluate({ ...grounded, patches: [DEFAULT_RECIPE.patches[0]] });
    const muted = start().evaluate({ ...grounded, patches: [DEFAULT_RECIPE.patches[0], { ...DEFAULT_RECIPE.patches[1], muted: true }] });
    expect(differences(muted.result.clip, some.result.clip)).toEqual({ frames: [], joints: [], moved: false });
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
      ...makePatch("repair", "Smooth hips", "r", { smooth: 1, smoothOver: at(12), pops: false, flips: false }),
      parts: named("Hips", "LeftUpLeg", "RightUpLeg", "LeftLeg"),
    };
    const live = start().evaluate({ ...grounded, patches: [...grounded.patches, repair] });
    const loose = start().evaluate({ ...grounded, livePlant: false, patches: [...grounded.patches, repair] });
    expect(differences(live.result.clip, loose.result.clip).frames.length).toBeGreaterThan(0);
    expect(totalsOf(measure(live.result)).slideP95Cm).toBeLessThan(0.2);
    // Without the last pass the same patches do make the feet slide.
    expect(totalsOf(measure(loose.result)).slideP95Cm).toBeGreaterThan(0.2);
  });

  it("trims: contacts go along, frames of the source are told, and nothing can be trimmed away", () => {
    const trim = (settings: Record<string, unknown>) => start().evaluate({ ...emptyWork(), patches: [makePatch("trim", "Trim", "t", settings)] });
    const { base, result } = trim({ from: at(10), to: at(40) });
    expect(result.clip.frameCount).toBe(31);
    expect(inputAt(result.time, 0)).toBe(at(10));
    for (const j of [0, 3, 11]) expect(lane(result.clip, j)).toEqual(lane(base.clip, j).slice(40, 41 * 4));
    for (const c of result.contacts) expect(c.start >= 0 && c.end <= 30).toBe(true);
    expect(() => trim({ from: at(50), to: at(20) })).toThrow(PatchError);
  });

  it("repairs a pop on its joint and range alone; every other frame and joint keeps its bits", () => {
    const arm = joint("LeftForeArm");
    const broken = withRotation(file.clip, arm, [30], [Math.sin(0.4), 0, 0, Math.cos(0.4)]);
    const patch = { ...makePatch("repair", "Repair", "r"), range: { start: at(28), end: at(32) }, parts: named("LeftForeArm") };
    const { result } = stick.evaluator(broken).evaluate({ ...emptyWork(), patches: [patch] });
    expect(rotationBetween(result.clip, 30, file.clip, 30, arm)).toBeLessThan(0.02);
    expect(differences(result.clip, broken)).toEqual({ frames: [30], joints: [arm], moved: false });
  });

  it("lets a person's contacts stand: set spans replace found ones, a stretch without contact removes them", () => {
    const found = start()
      .evaluate(emptyWork())
      .base.contacts.filter((c) => c.point === "leftToe");
    const edit = {
      id: "e",
      point: "leftToe",
      start: at(found[0].start + 1),
      end: at(found[0].end - 2),
      rests: "first" as const,
      on: null,
      anchor: null,
      rampIn: null,
      rampOut: at(3),
    };
    const set = start()
      .evaluate({ ...emptyWork(), contacts: [{ ...edit, kind: "span" }] })
      .base.contacts.filter((c) => c.point === "leftToe");
    expect(set[0]).toMatchObject({ start: found[0].start + 1, end: found[0].end - 2, origin: "set", rampOut: 3 });
    expect(set).toHaveLength(found.length);
    const none = start()
      .evaluate({ ...emptyWork(), contacts: [{ ...edit, kind: "none" }] })
      .base.contacts.filter((c) => c.point === "leftToe");
    expect(none).toHaveLength(found.length - 1);
  });

  it("takes the travel's error out where a root at the origin carries the hips", () => {
    const text = skatingBody()
      .replace("ROOT Hips {", "ROOT Reference { OFFSET 0 0 0 CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n JOINT Hips {")
      .replace("\nMOTION", " }\nMOTION")
      .replace(/^0 96 /gm, "0 0 0 0 0 0 0 96 ");
    const rooted = readBvh(new TextEncoder().encode(text), { fileName: "rooted.bvh" });
    expect(rooted.skeleton.parents[rooted.skeleton.names.indexOf("Hips")]).toBe(0);
    const { base, result } = new Evaluator(oneSource(rooted.skeleton, rooted.clip)).evaluate(grounded);
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
