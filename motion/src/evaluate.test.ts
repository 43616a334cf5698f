import { describe, expect, it } from "vitest";
import { measure, totalsOf } from "./checkup/measures.ts";
import { cropClip, flatTrack, rotationBetween } from "./clip/clip.ts";
import { makeContactEdit } from "./contacts/contact.ts";
import { makePatch } from "./documents/patch.ts";
import { DEFAULT_RECIPE, emptyWork, type Work } from "./documents/work.ts";
import { clocksOf, Evaluator } from "./evaluate.ts";
import { readBvh } from "./formats/bvh/read.ts";
import { PatchError } from "./formats/errors.ts";
import { oneSource } from "./sources.ts";
import { around, at, differences, named, patch, stick, withRotation } from "./testing/patched.ts";
import { skatingBody } from "./testing/skatingBody.ts";
import { intoPatch } from "./time/moments.ts";
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
      .evaluate({ ...emptyWork(), contacts: [makeContactEdit({ ...edit, kind: "span" })] })
      .base.contacts.filter((c) => c.point === "leftToe");
    expect(set[0]).toMatchObject({ start: found[0].start + 1, end: found[0].end - 2, origin: "set", rampOut: 3 });
    expect(set).toHaveLength(found.length);
    const none = start()
      .evaluate({ ...emptyWork(), contacts: [makeContactEdit({ ...edit, kind: "none" })] })
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

describe("parts that a body lacks", () => {
  it("are told by patch and field, never dropped in silence; those it has are still treated", () => {
    const patches = [
      patch("repair", { smooth: 1 }, { parts: [{ joint: "LeftArm" }, { joint: "Wing" }, { role: "rightThumb3" }] }),
      patch("touchUp", { at: at(40), edits: [], holds: [] }, { id: "empty", parts: named("Tail") }),
    ];
    const { notes, result } = start().evaluate(stick.work(...patches));
    expect(notes.map((n) => [n.patchId, n.field])).toEqual([
      ["repair", "parts"],
      ["repair", "parts"],
      ["empty", "parts"],
    ]);
    [/Wing/, /thumb/i, /Tail/].forEach((name, i) => {
      expect(notes[i].message).toMatch(name);
    });
    expect(differences(result.clip, file.clip).joints).toEqual([joint("LeftArm")]);
    // A mask with nothing in it that is there means nothing, not everything.
    expect(start().evaluate(stick.work(patches[1])).result.clip).toBe(file.clip);
  });
});

describe("a trim under everything else", () => {
  const trim = patch("trim", { from: at(12), to: at(80) });
  const arm = joint("LeftArm");
  const turn = { op: "turn", parts: named("LeftArm"), space: "own", degrees: [25, 0, 0], shared: false, pivot: null };
  const keys = (frame: number) => [
    { at: at(frame - 6), value: 0, tangent: "flat" },
    { at: at(frame), value: 20, tangent: "smooth" },
    { at: at(frame + 6), value: 0, tangent: "flat" },
  ];
  const above = (by: number) => [
    patch("touchUp", { at: at(40 - by), edits: [turn], holds: [] }, around(40 - by)),
    patch("layer", { channels: [{ target: { drives: "turn", part: { joint: "Head" }, axis: "y" }, keys: keys(60 - by) }] }),
    patch("repair", { smooth: 1 }, { ...around(30 - by, 4, 4), parts: named("RightForeArm") }),
  ];

  it("is as exact as none: the same moments of the body, the same bits", () => {
    const plain = start().evaluate(stick.work(...above(0))).result.clip;
    const trimmed = start().evaluate(stick.work(trim, ...above(12))).result.clip;
    expect(trimmed.frameCount).toBe(69);
    const cut = cropClip(plain, 12, 80);
    // Moments are sums of other numbers, and so a key's value may end in another bit: no more than that.
    expect(differences(cut, trimmed).joints.every((j) => j === joint("Head"))).toBe(true);
    for (let f = 0; f < 69; f++) expect(rotationBetween(cut, f, trimmed, f, joint("Head"))).toBeLessThan(1e-7);
    // On top of it the same edits say the same, their moments told in the result's time.
    const after = start().evaluate(stick.work(...above(0), trim)).result.clip;
    expect(differences(after, cut)).toEqual({ frames: [], joints: [], moved: false });
  });

  it("lets a patch that is put on at a frame of the result be found again at that frame, whichever side of the trim it is on", () => {
    const shown = 22;
    for (const patches of [
      [trim, patch("touchUp", {}, { id: "t" })],
      [patch("touchUp", {}, { id: "t" }), trim],
    ]) {
      const clocks = clocksOf(start().evaluate(stick.work(...patches.map((p) => (p.id === "t" ? { ...p, settings: { at: 0, edits: [], holds: [] } } : p)))));
      const moment = intoPatch(clocks, "t", at(shown));
      const made = patch(
        "touchUp",
        { at: moment, edits: [turn], holds: [] },
        { id: "t", range: { start: moment, end: moment }, rampIn: at(6), rampOut: at(6) },
      );
      const { base, result } = start().evaluate(stick.work(...patches.map((p) => (p.id === "t" ? made : p))));
      expect((rotationBetween(result.clip, shown, base.clip, shown + 12, arm) * 180) / Math.PI).toBeCloseTo(25, 3);
      for (const f of [shown - 6, shown + 6]) expect(rotationBetween(result.clip, f, base.clip, f + 12, arm)).toBe(0);
    }
  });
});
