import { type Clip, ClipDraft, readRotation, type Track } from "../clip/clip.ts";
import { conjugateQuatFlat, dotQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import { popSpikes } from "./pops.ts";
import { rotationLane } from "./smoothRotation.ts";

/** Least size of a spike, radians. */
const LEAST_SPIKE = (4 * Math.PI) / 180;

/** Spikes of a track, found once: tracks are never changed. */
const KNOWN = new WeakMap<Track, readonly number[]>();

/** The frames on which a joint leaps away for one frame and back, seen beside the quieter of the two sides. */
export function spikesOf(clip: Clip, joint: number): readonly number[] {
  const track = clip.rotations[joint];
  const known = KNOWN.get(track) ?? popSpikes(rotationLane(clip, joint), clip.frameCount, LEAST_SPIKE, "quieter");
  KNOWN.set(track, known);
  return known;
}

/** Writes what a joint's rotation would be on a frame by the cubic through two frames on either side; where these are not there, midway between its neighbours. */
export function rotationBetween(clip: Clip, joint: number, f: number, dst: Float64Array): void {
  const near = new Float64Array(4);
  const wide = f >= 2 && f < clip.frameCount - 2;
  dst.fill(0);
  const first = new Float64Array(4);
  readRotation(clip, joint, f - 1, first, 0);
  for (const [k, weight] of wide ? CUBIC : MIDWAY) {
    readRotation(clip, joint, f + k, near, 0);
    const sign = dotQuatFlat(near, 0, first, 0) < 0 ? -weight : weight;
    for (let i = 0; i < 4; i++) dst[i] += sign * near[i];
  }
  normalizeQuatFlat(dst, 0);
}

export const CUBIC = [
  [-2, -1 / 6],
  [-1, 4 / 6],
  [1, 4 / 6],
  [2, -1 / 6],
] as const;
const MIDWAY = [
  [-1, 0.5],
  [1, 0.5],
] as const;

/** The clip with one-frame `spikes` of joints replaced by the cubic through two frames on either side; the very clip where there are none. */
export function withoutSpikes(clip: Clip, spikes: ReadonlyMap<number, readonly number[]>, weightAt: (frame: number) => number = () => 1): Clip {
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  const turn = new Float64Array(4);
  const v = new Float64Array(3);
  for (const [joint, frames] of spikes) {
    if (frames.length === 0) continue;
    const lane = rotationLane(clip, joint);
    for (const f of frames) {
      const weight = weightAt(f);
      if (weight === 0) continue;
      rotationBetween(clip, joint, f, q);
      if (dotQuatFlat(q, 0, lane, f * 4) < 0) for (let i = 0; i < 4; i++) q[i] *= -1;
      if (weight < 1) {
        // As far towards it as the weight says.
        conjugateQuatFlat(turn, 0, lane, f * 4);
        multiplyQuatFlat(turn, 0, turn, 0, q, 0);
        logQuatFlat(v, 0, turn, 0);
        for (let i = 0; i < 3; i++) v[i] *= weight;
        expQuatFlat(turn, 0, v, 0);
        multiplyQuatFlat(q, 0, lane, f * 4, turn, 0);
      }
      draft.setRotation(joint, f, q);
    }
  }
  return draft.done();
}
