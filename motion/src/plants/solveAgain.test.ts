import { describe, expect, it } from "vitest";
import { changedFrames } from "../clip/changes.ts";
import { type Clip, flatTrack } from "../clip/clip.ts";
import { makeContactEdit } from "../contacts/contact.ts";
import type { Patch } from "../documents/patch.ts";
import { DEFAULT_RECIPE, type Work } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { readBvh } from "../formats/bvh/read.ts";
import { previewFrame } from "../preview.ts";
import { oneSource } from "../sources.ts";
import { at, named, patch, stick } from "../testing/patched.ts";
import { skatingBody } from "../testing/skatingBody.ts";

const file = readBvh(new TextEncoder().encode(skatingBody(600)), { fileName: "skating.bvh" });
const start = () => new Evaluator(oneSource(file.skeleton, file.clip));
const [, plant] = DEFAULT_RECIPE.patches;
const work = (settings: Record<string, unknown>, ...above: Patch[]): Work => ({
  ...stick.work(DEFAULT_RECIPE.patches[0], { ...plant, settings: { ...plant.settings, ...settings } }, ...above),
});

/** Largest difference of a frame of one clip from the only frame of another. */
function frameApart(clip: Clip, f: number, single: Clip): number {
  let most = 0;
  clip.rotations.forEach((track, j) => {
    const [a, b] = [flatTrack(track, 4), flatTrack(single.rotations[j], 4)];
    for (let i = 0; i < 4; i++) most = Math.max(most, Math.abs(a[f * 4 + i] - b[i]));
  });
  const [a, b] = [flatTrack(clip.positions[0], 3), flatTrack(single.positions[0], 3)];
  for (let i = 0; i < 3; i++) most = Math.max(most, Math.abs(a[f * 3 + i] - b[i]));
  return most;
}

const FRAMES = [0, 7, 100, 213, 300, 431, 599];

describe("a plant solved on a stretch alone", () => {
  it("shows a frame of a plant whose hips, knees and ramps change as the whole then shows it", () => {
    const evaluator = start();
    const before = evaluator.evaluate(work({}));
    for (const settings of [{ hipsMayDropCm: 0 }, { softKneeDegrees: 150 }, { landingRamp: at(12), liftRamp: at(2) }]) {
      const whole = start().evaluate(work(settings)).result.clip;
      let moved = 0;
      for (const f of FRAMES) {
        const shown = previewFrame(before, work(settings), f);
        if (!shown) throw new Error(`no preview of ${JSON.stringify(settings)} at ${f}`);
        expect(frameApart(whole, f, shown.clip), `${JSON.stringify(settings)} at ${f}`).toBeLessThan(2e-6);
        moved = Math.max(moved, frameApart(before.result.clip, f, shown.clip));
      }
      // Each of them does something on one of these frames.
      expect(moved).toBeGreaterThan(1e-4);
    }
  });

  it("shows it through patches above, as near as what they did before tells", () => {
    const above = patch("touchUp", {
      at: at(213),
      edits: [{ op: "turn", parts: named("LeftArm"), space: "own", degrees: [20, 0, 0], shared: false, pivot: null }],
      holds: [],
    });
    const before = start().evaluate(work({}, above));
    const shown = previewFrame(before, work({ hipsMayDropCm: 0 }, above), 213);
    const whole = start().evaluate(work({ hipsMayDropCm: 0 }, above)).result.clip;
    expect(shown && frameApart(whole, 213, shown.clip)).toBeLessThan(1e-4);
  });

  it("says that it cannot where the whole has to be read anew", () => {
    const before = start().evaluate(work({}));
    for (const settings of [{ travelStrength: 0.5 }, { rests: "first" }, { steadyLegs: 0.2 }, { layFlat: 1 }])
      expect(previewFrame(before, work(settings), 100), JSON.stringify(settings)).toBeNull();
    const shorter = work({ hipsMayDropCm: 0 });
    const ranged = { ...shorter, patches: shorter.patches.map((p) => (p.kind === "plant" ? { ...p, range: { start: at(50), end: at(300) } } : p)) };
    expect(previewFrame(before, ranged, 100)).toBeNull();
    const edited = { ...shorter, contacts: [makeContactEdit({ id: "c", point: "leftToe", kind: "none", start: 0, end: 1 })] };
    expect(previewFrame(before, edited, 100)).toBeNull();
  });
});

describe("plants solved last", () => {
  const arm = (frame: number, joint: string): Patch =>
    patch(
      "touchUp",
      { at: at(frame), edits: [{ op: "turn", parts: named(joint), space: "own", degrees: [15, 0, 10], shared: false, pivot: null }], holds: [] },
      { id: `${joint}${frame}`, range: { start: at(frame - 3), end: at(frame + 3) }, rampIn: at(6), rampOut: at(6) },
    );

  it("hold the feet under a patch above on its stretch alone, to the bits elsewhere", () => {
    const evaluator = start();
    const plain = evaluator.evaluate(work({})).result.clip;
    const all = plain.rotations.map((_, j) => j);
    const live = evaluator.evaluate(work({}, arm(300, "Hips"))).result.clip;
    const loose = start().evaluate({ ...work({}, arm(300, "Hips")), livePlant: false }).result.clip;
    const legs = named("LeftUpLeg", "RightUpLeg").flatMap((p) => ("joint" in p ? [file.skeleton.names.indexOf(p.joint)] : []));
    const frames = (a: Clip, b: Clip, joints: readonly number[]) => [...changedFrames(a, b, joints)].flatMap((v, f) => (v ? [f] : []));
    // The legs answer where the hips turned, and nothing else moves.
    expect(frames(live, loose, legs).length).toBeGreaterThan(5);
    for (const f of frames(live, plain, all)) expect(Math.abs(f - 300)).toBeLessThan(70);
  });
});
