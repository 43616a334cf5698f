import { median } from "../signal/robust.ts";
import { plainAway, restlessness } from "./segment.ts";

/** A part that keeps as still as a file tells places has left from so many metres on for a leg of 0.9 m, or from so many deviations of what it stirs by. */
const TOLERANCE = 0.000005;
const SIGMAS = 12;
/** … in the inner half of stands of so many frames; fewer tell little of what they stir by, and of fewer still what has been taken out of a course may be all of it. */
const FRAMES = 8;
const FEW_SIGMAS = 60;
const FEWEST = 6;

/** … where stands stir by more than this share of what the least still may, what has been taken out is off at their ends as well. */
const WELL_PUT = 0.2;
/** A span on which a part stirs by more than so many times what it has left at is none that it keeps still in. */
const OWN = 3;

/** The first of some courses of a part on which it keeps still exactly, [frame][3] metres, and from how far off it has left there, metres. */
export interface ExactCourse {
  readonly course: Float64Array;
  readonly within: number;
}

/** How far off a part leaves its place, by what it stirs by in the inner half of a span. */
const leavesAt = (course: Float64Array, span: readonly [number, number], sigmas: number) => sigmas * restlessness(course, span, plainAway(course, 0));

/**
 * What keeps still exactly shows exactly when it comes and goes: the course of a part as it came (`raw`), if it keeps so still in its spans, or the first of those with something taken out (`put`) on which
 * it does, where stands are not of a few frames. `most` is from how far off a part has left that keeps less still, metres. Null where it does on none.
 */
export function exactCourse(
  spans: readonly (readonly [number, number])[],
  { raw, put, legLength, most }: { readonly raw: Float64Array; readonly put: readonly Float64Array[]; readonly legLength: number; readonly most: number },
): ExactCourse | null {
  if (spans.length === 0) return null;
  const frames = median(spans.map(([a, b]) => b - a + 1));
  for (const course of frames >= FEWEST ? [raw, ...put] : [raw]) {
    const sigmas = course === raw || frames >= FRAMES ? SIGMAS : FEW_SIGMAS;
    const within = Math.max(TOLERANCE * (legLength / 0.9), median(spans.map((span) => leavesAt(course, span, sigmas))));
    if (within < (course === raw ? most : WELL_PUT * most)) return { course, within };
  }
  return null;
}

/** Does it keep so still in one span, too? A foot may slip in some of its stands. */
export function exactIn({ course, within }: ExactCourse, span: readonly [number, number]): boolean {
  return leavesAt(course, span, SIGMAS) <= OWN * within;
}
