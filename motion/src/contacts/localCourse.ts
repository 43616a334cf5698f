import { fillGaps } from "./travel.ts";

/** Half-widths of the stretches over which a course is a parabola, seconds: the first on which enough is seen (as much as so many whole frames at 30 a second). */
const STRETCHES = [0.09, 0.13, 0.18, 0.26] as const;
const ENOUGH = 2.2;

/**
 * Weighted local parabolas through heights (`sum` over `weight`) at each frame, which neither lag nor flatten a heave of up to 3 Hz as running means do
 * (Cleveland, Robust Locally Weighted Regression and Smoothing Scatterplots, 1979; without its robustness); straight lines where too little is seen.
 */
export function localCourse(sum: Float64Array, weight: Float64Array, fps: number): Float64Array {
  const n = weight.length;
  const [value, known] = [new Float64Array(n), new Float64Array(n)];
  const heights = sum.map((v, f) => (weight[f] > 0 ? v / weight[f] : 0));
  const kernels = STRETCHES.map((seconds) => {
    const half = seconds * fps;
    const reach = Math.floor(half);
    const at = (d: number) => (1 - Math.abs(d / half) ** 3) ** 3;
    return { half, reach, shape: Float64Array.from({ length: 2 * reach + 1 }, (_, i) => at(i - reach)) };
  });
  const least = (ENOUGH * fps) / 30;
  for (let f = 0; f < n; f++) {
    for (const { half, reach, shape } of kernels) {
      // Moments of the weights about the frame, and of the heights.
      let m0 = 0;
      let m1 = 0;
      let m2 = 0;
      let m3 = 0;
      let m4 = 0;
      let h0 = 0;
      let h1 = 0;
      let h2 = 0;
      let before = 0;
      let behind = 0;
      for (let g = Math.max(0, f - reach); g <= Math.min(n - 1, f + reach); g++) {
        if (weight[g] === 0) continue;
        const t = (g - f) / half;
        const w = Math.min(1, weight[g]) * shape[g - f + reach];
        const tt = t * t;
        m0 += w;
        m1 += w * t;
        m2 += w * tt;
        m3 += w * tt * t;
        m4 += w * tt * tt;
        h0 += w * heights[g];
        h1 += w * t * heights[g];
        h2 += w * tt * heights[g];
        if (g <= f) before += w;
        if (g >= f) behind += w;
      }
      // A parabola through one side alone leads anywhere.
      if (m0 < least || Math.min(before, behind) < ONE_SIDE * m0) continue;
      const a1 = m2 + RIDGE * m0;
      const a2 = m4 + RIDGE * m0;
      // Cramer's rule for the parabola's value at the frame.
      const determinant = m0 * (a1 * a2 - m3 * m3) - m1 * (m1 * a2 - m3 * m2) + m2 * (m1 * m3 - a1 * m2);
      if (!(determinant > 0)) continue;
      value[f] = (h0 * (a1 * a2 - m3 * m3) - m1 * (h1 * a2 - m3 * h2) + m2 * (h1 * m3 - a1 * h2)) / determinant;
      known[f] = 1;
      break;
    }
  }
  const out = new Float64Array(n);
  fillGaps(out, value, known, 1, 0);
  return out;
}

/** The least share of what is seen that lies on either side of a frame, and what keeps a parabola from bending where little says so. */
const ONE_SIDE = 0.2;
const RIDGE = 1e-3;
