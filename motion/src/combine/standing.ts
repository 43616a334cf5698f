import type { Motion } from "../motion.ts";
import { limbEnds } from "../plants/plants.ts";
import { standsOfEnd } from "../plants/stands.ts";

/** A stand of one leg's end: which of the bearing ends it is, and its frames; and those of each point in it. */
export interface Stand {
  readonly end: number;
  readonly start: number;
  readonly last: number;
  readonly points: readonly { readonly id: string; readonly start: number; readonly end: number }[];
}

/** Every stand of a body's legs, in the order in which they begin. */
export function standsOf(motion: Motion): Stand[] {
  return limbEnds(motion.character, motion.points)
    .filter((end) => end.bears)
    .flatMap((end, k) =>
      standsOfEnd(end, motion.contacts).map(
        (span): Stand => ({ end: k, start: span.start, last: span.end, points: span.contacts.map((c) => ({ id: c.point, start: c.start, end: c.end })) }),
      ),
    )
    .sort((a, b) => a.start - b.start);
}
