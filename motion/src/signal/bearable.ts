import { runningMean, runningMin } from "./filters.ts";
import { quantileMutable } from "./robust.ts";

/** What smoothing takes away may be this much more than the noise before it is taken for movement. */
const NO_MORE_THAN_NOISE = 1.8;
/** What it takes away on one frame is hardly like what it takes on the next, unless it is movement: inner products of both are at most so many variances of the noise. */
const ALIKE = 0.6;
/** Frames to either side over which that is judged, at least: fewer say too little. */
const JUDGED_OVER = 8;

/** Half-widths of windows from none to the widest, frames. */
export function halvesTo(most: number): number[] {
  const halves = [0];
  for (let h = 1; h < most; h = Math.max(h + 1, Math.round(h * 1.4))) halves.push(h);
  halves.push(most);
  return halves;
}

/** Which of some windows each frame bears, as a course [frame] that goes smoothly from one to another: see `steadiedLane`. `taken(k)` is what the k-th takes away, [frame][3]. */
export function bearable(halves: readonly number[], taken: (k: number) => Float64Array, noise: number, frameCount: number): Float64Array {
  const limit = 3 * (NO_MORE_THAN_NOISE * noise) ** 2;
  const level = new Float64Array(frameCount);
  for (let k = 1; k < halves.length; k++) {
    const vectors = taken(k);
    const over = Math.max(JUDGED_OVER, halves[k]);
    const size = runningMean(products(vectors, frameCount, 0), over);
    const alike = runningMean(products(vectors, frameCount, 1), over);
    for (let f = 0; f < frameCount; f++) if (size[f] <= limit && alike[f] <= ALIKE * noise * noise) level[f] = k;
  }
  // No window reaches into frames that ask for a narrower one; from width to width it goes over smoothly.
  const half = Math.max(1, halves[halves.length - 1] >> 1);
  return runningMean(runningMin(level, half), half);
}

/** Inner products of each frame's vector with the one so many frames on, [frame]; nothing where there is none. */
function products(vectors: Float64Array, frameCount: number, on: number): Float64Array {
  const out = new Float64Array(frameCount);
  for (let f = 0, a = 0, b = on * 3; f + on < frameCount; f++, a += 3, b += 3)
    out[f] = vectors[a] * vectors[b] + vectors[a + 1] * vectors[b + 1] + vectors[a + 2] * vectors[b + 2];
  return out;
}

/**
 * White noise along each axis (1 σ) of what vectors [3] are differences of, `more` differences from the fourth: read off the fourth and sixth ones (variances 70 σ² and
 * 924 σ²), and 0 where those do not agree, since movement has far less in the sixth. Overwrites the vectors.
 */
export function whiteNoise(d: Float64Array, more: number): number {
  let length = d.length;
  const difference = (times: number) => {
    for (let k = 0; k < times; k++) {
      length -= 3;
      for (let i = 0; i < length; i++) d[i] = d[i + 3] - d[i];
    }
    return medianLength(d.subarray(0, length)) / MEDIAN_LENGTH;
  };
  const fourth = difference(more) / Math.sqrt(70);
  const sixth = difference(2) / Math.sqrt(924);
  return sixth > 0.7 * fourth ? sixth : 0;
}

/** Median length of a vector of three independent standard normal components. */
const MEDIAN_LENGTH = 1.538;

function medianLength(vectors: Float64Array): number {
  const lengths = new Float64Array(vectors.length / 3);
  for (let f = 0, i = 0; f < lengths.length; f++, i += 3) lengths[f] = Math.sqrt(vectors[i] ** 2 + vectors[i + 1] ** 2 + vectors[i + 2] ** 2);
  return quantileMutable(lengths, 0.5);
}
