import { type Clip, flatTrack } from "../clip/clip.ts";
import { dotQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat, slerpQuatFlat } from "../math/quat.ts";
import { savitzkyGolay } from "./filters.ts";
import { median } from "./robust.ts";

/** One joint's rotations, sign-continuous, as a lane [frame][4] in doubles. */
export function rotationLane(clip: Clip, joint: number): Float64Array {
  const lane = flatTrack(clip.rotations[joint], 4);
  for (let f = 1; f < clip.frameCount; f++) if (dotQuatFlat(lane, f * 4, lane, f * 4 - 4) < 0) for (let i = 0; i < 4; i++) lane[f * 4 + i] *= -1;
  return lane;
}

/** Savitzky–Golay (quadratic, ±half frames) on a sign-continuous lane, renormalised; the window shrinks at the ends. In place. */
export function smoothLane(lane: Float64Array, frameCount: number, half: number, strength: number): void {
  const src = lane.slice();
  const q = new Float64Array(4);
  const windows = Array.from({ length: half + 1 }, (_, h) => savitzkyGolay(h, 0));
  for (let f = 0; f < frameCount; f++) {
    const h = Math.min(half, f, frameCount - 1 - f);
    const weights = windows[h];
    q.fill(0);
    for (let i = -h; i <= h; i++) for (let c = 0; c < 4; c++) q[c] += weights[i + h] * src[(f + i) * 4 + c];
    normalizeQuatFlat(q, 0);
    slerpQuatFlat(lane, f * 4, src, f * 4, q, 0, strength);
  }
}

/**
 * White noise of a rotation lane, radians a component (1 σ), or 0 where what looks like noise is movement. Read off the fourth and sixth
 * differences of the rotation (third and fifth of its turning between frames): for white noise they have variances 70 σ² and 924 σ²,
 * so both give the same σ; a quick movement at a low frame rate has far less in the sixth than its fourth would make of noise.
 */
export function laneNoise(lane: Float64Array, frameCount: number): number {
  if (frameCount < 16) return 0;
  let d = new Float64Array((frameCount - 1) * 3);
  const q = new Float64Array(4);
  for (let f = 0; f + 1 < frameCount; f++) {
    for (let i = 0; i < 4; i++) q[i] = i < 3 ? -lane[f * 4 + i] : lane[f * 4 + i];
    multiplyQuatFlat(q, 0, q, 0, lane, f * 4 + 4);
    logQuatFlat(d, f * 3, q, 0);
  }
  const difference = (times: number) => {
    for (let k = 0; k < times; k++) d = Float64Array.from({ length: d.length - 3 }, (_, i) => d[i + 3] - d[i]);
    return medianLength(d) / MEDIAN_LENGTH;
  };
  const fourth = difference(3) / Math.sqrt(70);
  const sixth = difference(2) / Math.sqrt(924);
  return sixth > 0.7 * fourth ? sixth : 0;
}

/** Median length of a vector of three independent standard normal components. */
const MEDIAN_LENGTH = 1.538;

function medianLength(vectors: Float64Array): number {
  return median(Float64Array.from({ length: vectors.length / 3 }, (_, f) => Math.hypot(vectors[f * 3], vectors[f * 3 + 1], vectors[f * 3 + 2])));
}
