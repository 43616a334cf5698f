import type { Sole } from "../character/soles.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { median } from "../signal/robust.ts";
import { type PooledSpan, pooledEnds, type TremblingPart } from "./pooledEnds.ts";
import type { MostMoved } from "./segment.ts";

/** A foot has turned from where it lay flat beyond so many deviations of its trembling, on two frames one after the other. */
const TURNED = 2.5;
/** It is clearly off flat at so many: what is asked of all stands together begins there. */
const CLEARLY = 6;
/** It is never known better than so, metres for a leg of 0.9 m: no foot lies quite still. */
const LEAST_NOISE = 0.0005;
/** How long after a stand a foot is followed until it is clearly turned, seconds. */
const FOLLOWED = 0.15;
/** Heel and toe are both down for at least so many frames where they show how the foot lies. */
const LEAST_FLAT = 5;

/** A foot, and the spans of its heel and its toe, each in order. */
export interface Foot {
  readonly sole: Sole;
  readonly heels: readonly PooledSpan[];
  readonly toes: readonly PooledSpan[];
}

/** A span whose ends are told anew. */
type Told = { -readonly [K in keyof PooledSpan]: PooledSpan[K] };

/**
 * Ends of the spans of heels and toes at which the other one is down, told by how the foot is turned: the one comes down, or leaves, as the foot rolls about the other. How far the
 * whole leg takes them both along as it trembles is no matter then: at a degree in every joint the height of a toe over its heel is off by 3 to 4 mm (1 σ), its place by 14 to 23.
 * All stands of the foot are looked at together. Returns it with ends moved by at most so many frames.
 */
export function flatEnds(foot: Foot, fps: number, most: MostMoved): Foot {
  const [heels, toes] = [foot.heels.map(copied), foot.toes.map(copied)];
  const { pairs, spans, part, shown } = flatStands(foot.sole, heels, toes, fps, most);
  const told = pooledEnds(spans, part, most);
  pairs.forEach(({ heel, toe }, i) => takeEnds(heel, toe, told[i], shown[i]));
  return { sole: foot.sole, heels, toes };
}

const copied = (span: PooledSpan): Told => ({ ...span });

/** Stands on which a foot's heel and toe are both down, and from when to when it lies flat on each as far as it shows by itself. */
function flatStands(sole: Sole, heels: Told[], toes: Told[], fps: number, most: MostMoved) {
  const over = toeOverHeel(sole);
  const pairs = heels.flatMap((heel) =>
    toes.flatMap((toe) => {
      const [from, to] = [Math.max(heel.start, toe.start), Math.min(heel.end, toe.end)];
      if (to - from + 1 < LEAST_FLAT) return [];
      const quarter = Math.floor((to - from) / 4);
      const inner = over.subarray(from + quarter, to - quarter + 1);
      return [{ heel, toe, from, to, inner, rest: median(inner) }];
    }),
  );
  const off = pairs.flatMap(({ inner, rest }) => Array.from(inner, (v) => Math.abs(v - rest)));
  const noise = Math.max(LEAST_NOISE * (sole.legLength / 0.9), off.length > 0 ? 1.4826 * median(off) : 0);
  const spans = pairs.map(({ heel, toe, from, to, rest }): [number, number] => {
    const turned = (f: number) => Math.abs(over[f] - rest) > TURNED * noise;
    const first = Math.max(Math.min(heel.start, toe.start), from - most.out);
    const last = Math.min(Math.max(heel.end, toe.end), to + most.out);
    // What is further inside than an end may be moved is flat.
    const middle = Math.round((from + to) / 2);
    let [a, b] = [Math.min(middle, from + most.in), Math.max(middle, to - most.in)];
    while (a > first && !(turned(a - 1) && (a - 1 === first || turned(a - 2)))) a--;
    while (b < last && !(turned(b + 1) && (b + 1 === last || turned(b + 2)))) b++;
    return [a, b];
  });
  // An end is told where the foot goes on to be clearly turned, and not at the clip's own ends.
  const rolls = (rest: number, from: number, way: -1 | 1) => {
    for (let k = 1, f = from + way; k <= FOLLOWED * fps && f >= 0 && f < over.length; k++, f += way)
      if (Math.abs(over[f] - rest) > CLEARLY * noise) return true;
    return false;
  };
  const shown = spans.map(([a, b], i) => [rolls(pairs[i].rest, a, -1), rolls(pairs[i].rest, b, 1)] as const);
  const course = new Float64Array(over.length * 3);
  for (let f = 0; f < over.length; f++) course[f * 3 + 1] = over[f];
  const part: TremblingPart = { course, noise, fps, legLength: sole.legLength, clear: CLEARLY * noise };
  return { pairs, spans, part, shown };
}

/** Gives the ends between which a foot lies flat to the one of its heel and its toe that comes down later, and to the one that leaves sooner. */
function takeEnds(heel: Told, toe: Told, { start, end, doubtful }: PooledSpan, [lands, lifts]: readonly [boolean, boolean]): void {
  const [later, sooner] = heel.start <= toe.start ? [toe, heel] : [heel, toe];
  if (lands && (later.start !== sooner.start || start > sooner.start)) {
    later.start = Math.max(sooner.start, Math.min(start, later.end - 1));
    later.doubtful = [doubtful[0], later.doubtful[1]];
  }
  const [stays, leaves] = heel.end <= toe.end ? [toe, heel] : [heel, toe];
  if (lifts && (leaves.end !== stays.end || end < stays.end)) {
    leaves.end = Math.min(stays.end, Math.max(end, leaves.start + 1));
    leaves.doubtful = [leaves.doubtful[0], doubtful[1]];
  }
}

/** How high the toe is over the heel as the foot is turned, [frame] metres. */
function toeOverHeel({ track, points: [heel, toe] }: Sole): Float64Array {
  const way = [0, 1, 2].map((i) => toe.local[i] - heel.local[i]);
  const v = new Float64Array(3);
  return Float64Array.from({ length: track.frameCount }, (_, f) => {
    rotateVecFlat(v, 0, track.rotations, f * 4, way, 0);
    return v[1];
  });
}
