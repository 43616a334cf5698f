import fc from "fast-check";
import { AnimationClip, AnimationMixer, AnimationUtils, Object3D, QuaternionKeyframeTrack } from "three";
import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { addedBehind, averagePose, blendedOver, poseOn } from "./blend.ts";

const FRAMES = 6;
const fromNumbers = (values: readonly number[]): Clip => {
  const draft = ClipDraft.make("test", 30, FRAMES, 1, Int16Array.of(0));
  for (let f = 0; f < FRAMES; f++) {
    const q = values.slice(f * 4, f * 4 + 4);
    const n = Math.hypot(...q);
    draft.setRotation(
      0,
      f,
      q.map((v) => v / n),
    );
  }
  return draft.done();
};
const clips = fc.array(fc.double({ min: 0.1, max: 1, noNaN: true }), { minLength: FRAMES * 4, maxLength: FRAMES * 4 }).map(fromNumbers);
const read = (clip: Clip, frame: number) => {
  const q = [0, 0, 0, 0];
  readRotation(clip, 0, frame, q, 0);
  return q;
};
const ALL = { joints: [0], slots: [] };

/** What three.js's mixer makes of two clips on one joint at a frame. */
function three(below: Clip, other: Clip, additive: boolean, weight: number, frame: number): number[] {
  const root = new Object3D();
  const joint = new Object3D();
  joint.name = "joint";
  root.add(joint);
  const mixer = new AnimationMixer(root);
  const track = (clip: Clip) =>
    new QuaternionKeyframeTrack(
      "joint.quaternion",
      Array.from({ length: FRAMES }, (_, f) => f / 30),
      Array.from({ length: FRAMES }, (_, f) => read(clip, f)).flat(),
    );
  const [under, over] = [below, other].map((clip, i) => new AnimationClip(`${i}`, -1, [track(clip)]));
  if (additive) AnimationUtils.makeClipAdditive(over, 0, over, 30);
  const [one, two] = [under, over].map((clip) => mixer.clipAction(clip).play());
  one.setEffectiveWeight(additive ? 1 : 1 - weight);
  two.setEffectiveWeight(weight);
  mixer.setTime(frame / 30);
  return joint.quaternion.toArray();
}

describe("plain blends", () => {
  it("are those of three.js's mixer: the shortest turn by weight, and additive clips behind what is below", () => {
    fc.assert(
      fc.property(clips, clips, fc.double({ min: 0.05, max: 0.95, noNaN: true }), (below, other, weight) => {
        const weights = new Float64Array(FRAMES).fill(weight);
        const over = blendedOver(below, other, weights, ALL);
        const added = addedBehind(below, other, poseOn(other, 0), weights, ALL, null);
        for (const f of [0, 2, 4]) {
          expect(quatAngleFlat(read(over, f), 0, three(below, other, false, weight, f), 0)).toBeLessThan(2e-6);
          expect(quatAngleFlat(read(added, f), 0, three(below, other, true, weight, f), 0)).toBeLessThan(2e-6);
        }
      }),
      { numRuns: 60 },
    );
  });

  it("keep the bits of either at no and at full weight", () => {
    fc.assert(
      fc.property(clips, clips, (below, other) => {
        const mixed = blendedOver(below, other, Float64Array.of(0, 1, 0, 1, 0.5, 1), ALL);
        for (const f of [0, 2]) expect(read(mixed, f)).toEqual(read(below, f));
        for (const f of [1, 3, 5]) expect(read(mixed, f)).toEqual(read(other, f));
      }),
    );
  });

  it("add nothing where the other clip stands in its own average, whichever way its numbers are signed", () => {
    const q = [0.1, 0.2, 0.3, Math.sqrt(1 - 0.14)];
    const still = fromNumbers(Array.from({ length: FRAMES }, (_, f) => q.map((v) => (f % 2 === 0 ? v : -v))).flat());
    const below = fromNumbers(Array.from({ length: FRAMES * 4 }, (_, i) => 0.2 + ((i * 7) % 5) / 5));
    const added = addedBehind(below, still, averagePose(still, 0, FRAMES - 1), new Float64Array(FRAMES).fill(1), ALL, null);
    for (let f = 0; f < FRAMES; f++) expect(quatAngleFlat(read(added, f), 0, read(below, f), 0)).toBeLessThan(1e-6);
  });
});
