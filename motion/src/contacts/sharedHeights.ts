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
  const frames = Array.from({ length: frameCount }, (): [number, number][] => []);
  seen.forEach(({ start, weights }, k) => {
    weights.forEach((w, i) => {
      if (w > 0) frames[start + i].push([k, i]);
    });
  });
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  const rows: { d: Float64Array; h: number; w: number }[] = [];
  for (const frame of frames) {
    if (frame.length < 2) continue;
    const total = frame.reduce((sum, [k, i]) => sum + seen[k].weights[i], 0);
    const mean = new Float64Array(n);
    let height = 0;
    const own = frame.map(([k, i]) => {
      const part = seen[k];
      const w = part.weights[i];
      const d = new Float64Array(n);
      d[parts.indexOf(part.point)] = 1;
      d[n - 2] = part.x[i] - about[0];
      d[n - 1] = part.z[i] - about[1];
      d.forEach((v, c) => {
        mean[c] += (w / total) * v;
      });
      height += (w / total) * part.heights[i];
      return { d, h: part.heights[i], w };
    });
    for (const row of own) {
      row.d.forEach((_, c) => {
        row.d[c] -= mean[c];
      });
      row.h -= height;
      rows.push(row);
    }
  }
  const certain = 1 / (span * before.off ** 2);
  for (const { d, h, w } of rows)
    for (let r = 0; r < n; r++) {
      b[r] += certain * w * d[r] * h;
      for (let c = 0; c < n; c++) a[r * n + c] += certain * w * d[r] * d[c];
    }
  for (let r = 0; r < n; r++) a[r * n + r] += 1 / (r < n - 2 ? before.rest : before.slope[r - (n - 2)]) ** 2;
  const solved = solveSymmetricMutable(a, b, n) ? b : new Float64Array(n);
  let [squares, weight] = [0, 0];
  for (const { d, h, w } of rows) {
    squares += w * (h - d.reduce((sum, v, c) => sum + v * solved[c], 0)) ** 2;
    weight += w;
  }
  return {
    rests: new Map(parts.map((part, r) => [part, solved[r]])),
    tilt: { slopeX: solved[n - 2], slopeZ: solved[n - 1], about },
    off: weight > 0 ? Math.sqrt(squares / weight) : 0,
  };
}

/** Height of a tilt over the ground it is given from, metres. */
export function tiltAt({ slopeX, slopeZ, about }: Tilt, x: number, z: number): number {
  return slopeX * (x - about[0]) + slopeZ * (z - about[1]);
}

function middlePlace(seen: readonly SeenHeights[]): [number, number] {
  let [x, z, weight] = [0, 0, 0];
  for (const part of seen)
    part.weights.forEach((w, i) => {
      x += w * part.x[i];
      z += w * part.z[i];
      weight += w;
    });
  return weight > 0 ? [x / weight, z / weight] : [0, 0];
}
