import { type Clip, flatTrack } from "../clip/clip.ts";
import { dotQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat, slerpQuatFlat } from "../math/quat.ts";
import { runningMean, runningMin, savitzkyGolay } from "./filters.ts";
import { quantileMutable } from "./robust.ts";

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

/** What smoothing takes away may be this much more than the noise before it is taken for movement. */
const NO_MORE_THAN_NOISE = 1.8;
/** What it takes away on one frame is hardly like what it takes on the next, unless it is movement: inner products of both are at most so many variances of the noise. */
const ALIKE = 0.6;
/** Frames to either side over which that is judged, at least: fewer say too little. */
const JUDGED_OVER = 8;

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

/** Half-widths of windows from none to the widest, frames. */
function halvesTo(most: number): number[] {
  const halves = [0];
  for (let h = 1; h < most; h = Math.max(h + 1, Math.round(h * 1.4))) halves.push(h);
  halves.push(most);
  return halves;
}

/** Which of some windows each frame bears, as a course [frame] that goes smoothly from one to another: see `steadiedLane`. `taken(k)` is what the k-th takes away, [frame][3]. */
function bearable(halves: readonly number[], taken: (k: number) => Float64Array, noise: number, frameCount: number): Float64Array {
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

/** A course [frame][3] steadied as a lane is: `noise` metres along each axis (1 σ). */
export function steadiedCourse(course: Float64Array, frameCount: number, most: number, noise: number): Float64Array {
  const halves = halvesTo(most);
  const courses = halves.map((half) => (half > 0 ? smoothCourse(course, frameCount, half) : course));
  const width = bearable(halves, (k) => courses[k].map((v, i) => course[i] - v), noise, frameCount);
  return course.map((_, i) => {
    const low = Math.floor(width[Math.floor(i / 3)]);
    const share = width[Math.floor(i / 3)] - low;
    return courses[low][i] + share * (courses[Math.min(halves.length - 1, low + 1)][i] - courses[low][i]);
  });
}

/** Savitzky–Golay (quadratic, ±half frames) on a course [frame][3]; at the ends with the neighbours that there are. */
function smoothCourse(course: Float64Array, frameCount: number, half: number): Float64Array {
  const out = new Float64Array(course.length);
  const within = savitzkyGolay(half, half);
  for (let f = 0; f < frameCount; f++) {
    const before = Math.min(half, f);
    const after = Math.min(half, frameCount - 1 - f);
    const weights = before === half && after === half ? within : savitzkyGolay(before, after);
    for (let i = -before; i <= after; i++) for (let c = 0; c < 3; c++) out[f * 3 + c] += weights[i + before] * course[(f + i) * 3 + c];
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

/** Inner products of each frame's vector with the one so many frames on, [frame]; nothing where there is none. */
function products(vectors: Float64Array, frameCount: number, on: number): Float64Array {
  const out = new Float64Array(frameCount);
  for (let f = 0, a = 0, b = on * 3; f + on < frameCount; f++, a += 3, b += 3)
    out[f] = vectors[a] * vectors[b] + vectors[a + 1] * vectors[b + 1] + vectors[a + 2] * vectors[b + 2];
  return out;
}

/**
 * White noise of a rotation lane, radians a component (1 σ), or 0 where what looks like noise is movement. Read off the fourth and sixth
 * differences of the rotation (third and fifth of its turning between frames): for white noise they have variances 70 σ² and 924 σ²,
 * so both give the same σ; a quick movement at a low frame rate has far less in the sixth than its fourth would make of noise.
 */
export function laneNoise(lane: Float64Array, frameCount: number): number {
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

/** The same of a course [frame][3], metres along each axis. */
export function courseNoise(course: Float64Array): number {
  return course.length < 16 * 3 ? 0 : whiteNoise(course.slice(), 4);
}

/** From vectors [3] that are differenced so many times more to be the fourth ones. Overwrites them. */
function whiteNoise(d: Float64Array, more: number): number {
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
