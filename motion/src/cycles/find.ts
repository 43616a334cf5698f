import type { Motion } from "../motion.ts";
import { median } from "../signal/robust.ts";
import { apartOf, featuresOf, mirroredApart } from "./features.ts";

/** A stretch after which the body comes back to where it was. */
export interface Cycle {
  /** seconds; `to` shows the pose of `from` again */
  readonly from: number;
  readonly to: number;
  /** how far apart the two ends are: places of the body's parts against the hips and their speeds, as a share of leg length */
  readonly apart: number;
  /** the same of places alone, centimetres, and of speeds alone, centimetres a second */
  readonly poseCm: number;
  readonly speedCm: number;
  /** contacts in which the two ends differ */
  readonly contacts: number;
}

/** How far apart any two moments are, for a picture: [from][to] over equal steps, the same measure as a cycle's. */
export interface CycleMap {
  readonly size: number;
  readonly seconds: number;
  readonly apart: Float32Array;
}

/** The shortest cycle, and the longest that is looked for, seconds. */
const SHORTEST = 0.3;
const LONGEST = 20;
/** Coarse steps of the search: as many as this over the stretch, and none shorter than the second, seconds. */
const STEPS = 900;
const FINEST = 1 / 30;
/** What a longer cycle has to be better by, a second of it: of cycles that close alike the shortest serves best. */
const LENGTH_COSTS = 0.01;
/** A seam serves badly where a contact begins or ends beside it: what that costs, shares of leg length. */
const EDGE_COSTS = 0.008;
/** A body must have been away by so many times what its cycle leaves open before it has come back. */
const AWAY = 2.5;
const LEAST_AWAY = 0.03;
/** So many times as many as are wanted are looked at to the frame: coarse steps misjudge some. */
const LOOKED_AT = 4;
/** Cycles nearer in length (share) and in start (seconds) are one. */
const SAME_LENGTH = 0.12;
const SAME_START = 0.2;

/** The frames at which the search steps, and how many frames apart they are. */
function coarse(first: number, last: number, fps: number): number[] {
  const step = Math.max(1, Math.round(FINEST * fps), Math.ceil((last - first) / STEPS));
  return Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, i) => first + i * step);
}

/**
 * The stretches of a motion after which the body is most nearly as it was, best first: places of its parts against the hips, their speeds, and what
 * rests. All pairs of moments are compared on coarse steps, the best then found to the frame. `from` and `to` (seconds) limit the search.
 */
export function findCycles(motion: Motion, from = 0, to = Number.POSITIVE_INFINITY, most = 8): Cycle[] {
  const { fps, frameCount } = motion.clip;
  const features = featuresOf(motion);
  const [first, last] = [Math.max(0, Math.round(from * fps)), Math.min(frameCount - 1, Math.round(Math.min(to, frameCount) * fps))];
  const frames = coarse(first, last, fps);
  const step = frames.length > 1 ? frames[1] - frames[0] : 1;
  const besides = (a: number, b: number) => (LENGTH_COSTS * (b - a)) / fps + (EDGE_COSTS / 2) * (features.edges[a] + features.edges[b]);
  const cost = (a: number, b: number) => apartOf(features, a, b).apart + besides(a, b);
  const found: { a: number; b: number; cost: number }[] = [];
  const shortest = Math.ceil((SHORTEST * fps) / step);
  const longest = Math.floor((LONGEST * fps) / step);
  for (let i = 0; i + shortest < frames.length; i++) {
    const row = frames.slice(i, i + longest + 2).map((b) => apartOf(features, frames[i], b).apart);
    let away = 0;
    for (let k = 1; k + 1 < row.length; k++) {
      away = Math.max(away, row[k]);
      // A low point of the row, after the body has been away.
      if (k < shortest || row[k] > row[k - 1] || row[k] > row[k + 1]) continue;
      if (away < AWAY * row[k] + LEAST_AWAY) continue;
      found.push({ a: frames[i], b: frames[i + k], cost: row[k] + besides(frames[i], frames[i + k]) });
    }
  }
  found.sort((p, q) => p.cost - q.cost);
  const kept: Cycle[] = [];
  for (const { a, b } of found) {
    if (kept.length >= LOOKED_AT * most) break;
    if (kept.some((c) => Math.abs(c.to - c.from - (b - a) / fps) < SAME_LENGTH * (c.to - c.from) && Math.abs(c.from - a / fps) < SAME_START)) continue;
    let best = { a, b, cost: cost(a, b) };
    for (let p = Math.max(first, a - step); p <= Math.min(last, a + step); p++)
      for (let q = Math.max(p + 1, b - step); q <= Math.min(last, b + step); q++) {
        const c = cost(p, q);
        if (c < best.cost) best = { a: p, b: q, cost: c };
      }
    const { apart, pose, speed, contacts } = apartOf(features, best.a, best.b);
    kept.push({ from: best.a / fps, to: best.b / fps, apart, poseCm: 100 * pose, speedCm: 100 * speed, contacts });
  }
  const score = (c: Cycle) => cost(Math.round(c.from * fps), Math.round(c.to * fps));
  return kept.sort((p, q) => score(p) - score(q)).slice(0, most);
}

