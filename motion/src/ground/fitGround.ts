import { quinticStep } from "../math/ramp.ts";
import { median } from "../signal/robust.ts";

/** A place where a part of the body rested: x, y, z in metres and how much it counts. */
export interface RestPoint {
  readonly part: string;
  readonly point: readonly [number, number, number];
  readonly weight: number;
  /** how much its height varied while it rested, metres (1 σ) */
  readonly stirs: number;
}

/** Slopes that all parts share (tangents), and the height over the origin at which each part rests, metres. */
export interface GroundFit {
  readonly slopeX: number;
  readonly slopeZ: number;
  readonly heights: ReadonlyMap<string, number>;
}

/** How much tilt a capture stage may have before evidence, 1 σ, and the least spread of rest points about their plane, metres: for what is to be sure, and for the likeliest. */
const TILT_SIGMA = 0.025;
const LEAST_SIGMA = 0.0015;
const LIKELIEST_SIGMA = 0.0001;
/** Places that a plane must leave over before how near they lie to it means anything. */
const LEAST_FREEDOM = 4;
/** A slope within so many standard errors of level is level. */
const SURE = 3;
/** Rounds of weighing anew; fewer where slopes (tangents) and what counts as near (metres) no longer change by this. */
const MOST_ROUNDS = 12;
const SETTLED = 1e-9;
/** Error that places near each other share (how a skeleton was fitted, how a foot was rolling), which does not average out, metres. */
const SHARED_SIGMA = 0.004;

/**
 * The slope of the floor under rest points, and how high over it each part rests. Parts differ in height (a toe joint, a heel, a hoof), so
 * only the places of one and the same part say anything of the slope: y = height(part) + slopeX·x + slopeZ·z by least squares about each
 * part's own mean, re-weighted by Tukey's biweight so that a step or a box does not drag it. Of the two principal directions in which
 * the places spread, a slope counts only where it is over three standard errors (or as many as are asked for): a straight walk says nothing of the
 * slope across it. With `sure` 0 it is the likeliest slope, be it ever so slight.
 */
export function fitGround(points: readonly RestPoint[], sure = SURE): GroundFit {
  let slopeX = 0;
  let slopeZ = 0;
  const parts = [...new Set(points.map((p) => p.part))];
  const least = sure > 0 || tooFew(points) ? LEAST_SIGMA : LIKELIEST_SIGMA;
  const byPart = new Map(parts.map((part) => [part, points.filter((p) => p.part === part)] as const));
  const level = (p: RestPoint) => p.point[1] - slopeX * p.point[0] - slopeZ * p.point[2];
  const heights = new Map<string, number>();
  const setHeights = () => {
    for (const [part, own] of byPart) heights.set(part, weightedMedian(own.map((p) => [level(p), p.weight] as const)));
  };
  setHeights();
  // At first nothing is an outlier: on a steep slope all places lie far off any level.
  let cut = Math.max(0.25, ...points.map((p) => 2 * Math.abs(level(p) - (heights.get(p.part) ?? 0))));
  for (let round = 0; round < MOST_ROUNDS && points.length > parts.length; round++) {
    const before = [slopeX, slopeZ, cut];
    const weights = points.map((p) => {
      const r = (level(p) - (heights.get(p.part) ?? 0)) / cut;
      return Math.abs(r) >= 1 ? 0 : p.weight * (1 - r * r) ** 2;
    });
    const spread = scatter(points, weights, parts);
    // First both directions, to see how far the places lie off that plane; then what is sure against it.
    [slopeX, slopeZ] = principalSlopes(spread, least, 0, 1);
    setHeights();
    const inner = points.flatMap((p, i) => (weights[i] > 0 ? [Math.abs(level(p) - (heights.get(p.part) ?? 0))] : []));
    const freedom = Math.max(1, inner.length - parts.length - 2);
    const sigma = Math.max(least, 1.4826 * median(inner) * Math.sqrt(inner.length / freedom));
    [slopeX, slopeZ] = principalSlopes(spread, sigma, sure, inner.length);
    setHeights();
    const residuals = points.map((p) => Math.abs(level(p) - (heights.get(p.part) ?? 0)));
    cut = Math.max(0.02, Math.min(cut, 4.685 * 1.4826 * median(residuals)));
    if ([slopeX, slopeZ, cut].every((value, i) => Math.abs(value - before[i]) < SETTLED)) break;
  }
  return { slopeX, slopeZ, heights: pooled(points, heights, level) };
}

/** So few places lie on some plane, with a height a part, whatever they are: they say as little as rough ones do. */
export function tooFew(points: readonly RestPoint[]): boolean {
  return points.length < new Set(points.map((p) => p.part)).size + 2 + LEAST_FREEDOM;
}

