import { bearable, halvesTo, whiteNoise } from "./bearable.ts";
import { savitzkyGolay } from "./filters.ts";
import { framesOf, newFrames } from "./holds.ts";

/** White noise of a course [frame][3], metres along each axis (1 σ), or 0 where what looks like noise is movement: see `whiteNoise`, and `newFrames`. */
export function courseNoise(course: Float64Array): number {
  const kept = newFrames(course, 3);
  const shown = kept ? framesOf(course, 3, kept) : course.slice();
  return shown.length < 16 * 3 ? 0 : whiteNoise(shown, 4);
}

/** A course [frame][3] smoothed as far as it bears it (see `bearable`): `noise` metres along each axis (1 σ). */
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