/** How far apart two moments of a motion are, as a cycle from the one to the other would have to close. Seconds. */
export function cycleBetween(motion: Motion, from: number, to: number): Cycle {
  const { fps, frameCount } = motion.clip;
  const frame = (m: number) => Math.max(0, Math.min(frameCount - 1, Math.round(m * fps)));
  const { apart, pose, speed, contacts } = apartOf(featuresOf(motion), frame(from), frame(to));
  return { from, to, apart, poseCm: 100 * pose, speedCm: 100 * speed, contacts };
}

const known = new WeakMap<Motion, readonly Cycle[]>();

/**
 * The best cycle of a whole motion; null where the body never comes back to where it was. To be halved it is the one whose halves are most nearly each other's
 * mirror image.
 */
export function bestCycle(motion: Motion, halved: boolean): Cycle | null {
  const cycles = known.get(motion) ?? findCycles(motion, 0, Number.POSITIVE_INFINITY, MOST_KNOWN);
  known.set(motion, cycles);
  if (!halved || cycles.length === 0) return cycles[0] ?? null;
  const features = featuresOf(motion);
  const frame = (m: number) => Math.round(m * motion.clip.fps);
  const uneven = (c: Cycle) => c.apart + mirroredApart(features, frame(c.from), frame((c.from + c.to) / 2));
  // A gait is halved over an odd number of strides, where there is one: as many landings on either side.
  const stepped = cycles.filter((c) => {
    const landings = landingsWithin(motion, c);
    return landings.left % 2 === 1 && landings.left === landings.right;
  });
  return (stepped.length > 0 ? stepped : cycles).reduce((best, c) => (uneven(c) < uneven(best) ? c : best));
}

/** How often either side's feet land within a stretch: what bears the body, by the point of each side that lands most often. */
function landingsWithin(motion: Motion, { from, to }: { readonly from: number; readonly to: number }): { left: number; right: number } {
  const { fps } = motion.clip;
  const out = { left: 0, right: 0 };
  for (const { id, side, bears } of motion.points) {
    if (!bears || !side) continue;
    const landings = motion.contacts.filter((c) => c.point === id && c.start / fps > from && c.start / fps <= to).length;
    out[side] = Math.max(out[side], landings);
  }
  return out;
}

/** Cycles of a motion that are kept to choose from. */
const MOST_KNOWN = 12;

/** How far apart each two of `size` moments of a motion are. */
export function cycleMap(motion: Motion, size: number): CycleMap {
  const { fps, frameCount } = motion.clip;
  const features = featuresOf(motion);
  const at = (i: number) => Math.round((i * (frameCount - 1)) / Math.max(1, size - 1));
  const apart = new Float32Array(size * size);
  for (let i = 0; i < size; i++) for (let k = i + 1; k < size; k++) apart[i * size + k] = apart[k * size + i] = apartOf(features, at(i), at(k)).apart;
  return { size, seconds: (frameCount - 1) / fps, apart };
}

/** How long a stride is: the time from a foot's landing to its next, the middle one of all; null where none lands twice. Seconds. */
export function strideSeconds(motion: Motion): number | null {
  const strides: number[] = [];
  for (const point of motion.points.filter((p) => p.bears)) {
    const landings = motion.contacts.filter((c) => c.point === point.id && c.start > 0).map((c) => c.start);
    for (let i = 1; i < landings.length; i++) strides.push((landings[i] - landings[i - 1]) / motion.clip.fps);
  }
  return strides.length > 0 ? median(strides) : null;
}
