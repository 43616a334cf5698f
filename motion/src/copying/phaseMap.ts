import { standsOf } from "../combine/standing.ts";
import type { Motion } from "../motion.ts";

/** Moments of one motion as moments of another that are in the same phase of its steps. */
export interface PhaseMap {
  /** seconds of the one → seconds of the other, never backwards */
  readonly at: (moment: number) => number;
  /** how many footfalls of the two were laid on each other; 0: none, and moments stay as they are */
  readonly footfalls: number;
}

/** A moment of either motion that is the same event of a step, seconds. */
interface Pair {
  readonly from: number;
  readonly to: number;
}

/** Events closer than this are told apart no more, seconds. */
const LEAST_APART = 0.015;
/** One footfall more that is in both is worth as much as this of shift, seconds. */
const FOOTFALL_WORTH = 0.25;

/**
 * Brings moments between two motions by their steps. The footfalls (a leg's stands, in order) of one are laid on those of the other so that every
 * pair is of the same leg, as many as there can be of those that `window` (seconds of `from`) lies among, and as near in time; between these events
 * moments go evenly, before the first and behind the last at the pace of the steps beside them. Where the order of legs never agrees, the leg that steps most often alone.
 */
export function phaseMap(from: Motion, to: Motion, window: readonly [number, number]): PhaseMap {
  const [theirs, ours] = [eventsOf(from), eventsOf(to)];
  const best = bestLay(theirs, ours, window) ?? bestLay(ofBusiest(theirs, ours), ofBusiest(ours, theirs), window);
  if (!best) return { at: (moment) => moment, footfalls: 0 };
  const pairs = pairsOf(best);
  const pace = paceOf(pairs);
  return {
    footfalls: best.length,
    at(moment) {
      const after = pairs.findIndex((p) => p.from > moment);
      if (after === 0) return pairs[0].to - pace * (pairs[0].from - moment);
      if (after < 0) {
        const last = pairs[pairs.length - 1];
        return last.to + pace * (moment - last.from);
      }
      const [a, b] = [pairs[after - 1], pairs[after]];
      return a.to + ((moment - a.from) / (b.from - a.from)) * (b.to - a.to);
    },
  };
}

/** A stand's events, seconds, by their name; without those in which the motion begins or ends. */
interface Steps {
  readonly leg: number;
  readonly start: number;
  readonly end: number;
  readonly events: Readonly<Record<string, number>>;
}

function eventsOf(motion: Motion): Steps[] {
  const { fps, frameCount } = motion.clip;
  return standsOf(motion).map((stand): Steps => {
    const events: Record<string, number> = {};
    const add = (name: string, frame: number) => {
      if (frame > 0 && frame < frameCount - 1) events[name] = frame / fps;
    };
    add(LANDS, stand.start);
    add(LEAVES, stand.last);
    for (const { id, start, end } of stand.points) {
      add(`${id} down`, start);
      add(`${id} up`, end);
    }
    return { leg: stand.end, start: stand.start / fps, end: stand.last / fps, events };
  });
}

const LANDS = "lands";
const LEAVES = "leaves";
/** Landings before anything else: from a walk to a run the order of the rest changes. */
const rankOf = (event: string) => (event === LANDS ? 0 : event === LEAVES ? 1 : 2);

function ofBusiest(steps: readonly Steps[], others: readonly Steps[]): Steps[] {
  const count = (leg: number) => Math.min(...[steps, others].map((list) => list.filter((s) => s.leg === leg).length));
  const busiest = [...new Set(steps.map((s) => s.leg))].sort((a, b) => count(b) - count(a) || a - b)[0];
  return steps.filter((s) => s.leg === busiest);
}

/** Of all ways to lay one sequence of stands on the other that agree leg by leg, the best for a window. */
function bestLay(theirs: readonly Steps[], ours: readonly Steps[], [start, end]: readonly [number, number]): [Steps, Steps][] | null {
  let best: [Steps, Steps][] | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (let k = 1 - ours.length; k < theirs.length; k++) {
    const lay = ours.flatMap((b, i): [Steps, Steps][] => (theirs[i + k] ? [[theirs[i + k], b]] : []));
    if (lay.some(([a, b]) => a.leg !== b.leg)) continue;
    const pairs = pairsOf(lay);
    if (pairs.length === 0) continue;
    // Footfalls around the window matter; those far from it do not.
    const near = lay.filter(([a]) => a.end >= start - STRIDE && a.start <= end + STRIDE).length;
    const middle = pairs.reduce((a, b) => (Math.abs(b.from - start) < Math.abs(a.from - start) ? b : a));
    const cost = Math.abs(middle.to - middle.from) - FOOTFALL_WORTH * near;
    if (cost < least) [least, best] = [cost, lay];
  }
  return best;
}

/** Footfalls within about a stride of a window are those that say where in a step it lies, seconds. */
const STRIDE = 1.2;

/** Events that both of a pair of stands have, in order in either and apart. */
function pairsOf(lay: readonly (readonly [Steps, Steps])[]): Pair[] {
  const all = lay.flatMap(([a, b]) =>
    Object.keys(a.events).flatMap((event) => (event in b.events ? [{ from: a.events[event], to: b.events[event], rank: rankOf(event) }] : [])),
  );
  all.sort((a, b) => a.rank - b.rank || a.from - b.from);
  const kept: Pair[] = [];
  for (const { from, to } of all) {
    const at = kept.findIndex((pair) => pair.from > from);
    const [before, after] = at < 0 ? [kept.at(-1), undefined] : [kept[at - 1], kept[at]];
    const clear = (pair: Pair | undefined, sign: number) => !pair || (sign * (from - pair.from) >= LEAST_APART && sign * (to - pair.to) >= LEAST_APART);
    if (clear(before, 1) && clear(after, -1)) kept.splice(at < 0 ? kept.length : at, 0, { from, to });
  }
  return kept;
}

function paceOf(pairs: readonly Pair[]): number {
  const [first, last] = [pairs[0], pairs[pairs.length - 1]];
  return last.from > first.from ? (last.to - first.to) / (last.from - first.from) : 1;
}
