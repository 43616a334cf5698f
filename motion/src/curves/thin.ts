import { boneLength, type Skeleton } from "../skeleton/skeleton.ts";
import { hermite, type Key } from "./keys.ts";

/** Longest segment that is tried, frames: keeps the cost linear in frames. */
const LONGEST_SEGMENT = 180;

/** Slope of dense samples at each of them, per sample: central differences, one-sided at the ends. */
export function sampleSlopes(samples: ArrayLike<number>): Float64Array {
  const n = samples.length;
  return Float64Array.from({ length: n }, (_, i) => {
    const a = Math.max(0, i - 1);
    const b = Math.min(n - 1, i + 1);
    return b > a ? (samples[b] - samples[a]) / (b - a) : 0;
  });
}

/**
 * The fewest keys out of dense samples (`fps` a second, the first of frame `firstFrame`) whose curve stays within `tolerance` of every sample.
 * Keys carry the samples' own values and slopes, so whether a segment fits depends on its two ends alone, and the shortest path over
 * the fitting segments is the true minimum (among segments of up to 180 frames). Cost: frames × 180 × the frames until a misfit shows.
 */
export function thinSamples(samples: ArrayLike<number>, fps: number, firstFrame: number, tolerance: number): Key[] {
  const n = samples.length;
  const slopes = sampleSlopes(samples);
  const count = new Int32Array(n).fill(1 << 30);
  const from = new Int32Array(n).fill(-1);
  count[0] = 1;
  for (let i = 0; i < n - 1; i++) {
    for (let j = Math.min(n - 1, i + LONGEST_SEGMENT); j > i; j--) {
      if (count[i] + 1 < count[j] && segmentFits(samples, slopes, i, j, tolerance)) {
        count[j] = count[i] + 1;
        from[j] = i;
      }
    }
  }
  const keys: Key[] = [];
  for (let i = n - 1; i >= 0; i = from[i])
    keys.push({ at: (firstFrame + i) / fps, value: samples[i], tangent: "free", slopeIn: slopes[i] * fps, slopeOut: slopes[i] * fps });
  return keys.reverse();
}

/** Does the Hermite segment between two samples stay within the tolerance of all between? Looks from the middle outwards, where misfits are likeliest. */
export function segmentFits(samples: ArrayLike<number>, slopes: ArrayLike<number>, i: number, j: number, tolerance: number): boolean {
  const d = j - i;
  const fits = (k: number) => Math.abs(hermite(samples[i], slopes[i], samples[j], slopes[j], d, (k - i) / d) - samples[k]) <= tolerance;
  const middle = (i + j) >> 1;
  for (let step = 0; middle - step > i || middle + step < j; step++) {
    if (middle - step > i && !fits(middle - step)) return false;
    if (middle + step < j && !fits(middle + step)) return false;
  }
  return true;
}

/**
 * The angle, degrees, by which a joint may be off about one axis so that nothing below it is off by more than `centimetres`: a point at
 * distance r moves by at most r times the angle, and nothing is farther away than the bones on the way to it are long.
 */
export function degreesWithin(skeleton: Skeleton, joint: number, centimetres: number): number {
  const reach = new Float64Array(skeleton.names.length);
  for (const tip of skeleton.tips) reach[tip.joint] = Math.max(reach[tip.joint], Math.hypot(...tip.offset));
  for (let j = skeleton.names.length - 1; j > joint; j--) {
    const parent = skeleton.parents[j];
    if (parent >= 0) reach[parent] = Math.max(reach[parent], reach[j] + boneLength(skeleton, j));
  }
  return ((centimetres / 100 / Math.max(1e-3, reach[joint])) * 180) / Math.PI;
}
