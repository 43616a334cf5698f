/** A stretch of a curve: `in` over `out`. */
export interface CurveStretch {
  readonly outStart: number;
  readonly outEnd: number;
  readonly inStart: number;
  readonly inEnd: number;
}

/** The cubic Hermite through both ends of a stretch with these slopes, at a moment within it. */
export function hermite({ outStart, outEnd, inStart, inEnd }: CurveStretch, [m0, m1]: readonly [number, number], out: number): number {
  const length = outEnd - outStart;
  if (out <= outStart) return inStart;
  if (out >= outEnd) return inEnd;
  const t = (out - outStart) / length;
  const rise = inEnd - inStart;
  const [a, b] = [m0 * length - rise, m1 * length - rise];
  // The straight line and what the curve lies off it by.
  return inStart + t * rise + t * (1 - t) * (a * (1 - t) - b * t);
}

/** Where a rising stretch reaches a value: bisected, then refined by Newton's steps that stay inside. */
export function hermiteInverse(stretch: CurveStretch, slopes: readonly [number, number], value: number): number {
  let [low, high] = [stretch.outStart, stretch.outEnd];
  if (value <= stretch.inStart) return low;
  if (value >= stretch.inEnd) return high;
  // 60 halvings of ten hours are far below a nanosecond.
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2;
    if (hermite(stretch, slopes, middle) < value) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/**
 * Slopes at the knots of a rising curve so that the cubic through them never turns back between two knots: the weighted harmonic mean of the
 * secants beside a knot (Fritsch & Butland, SIAM J. Sci. Stat. Comput. 5, 1984), which lies in the region of Fritsch & Carlson (SIAM J. Numer.
 * Anal. 17, 1980); at the ends `outside` as far as that region allows. `x` strictly rising, `y` never falling.
 */
export function monotoneSlopes(x: ArrayLike<number>, y: ArrayLike<number>, outside: number): Float64Array {
  const n = x.length;
  const out = new Float64Array(n);
  if (n < 2) return out.fill(outside);
  const h = Float64Array.from({ length: n - 1 }, (_, i) => x[i + 1] - x[i]);
  const d = Float64Array.from({ length: n - 1 }, (_, i) => (y[i + 1] - y[i]) / h[i]);
  for (let i = 1; i + 1 < n; i++) {
    if (d[i - 1] <= 0 || d[i] <= 0) continue;
    const [w1, w2] = [2 * h[i] + h[i - 1], h[i] + 2 * h[i - 1]];
    out[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
  }
  out[0] = Math.min(outside, 3 * d[0]);
  out[n - 1] = Math.min(outside, 3 * d[n - 2]);
  return out;
}
