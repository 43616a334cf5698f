import { type Clip, ClipDraft } from "../clip/clip.ts";
import { conjugateQuatFlat, dotQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import { rotationLane } from "./smoothRotation.ts";

/** Least size of a spike, radians, and how much larger it must be than what the frames around show. */
const LEAST_SPIKE = (4 * Math.PI) / 180;
const OVER_AROUND = 3;
/** How far the neighbours may be from half the spike, as a share of it, and how much further where the course bends anyway; never so far that a kink (a landing, whose neighbours are off by nothing) would do. */
const HALF_WITHIN = 0.22;
const HALF_AT_MOST = 0.38;

/** How far frame f of a lane lies off the middle of its neighbours, as a rotation vector in the frame of that middle. */
function offMiddleVector(lane: Float64Array, f: number, out: Float64Array): void {
  const q = new Float64Array(4);
  for (let i = 0; i < 4; i++) q[i] = lane[f * 4 - 4 + i] + lane[f * 4 + 4 + i];
  normalizeQuatFlat(q, 0);
  conjugateQuatFlat(q, 0, q, 0);
  multiplyQuatFlat(q, 0, q, 0, lane, f * 4);
  logQuatFlat(out, 0, q, 0);
}

/**
 * Frames on which a sign-continuous lane [frame][4] leaps away and back: off the middle of its neighbours by s, while both neighbours are off
 * theirs by about −s/2, as only a fault of that one frame makes them. Two frames at either end are left alone.
 */
export function rotationSpikes(lane: Float64Array, frameCount: number): number[] {
  const offs = new Float64Array(frameCount * 3);
  const v = new Float64Array(3);
  for (let f = 1; f + 1 < frameCount; f++) {
    offMiddleVector(lane, f, v);
    offs.set(v, f * 3);
  }
  const size = (f: number) => Math.hypot(offs[f * 3], offs[f * 3 + 1], offs[f * 3 + 2]);
  const spikes: number[] = [];
  for (let f = 2; f + 2 < frameCount; f++) {
    const s = size(f);
    if (s < LEAST_SPIKE) continue;
    const around = [-4, -3, -2, 2, 3, 4].filter((d) => f + d >= 1 && f + d + 1 < frameCount).map((d) => size(f + d));
    const bend = around.length > 0 ? around.reduce((a, b) => a + b, 0) / around.length : 0;
    if (s < OVER_AROUND * bend) continue;
    const within = Math.min(HALF_AT_MOST * s, HALF_WITHIN * s + bend);
    const half = (g: number) => Math.hypot(...[0, 1, 2].map((i) => offs[g * 3 + i] + offs[f * 3 + i] / 2)) < within;
    if (!half(f - 1) || !half(f + 1)) continue;
    spikes.push(f);
  }
  return spikes;
}

/** The clip with one-frame spikes of some joints replaced by the cubic through two frames on either side; the very clip where there are none. */
export function withoutSpikes(clip: Clip, joints: Iterable<number>, weightAt: (frame: number) => number = () => 1): Clip {
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  const turn = new Float64Array(4);
  const v = new Float64Array(3);
  for (const joint of joints) {
    const lane = rotationLane(clip, joint);
    for (const f of rotationSpikes(lane, clip.frameCount)) {
      const weight = weightAt(f);
      if (weight === 0) continue;
      for (let i = 0; i < 4; i++) q[i] = (4 * (lane[f * 4 - 4 + i] + lane[f * 4 + 4 + i]) - lane[f * 4 - 8 + i] - lane[f * 4 + 8 + i]) / 6;
      normalizeQuatFlat(q, 0);
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
