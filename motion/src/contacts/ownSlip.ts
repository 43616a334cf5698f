import { solveSymmetricMutable } from "../math/solve.ts";
import { median } from "../signal/robust.ts";

/** At least so many frames show that a part slips. */
const LEAST_FRAMES = 3;
/** Frames at either end of a span that may not be of the stand, and at most so many seconds. */
const EDGE = 2;
const LONGEST_EDGE = 0.09;
/** A span ends at most so many seconds later than its contrast with the swing has it, if not two frames. */
const BEYOND = 0.03;
/** A part slips where its places are off a smooth course in time by at most this share of what they are off one place, and by more than so many metres for a leg of 0.9 m. */
const EXPLAINED = 0.3;
const LEAST_SLIP = 0.0006;
/** The course is a polynomial of such a degree at most, with so many frames for each. */
const DEGREES = 3;
const FRAMES_A_DEGREE = 3;
/** What slips is no slower at one end than this share of its speed at the other. */
const EVEN = 0.5;
/** Where it comes to the ground, or leaves, a part bends its way so many times as much as it mostly does in the inner part of its span. */
const BENDS = 6;
/** … but not for less than the first of these accelerations, m/s² for a leg of 0.9 m, nor for none up to the second: feet land and leave with more. */
const ACCELERATIONS = [2, 8] as const;

/**
 * The ends of a span within which a part slips on the ground of its own accord, its leg taking it along. It keeps no place there, but goes smoothly: the span ends where its way bends (second differences)
 * more than it does within, and by more than `tolerance`, metres; never beyond `bounds`. `track` is its course [frame][3], metres, with all taken out that takes every part along (`travelError`). Null where it keeps its
 * place, or does anything else.
 */
export function slipEnds(
  track: Float64Array,
  [a, b]: readonly [number, number],
  bounds: readonly [number, number],
  { tolerance, legLength, fps }: { readonly tolerance: number; readonly legLength: number; readonly fps: number },
): [number, number] | null {
  const edge = Math.min(Math.max(EDGE, Math.floor((b - a) / 4)), Math.max(EDGE, Math.round(LONGEST_EDGE * fps)), Math.floor((b - a + 1 - LEAST_FRAMES) / 2));
  const [from, to] = [a + edge, b - edge];
  const count = to - from + 1;
  if (edge < 1) return null;
  // What the clip's ends cut may be coming to rest, or leaving.
  if ((a === 0 || b === track.length / 3 - 1) && !even(track, from, to)) return null;
  const still = offCourse(track, from, to, 0);
  if (!(still >= LEAST_SLIP * (legLength / 0.9))) return null;
  const degree = Math.min(DEGREES, Math.max(1, Math.floor(count / FRAMES_A_DEGREE)));
  if (!(offCourse(track, from, to, degree) <= EXPLAINED * still)) return null;
  const bend = (f: number) => Math.hypot(...[0, 1, 2].map((i) => track[(f - 1) * 3 + i] - 2 * track[f * 3 + i] + track[(f + 1) * 3 + i]));
  const usual = median(Array.from({ length: count - 2 }, (_, i) => bend(from + 1 + i)));
  const [least, most] = ACCELERATIONS.map((v) => (v * (legLength / 0.9)) / fps ** 2);
  const limit = Math.max(tolerance, least, Math.min(most, BENDS * usual));
  // What was found may reach into the swing by more than its edges.
  const beyond = Math.max(EDGE, Math.round(BEYOND * fps));
  let [start, end] = [(from + to) >> 1, (from + to + 1) >> 1];
  while (start > Math.max(bounds[0], a - beyond) && bend(start) <= limit) start--;
  while (end < Math.min(bounds[1], b + beyond) && bend(end) <= limit) end++;
  return [start, end];
}

/** Does a part go as fast at one end of some frames as at the other, as what slips does? */
function even(track: Float64Array, from: number, to: number): boolean {
  const quarter = Math.max(1, (to - from) >> 2);
  const [early, late] = [from, to - quarter].map((f) => Math.hypot(...[0, 2].map((i) => track[(f + quarter) * 3 + i] - track[f * 3 + i])));
  return Math.min(early, late) >= EVEN * Math.max(early, late);
}

/** How far a part is off the polynomials in time that its level places on frames `from` to `to` follow best: root of the mean square, metres; NaN where there are none. */
function offCourse(track: Float64Array, from: number, to: number, degree: number): number {
  const size = degree + 1;
  const times = Float64Array.from({ length: to - from + 1 }, (_, i) => (2 * i) / (to - from) - 1);
  let square = 0;
  for (const axis of [0, 2]) {
    const normal = new Float64Array(size * size);
    const sums = new Float64Array(size);
    times.forEach((t, i) => {
      for (let p = 0; p < size; p++) {
        sums[p] += t ** p * track[(from + i) * 3 + axis];
        for (let q = 0; q < size; q++) normal[p * size + q] += t ** (p + q);
      }
    });
    if (!solveSymmetricMutable(normal, sums, size)) return Number.NaN;
    times.forEach((t, i) => {
      square += (track[(from + i) * 3 + axis] - sums.reduceRight((value, c) => value * t + c, 0)) ** 2;
    });
  }
  return Math.sqrt(square / times.length);
}
