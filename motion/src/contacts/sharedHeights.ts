import { solveSymmetricMutable } from "../math/solve.ts";

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
  /** what a height is off the others of its frame, metres (1 σ) */
  readonly off: number;
}

/** What is known beforehand, metres (1 σ): of a part's own height, of the slope in each direction (a tangent), and of heights of one frame against each other. */
export interface Beforehand {
  readonly rest: number;
  readonly slope: readonly [number, number];
  readonly off: number;
}

/**
 * Parts that rest at the same time share what heaves the body, whatever it is: what their heights differ by on one frame is their own. By
 * least squares on differences from each frame's weighted mean (the within estimator of panel regression; Wooldridge, Econometric Analysis of Cross Section and Panel Data,
 * chapter 10), with what is known beforehand as a ridge; what never rests together with anything else keeps what it had. Heights of one span
 * are off together, so that as many as `span` frames count as one.
 */
export function ownHeights(seen: readonly SeenHeights[], frameCount: number, span: number, before: Beforehand): OwnHeights {
  const parts = [...new Set(seen.map((s) => s.point))];
  const n = parts.length + 2;
  const about = middlePlace(seen);
  const column = new Map(parts.map((part, c) => [part, c]));
  // With d = (which part, x, z) and its height h: Σ w·(d − mean d)(d − mean d)ᵀ = Σ w·d·dᵀ − Σ over frames of (Σ w·d)(Σ w·d)ᵀ / Σ w.
  const sums = new Float64Array(frameCount * (n + 1));
  const total = new Float64Array(frameCount);
  const count = new Uint8Array(frameCount);
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  for (const { point, start, heights, x, z, weights } of seen) {
    const own = column.get(point) as number;
    for (let i = 0; i < weights.length; i++) {
      const w = weights[i];
      if (w === 0) continue;
      const dx = x[i] - about[0];
      const dz = z[i] - about[1];
      const h = heights[i];
      const o = (start + i) * (n + 1);
      sums[o + own] += w;
      sums[o + n - 2] += w * dx;
      sums[o + n - 1] += w * dz;
      sums[o + n] += w * h;
      total[start + i] += w;
      count[start + i]++;
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
  for (let f = 0; f < frameCount; f++) {
    if (count[f] === 0) continue;
    const o = f * (n + 1);
    for (let r = 0; r < n; r++) {
      const share = sums[o + r] / total[f];
      if (share === 0) continue;
      b[r] -= share * sums[o + n];
      for (let c = 0; c <= r; c++) a[r * n + c] -= share * sums[o + c];
    }
  }
  const certain = 1 / (span * before.off ** 2);
  for (let r = 0; r < n; r++) {
    b[r] *= certain;
    for (let c = 0; c <= r; c++) a[r * n + c] *= certain;
    a[r * n + r] += 1 / (r < n - 2 ? before.rest : before.slope[r - (n - 2)]) ** 2;
  }
  const solved = solveSymmetricMutable(a, b, n) ? b : new Float64Array(n);
  const rests = new Map(parts.map((part, r) => [part, solved[r]]));
  const tilt = { slopeX: solved[n - 2], slopeZ: solved[n - 1], about };
  return { rests, tilt, off: offOthers(seen, rests, tilt, total, count) };
}

/** What heights are off the mean of their frame, where there are others on it (1 σ); `total` and `count` are their weights' sum and their number on each frame. */
function offOthers(seen: readonly SeenHeights[], rests: ReadonlyMap<string, number>, tilt: Tilt, total: Float64Array, count: Uint8Array): number {
  const mean = new Float64Array(total.length);
  for (const { start, weights, heights, x, z, point } of seen) {
    const rest = rests.get(point) ?? 0;
    for (let i = 0; i < weights.length; i++) mean[start + i] += weights[i] * (heights[i] - rest - tiltAt(tilt, x[i], z[i]));
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
