import { solveBesideHeave } from "./besideHeave.ts";

/** Heights of one contact over the ground it is taken to rest on, by frames of its span: metres, their level places (x, z), and how much each counts. */
export interface SeenHeights {
  readonly point: string;
  readonly start: number;
  readonly heights: Float64Array;
  readonly x: Float64Array;
  readonly z: Float64Array;
  readonly weights: Float64Array;
}

/** A plane through (x, z) = `about` with these slopes (tangents), over the ground that heights were seen from. */
export interface Tilt {
  readonly slopeX: number;
  readonly slopeZ: number;
  readonly about: readonly [number, number];
}

/** What parts that rest together show of the heights they rest at: each part's own, and how the ground slopes besides. */
export interface OwnHeights {
  readonly rests: ReadonlyMap<string, number>;
  readonly tilt: Tilt;
  /** what heaves them all, as smooth as it seems [frame], metres */
  readonly heave: Float64Array;
  /** of its steady bob, Hz, where it has one */
  readonly rate: number | null;
  /** what a height is off the others of its frame, metres (1 σ) */
  readonly off: number;
}

/** What is known beforehand, metres (1 σ): of a part's own height, of the slope in each direction (a tangent), of heights of one frame against each other, and how large the heave is. */
export interface Beforehand {
  readonly rest: number;
  readonly slope: readonly [number, number];
  readonly off: number;
  readonly heave: number;
  /** of a steady bob, Hz, where it has shown already */
  readonly rate: number | null;
}

/**
 * What parts rest at is their own height, a slope, and what heaves the body, which all that rest on a frame have in common and which is smooth: it does not jump as one foot takes over from
 * the other (`solveBesideHeave`). All of it at once by least squares, with what is known beforehand as a ridge (partial splines; Green & Silverman, Nonparametric Regression and Generalized
 * Linear Models, 1994, chapter 4). Heights of one span are off together, so that as many as `span` frames count as one.
 */
export function ownHeights(seen: readonly SeenHeights[], frameCount: number, span: number, before: Beforehand, fps: number): OwnHeights {
  const parts = [...new Set(seen.map((s) => s.point))];
  const n = parts.length + 2;
  const about = middlePlace(seen);
  const column = new Map(parts.map((part, c) => [part, c]));
  const certain = 1 / (span * before.off ** 2);
  // Sums over each frame of w·(which part, x, z, height), and of w.
  const sums = new Float64Array(frameCount * (n + 1));
  const total = new Float64Array(frameCount);
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  for (const { point, start, heights, x, z, weights } of seen) {
    const own = column.get(point) as number;
    for (let i = 0; i < weights.length; i++) {
      if (weights[i] === 0) continue;
      const w = weights[i] * certain;
      const dx = x[i] - about[0];
      const dz = z[i] - about[1];
      const h = heights[i];
      const o = (start + i) * (n + 1);
      sums[o + own] += w;
      sums[o + n - 2] += w * dx;
      sums[o + n - 1] += w * dz;
      sums[o + n] += w * h;
      total[start + i] += w;
      a[own * n + own] += w;
      a[(n - 2) * n + own] += w * dx;
      a[(n - 1) * n + own] += w * dz;
      a[(n - 2) * n + n - 2] += w * dx * dx;
      a[(n - 1) * n + n - 2] += w * dx * dz;
      a[(n - 1) * n + n - 1] += w * dz * dz;
      b[own] += w * h;
      b[n - 2] += w * dx * h;
      b[n - 1] += w * dz * h;
    }
  }
  for (let r = 0; r < n; r++) a[r * n + r] += 1 / (r < n - 2 ? before.rest : before.slope[r - (n - 2)]) ** 2;
  const none = { solution: new Float64Array(n), heave: new Float64Array(frameCount), rate: null };
  const { solution: solved, heave, rate } = solveBesideHeave({ a, b, sums, total, fps }, before.heave, before.rate) ?? none;
  const rests = new Map(parts.map((part, r) => [part, solved[r]]));
  const tilt = { slopeX: solved[n - 2], slopeZ: solved[n - 1], about };
  return { rests, tilt, heave, rate, off: offOthers(seen, rests, tilt, frameCount) };
}

/** What heights are off the mean of their frame, where there are others on it (1 σ). */
function offOthers(seen: readonly SeenHeights[], rests: ReadonlyMap<string, number>, tilt: Tilt, frameCount: number): number {
  const mean = new Float64Array(frameCount);
  const total = new Float64Array(frameCount);
  const count = new Uint8Array(frameCount);
  for (const { start, weights, heights, x, z, point } of seen) {
    const rest = rests.get(point) ?? 0;
    for (let i = 0; i < weights.length; i++) {
      if (weights[i] === 0) continue;
      mean[start + i] += weights[i] * (heights[i] - rest - tiltAt(tilt, x[i], z[i]));
      total[start + i] += weights[i];
      count[start + i]++;
    }
  }
  let [squares, weight] = [0, 0];
  for (const { start, weights, heights, x, z, point } of seen) {
    const rest = rests.get(point) ?? 0;
    for (let i = 0; i < weights.length; i++) {
      const f = start + i;
      if (weights[i] === 0 || count[f] < 2) continue;
      squares += weights[i] * (heights[i] - rest - tiltAt(tilt, x[i], z[i]) - mean[f] / total[f]) ** 2;
      weight += weights[i];
    }
  }
  return weight > 0 ? Math.sqrt(squares / weight) : 0;
}

/** Height of a tilt over the ground it is given from, metres. */
export function tiltAt({ slopeX, slopeZ, about }: Tilt, x: number, z: number): number {
  return slopeX * (x - about[0]) + slopeZ * (z - about[1]);
}

function middlePlace(seen: readonly SeenHeights[]): [number, number] {
  let [x, z, weight] = [0, 0, 0];
  for (const part of seen)
    for (let i = 0; i < part.weights.length; i++) {
      const w = part.weights[i];
      x += w * part.x[i];
      z += w * part.z[i];
      weight += w;
    }
  return weight > 0 ? [x / weight, z / weight] : [0, 0];
}