/** Parts whose heights differ by less than this much of what they stir are as high as each other; from twice that on they are not. */
const ALIKE = 1;
/** Least that a part stirs, metres. */
const LEAST_STIR = 0.0003;

/**
 * Heights with left and right made alike as far as their difference may come from how restless they are: a bobbing body lands now on the one foot,
 * now on the other, and each seems to stand where the bob was.
 */
function pooled(points: readonly RestPoint[], heights: ReadonlyMap<string, number>, level: (p: RestPoint) => number): Map<string, number> {
  const kind = (part: string) => part.replace(/^(left|right)/, "");
  const out = new Map<string, number>();
  for (const [part, own] of heights) {
    const alike = points.filter((p) => kind(p.part) === kind(part));
    const mine = alike.filter((p) => p.part === part);
    const middle = weightedMean([...heights].filter(([other]) => kind(other) === kind(part)).map(([, h]) => [h, 1] as const));
    const within = weightedMean(mine.map((p) => [p.stirs, p.weight] as const));
    const between = mine.length > 1 ? 1.4826 * median(mine.map((p) => Math.abs(level(p) - own))) : 0;
    const stirs = LEAST_STIR + within + between;
    out.set(part, middle + (own - middle) * quinticStep(Math.abs(own - middle) / (ALIKE * stirs) - 1));
  }
  return out;
}

function weightedMean(values: readonly (readonly [number, number])[]): number {
  const total = values.reduce((sum, [, w]) => sum + w, 0);
  return total > 0 ? values.reduce((sum, [v, w]) => sum + v * w, 0) / total : 0;
}

/** Second moments about the parts' own weighted means. */
interface Scatter {
  readonly xx: number;
  readonly xz: number;
  readonly zz: number;
  readonly xy: number;
  readonly zy: number;
}

/** The scatter of places, scaled to the number of those that count. */
function scatter(points: readonly RestPoint[], weights: readonly number[], parts: readonly string[]): Scatter {
  let [xx, xz, zz, xy, zy] = [0, 0, 0, 0, 0];
  const total = weights.reduce((a, b) => a + b, 0);
  const scale = total > 0 ? weights.filter((w) => w > 0).length / total : 0;
  for (const part of parts) {
    let [count, sum, mx, my, mz] = [0, 0, 0, 0, 0];
    for (let i = 0; i < points.length; i++) {
      const w = weights[i] * scale;
      if (points[i].part !== part || w === 0) continue;
      const [x, y, z] = points[i].point;
      count++;
      sum += w;
      mx += w * x;
      my += w * y;
      mz += w * z;
    }
    if (count < 2) continue;
    mx /= sum;
    my /= sum;
    mz /= sum;
    for (let i = 0; i < points.length; i++) {
      const w = weights[i] * scale;
      if (points[i].part !== part || w === 0) continue;
      const [px, py, pz] = points[i].point;
      const [x, y, z] = [px - mx, py - my, pz - mz];
      xx += w * x * x;
      xz += w * x * z;
      zz += w * z * z;
      xy += w * x * y;
      zy += w * z * y;
    }
  }
  return { xx, xz, zz, xy, zy };
}

/** Slopes along the two principal directions of the scatter of `count` places, each kept only where it is over `sure` standard errors. */
function principalSlopes({ xx, xz, zz, xy, zy }: Scatter, sigma: number, sure: number, count: number): [number, number] {
  const angle = 0.5 * Math.atan2(2 * xz, xx - zz);
  const out: [number, number] = [0, 0];
  for (const [c, s] of [
    [Math.cos(angle), Math.sin(angle)],
    [-Math.sin(angle), Math.cos(angle)],
  ]) {
    const spread = c * c * xx + 2 * c * s * xz + s * s * zz;
    const slope = (c * xy + s * zy) / (spread + (sigma / TILT_SIGMA) ** 2);
    const error = Math.sqrt((sigma ** 2 + count * SHARED_SIGMA ** 2) / spread);
    if (!(spread > 0) || Math.abs(slope) <= sure * error) continue;
    out[0] += slope * c;
    out[1] += slope * s;
  }
  return out;
}

function weightedMedian(values: readonly (readonly [number, number])[]): number {
  const sorted = [...values].sort((a, b) => a[0] - b[0]);
  const half = sorted.reduce((sum, [, w]) => sum + w, 0) / 2;
  let passed = 0;
  for (const [i, [value, weight]] of sorted.entries()) {
    passed += weight;
    if (passed > half) return value;
    if (passed === half) return i + 1 < sorted.length ? (value + sorted[i + 1][0]) / 2 : value;
  }
  return 0;
}
