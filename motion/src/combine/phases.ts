import type { Motion } from "../motion.ts";
import type { Beat } from "../time/beats.ts";
import { type Stand, standsOf } from "./standing.ts";

/** Two moments of a phase closer than this are told apart no more, frames. */
const LEAST_APART = 0.6;

/**
 * Beats that bring the feet of one motion onto those of another of the same body: its landings come where the other's are, and so do lifts, heels and toes as far as
 * they keep their order. Which landing is brought to which: those of the same leg, one after another, beginning with the one that lies nearest after
 * `shift` (seconds between the two motions' clocks). Empty where the two have not two landings of one leg in common.
 */
export function phaseBeats(other: Motion, below: Motion, shift: number): Beat[] {
  const { fps } = below.clip;
  const [theirs, ours] = [landings(other), landings(below)];
  const pairs = matched(theirs, ours, shift * fps);
  if (pairs.length < 2) return [];
  const beats: { from: number; to: number }[] = pairs.map(([o, b]) => ({ from: o.start, to: b.start }));
  beats.sort((a, b) => a.to - b.to);
  const add = (from: number, to: number) => {
    const at = beats.findIndex((beat) => beat.to > to);
    const [before, behind] = at < 0 ? [beats.at(-1), undefined] : [beats[at - 1], beats[at]];
    const clear = (beat: { from: number; to: number } | undefined, sign: number) =>
      !beat || (sign * (from - beat.from) >= LEAST_APART && sign * (to - beat.to) >= LEAST_APART);
    if (clear(before, 1) && clear(behind, -1)) beats.splice(at < 0 ? beats.length : at, 0, { from, to });
  };
  const [endOther, endBelow] = [other.clip.frameCount - 1, below.clip.frameCount - 1];
  for (const [o, b] of pairs) if (o.last < endOther && b.last < endBelow) add(o.last, b.last);
  for (const [o, b] of pairs)
    for (const point of o.points) {
      const twin = b.points.find((p) => p.id === point.id);
      if (!twin) continue;
      if (point.start > o.start && twin.start > b.start) add(point.start, twin.start);
      if (point.end < o.last && twin.end < b.last) add(point.end, twin.end);
    }
  return beats.map(({ from, to }) => ({ from: from / fps, to: to / fps }));
}

/** Stands that begin inside the motion: what stands on its first frame has not landed in it. */
function landings(motion: Motion): Stand[] {
  return standsOf(motion).filter((s) => s.start > 0);
}

/** Landings of either that belong together, in order. */
function matched(theirs: readonly Stand[], ours: readonly Stand[], shift: number): [Stand, Stand][] {
  if (theirs.length === 0 || ours.length === 0) return [];
  // The same sequence of legs in both, where there is one; else the leg that lands most often.
  for (const list of [null, mostFrequent(theirs, ours)]) {
    const [a, b] = [theirs, ours].map((stands) => (list === null ? stands : stands.filter((s) => s.end === list)));
    const best = bestRun(a, b, shift);
    if (best.length >= 2) return best;
  }
  return [];
}

function mostFrequent(theirs: readonly Stand[], ours: readonly Stand[]): number {
  const count = (end: number) => Math.min(theirs.filter((s) => s.end === end).length, ours.filter((s) => s.end === end).length);
  return [...new Set(ours.map((s) => s.end))].reduce((best, end) => (count(end) > count(best) ? end : best));
}

/** Of all ways to lay one sequence over the other that fit leg by leg, the one whose first landing lies nearest to where the shift has it. */
function bestRun(theirs: readonly Stand[], ours: readonly Stand[], shift: number): [Stand, Stand][] {
  let best: [Stand, Stand][] = [];
  let bestAway = Number.POSITIVE_INFINITY;
  for (let k = -ours.length + 1; k < theirs.length; k++) {
    const run = ours.flatMap((b, i): [Stand, Stand][] => (theirs[i + k] ? [[theirs[i + k], b]] : []));
    if (run.length < 2 || run.some(([o, b]) => o.end !== b.end)) continue;
    const away = Math.abs(run[0][0].start - run[0][1].start - shift);
    // One landing fewer costs as much as a second's shift: a good overlap matters more than the offset asked for.
    const cost = away - FEWER_COSTS * run.length;
    if (cost >= bestAway) continue;
    bestAway = cost;
    best = run;
  }
  return best;
}

/** Frames of shift that one more landing in common is worth. */
const FEWER_COSTS = 12;
