import { legLengthOf } from "../character/legLength.ts";
import { standsOf } from "../combine/standing.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
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
  /** of whose leg, and which */
  readonly event: string;
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
  const pairs = evened(pairsOf(best), 0.5 / from.clip.fps, 0.5 / to.clip.fps);
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
  const { fps } = motion.clip;
  const tracks = new PointTracks(motion.character.skeleton, motion.clip, motion.points);
  const near = TOUCHING * legLengthOf(motion.character);
  return standsOf(motion).map((stand): Steps => {
    const events: Record<string, number> = {};
    const add = (name: string, id: string, frame: number, way: 1 | -1) => {
      const course = tracks.course(id);
      const moment = course ? momentOf(course, frame, way, near) : frame + way / 2;
      if (moment !== null) events[name] = moment / fps;
    };
    const first = stand.points.find((p) => p.start === stand.start) ?? stand.points[0];
    const last = stand.points.find((p) => p.end === stand.last) ?? stand.points[0];
    add(LANDS, first.id, stand.start, -1);
    add(LEAVES, last.id, stand.last, 1);
    for (const { id, start, end } of stand.points) {
      add(`${id} down`, id, start, -1);
      add(`${id} up`, id, end, 1);
    }
    return { leg: stand.end, start: stand.start / fps, end: stand.last / fps, events };
  });
}

/** A part is as good as down this near to where it rests, in lengths of the leg. */
const TOUCHING = 0.003;

/**
 * When, in frames, a part that rests on `frame` came there (`way` −1) or leaves (1): contacts are known to a frame, the moment at which the part is `near` to its place lies between frames.
 * Within a frame of what the contact says; null where the motion begins or ends there.
 */
function momentOf(course: Float64Array, frame: number, way: 1 | -1, near: number): number | null {
  const away = (f: number) =>
    Math.hypot(course[f * 3] - course[frame * 3], course[f * 3 + 1] - course[frame * 3 + 1], course[f * 3 + 2] - course[frame * 3 + 2]);
  const last = course.length / 3 - 1;
  if (frame + way < 0 || frame + way > last) return null;
  for (let f = frame; Math.abs(f - frame) < 2 && f + way >= 0 && f + way <= last; f += way) {
    const [here, next] = [away(f), away(f + way)];
    if (next > near) return f + (way * (near - here)) / (next - here);
  }
  return frame + way;
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
    Object.keys(a.events).flatMap((event) =>
      event in b.events ? [{ from: a.events[event], to: b.events[event], event: `${a.leg} ${event}`, rank: rankOf(event) }] : [],
    ),
  );
  all.sort((a, b) => a.rank - b.rank || a.from - b.from);
  const kept: Pair[] = [];
  for (const { from, to, event } of all) {
    const at = kept.findIndex((pair) => pair.from > from);
    const [before, after] = at < 0 ? [kept.at(-1), undefined] : [kept[at - 1], kept[at]];
    const clear = (pair: Pair | undefined, sign: number) => !pair || (sign * (from - pair.from) >= LEAST_APART && sign * (to - pair.to) >= LEAST_APART);
    if (clear(before, 1) && clear(after, -1)) kept.splice(at < 0 ? kept.length : at, 0, { from, to, event });
  }
  return kept;
}

/** Strides before and after one that say with it how the pace goes. */
const STRIDES_BESIDE = 2;

/**
 * Pairs within the frames they were found on: an event is known to half a frame in either motion, and lies there where the same event of the strides beside it goes on most evenly
 * (a straight line through them, least squares). In order still: none comes nearer to the next than half of what it was.
 */
function evened(pairs: readonly Pair[], halfFrom: number, halfTo: number): Pair[] {
  const pace = paceOf(pairs);
  const most = halfTo + pace * halfFrom;
  return pairs.map((pair, i) => {
    const same = pairs.filter((p) => p.event === pair.event);
    const k = same.indexOf(pair);
    const beside = same.slice(Math.max(0, k - STRIDES_BESIDE), k + STRIDES_BESIDE + 1);
    if (beside.length < 3) return pair;
    const [meanFrom, meanTo] = [mean(beside.map((p) => p.from)), mean(beside.map((p) => p.to))];
    const slope = beside.reduce((sum, p) => sum + (p.from - meanFrom) * (p.to - meanTo), 0) / beside.reduce((sum, p) => sum + (p.from - meanFrom) ** 2, 0);
    const off = meanTo + slope * (pair.from - meanFrom) - pair.to;
    const room = (other: Pair | undefined) => (other ? Math.abs(other.to - pair.to) / 4 : most);
    return { ...pair, to: pair.to + Math.sign(off) * Math.min(Math.abs(off), most, room(pairs[i - 1]), room(pairs[i + 1])) };
  });
}

const mean = (values: readonly number[]) => values.reduce((sum, x) => sum + x, 0) / values.length;

function paceOf(pairs: readonly { readonly from: number; readonly to: number }[]): number {
  const [first, last] = [pairs[0], pairs[pairs.length - 1]];
  return last.from > first.from ? (last.to - first.to) / (last.from - first.from) : 1;
}
