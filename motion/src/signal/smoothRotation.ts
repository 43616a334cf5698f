import { type Clip, flatTrack } from "../clip/clip.ts";
import { dotQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat, slerpQuatFlat } from "../math/quat.ts";
import { bearable, halvesTo, whiteNoise } from "./bearable.ts";
import { savitzkyGolay } from "./filters.ts";
import { framesOf, newFrames } from "./holds.ts";

/** One joint's rotations, sign-continuous, as a lane [frame][4] in doubles. */
export function rotationLane(clip: Clip, joint: number): Float64Array {
  const lane = flatTrack(clip.rotations[joint], 4);
  for (let f = 1; f < clip.frameCount; f++) if (dotQuatFlat(lane, f * 4, lane, f * 4 - 4) < 0) for (let i = 0; i < 4; i++) lane[f * 4 + i] *= -1;
  return lane;
}

/** Savitzky–Golay (quadratic, ±half frames) on a sign-continuous lane, renormalised; at the ends with the neighbours that there are. In place. */
export function smoothLane(lane: Float64Array, frameCount: number, half: number, strength: number): void {
  const src = lane.slice();
  const q = new Float64Array(4);
  const within = savitzkyGolay(half, half);
  for (let f = 0; f < frameCount; f++) {
    const before = Math.min(half, f);
    const after = Math.min(half, frameCount - 1 - f);
    const weights = before === half && after === half ? within : savitzkyGolay(before, after);
    q.fill(0);
    for (let i = -before; i <= after; i++) for (let c = 0; c < 4; c++) q[c] += weights[i + before] * src[(f + i) * 4 + c];
    normalizeQuatFlat(q, 0);
    slerpQuatFlat(lane, f * 4, src, f * 4, q, 0, strength);
  }
}

/**
 * A lane smoothed as widely (up to ±`most` frames) as its noise asks for, and more narrowly where that would take more than noise away: of ever
 * narrower windows the first is taken whose residual, over a few frames, is no larger than `noise` (radians a component, 1 σ) explains, and as unlike from
 * frame to frame as noise is: by its size alone a few frames of larger noise would pass for movement.
 */
export function steadiedLane(lane: Float64Array, frameCount: number, most: number, noise: number): Float64Array {
  const halves = halvesTo(most);
  const lanes = halves.map((half) => {
    const smooth = lane.slice();
    if (half > 0) smoothLane(smooth, frameCount, half, 1);
    return smooth;
  });
  const width = bearable(halves, (k) => residuals(lanes[k], lane, frameCount), noise, frameCount);
  const out = new Float64Array(frameCount * 4);
  for (let f = 0; f < frameCount; f++) {
    const low = Math.floor(width[f]);
    slerpQuatFlat(out, f * 4, lanes[low], f * 4, lanes[Math.min(halves.length - 1, low + 1)], f * 4, width[f] - low);
  }
  return out;
}

/** What a smoothing takes away, as rotation vectors [frame][3], radians: small ones, whose half angles are their sines. */
function residuals(smooth: Float64Array, lane: Float64Array, frameCount: number): Float64Array {
  const out = new Float64Array(frameCount * 3);
  for (let f = 0, o = 0; f < frameCount; f++, o += 4) {
    const [ax, ay, az, aw] = [-smooth[o], -smooth[o + 1], -smooth[o + 2], smooth[o + 3]];
    const [bx, by, bz, bw] = [lane[o], lane[o + 1], lane[o + 2], lane[o + 3]];
    const twice = aw * bw - ax * bx - ay * by - az * bz < 0 ? -2 : 2;
    out[f * 3] = twice * (aw * bx + ax * bw + ay * bz - az * by);
    out[f * 3 + 1] = twice * (aw * by - ax * bz + ay * bw + az * bx);
    out[f * 3 + 2] = twice * (aw * bz + ax * by - ay * bx + az * bw);
  }
  return out;
}

/**
 * White noise of a rotation lane, radians a component (1 σ), or 0 where what looks like noise is movement. Read off the fourth and sixth
 * differences of the rotation (third and fifth of its turning between frames): for white noise they have variances 70 σ² and 924 σ²,
 * so both give the same σ; a quick movement at a low frame rate has far less in the sixth than its fourth would make of noise. Frames that repeat the one before
 * where it goes by steps are left out.
 */
export function laneNoise(all: Float64Array, count: number): number {
  const kept = newFrames(all, 4);
  const [lane, frameCount] = kept ? [framesOf(all, 4, kept), kept.length] : [all, count];
  if (frameCount < 16) return 0;
  const d = new Float64Array((frameCount - 1) * 3);
  const q = new Float64Array(4);
  for (let f = 0; f + 1 < frameCount; f++) {
    for (let i = 0; i < 4; i++) q[i] = i < 3 ? -lane[f * 4 + i] : lane[f * 4 + i];
    multiplyQuatFlat(q, 0, q, 0, lane, f * 4 + 4);
    logQuatFlat(d, f * 3, q, 0);
  }
  return whiteNoise(d, 3);
}
