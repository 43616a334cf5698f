import { fillGaps } from "./fillGaps.ts";

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
  const kernels = STRETCHES.map((seconds) => kernelOf(seconds * fps));
  // What lies beyond the ends weighs nothing.
  const pad = kernels[kernels.length - 1].reach;
  const w = new Float64Array(n + 2 * pad);
  const wh = new Float64Array(n + 2 * pad);
  for (let f = 0; f < n; f++) {
    if (weight[f] === 0) continue;
    w[pad + f] = Math.min(1, weight[f]);
    wh[pad + f] = (w[pad + f] * sum[f]) / weight[f];
  }
  const least = (ENOUGH * fps) / 30;
  for (let f = 0; f < n; f++) {
    for (const { reach, powers } of kernels) {
      const at = pad + f;
      let m0 = w[at];
      let before = w[at];
      for (let d = 1, k = 5; d <= reach; d++, k += 5) {
        before += powers[k] * w[at - d];
        m0 += powers[k] * (w[at - d] + w[at + d]);
      }
      // A parabola through one side alone leads anywhere, but for frames that are seen themselves: a clip's first and last.
      if (m0 < least || (w[at] < ITSELF && Math.min(before, m0 + w[at] - before) < ONE_SIDE * m0)) continue;
      // Moments of the weights about the frame, and of the heights: frames as far before it as behind it together.
      let m1 = 0;
      let m2 = 0;
      let m3 = 0;
      let m4 = 0;
      let h0 = wh[at];
      let h1 = 0;
      let h2 = 0;
      for (let d = 1, k = 5; d <= reach; d++, k += 5) {
        const p1 = powers[k + 1];
        const p2 = powers[k + 2];
        const both = w[at + d] + w[at - d];
        const odd = w[at + d] - w[at - d];
        const heights = wh[at + d] + wh[at - d];
        m1 += p1 * odd;
        m2 += p2 * both;
        m3 += powers[k + 3] * odd;
        m4 += powers[k + 4] * both;
        h0 += powers[k] * heights;
        h1 += p1 * (wh[at + d] - wh[at - d]);
        h2 += p2 * heights;
      }
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

/** Tricube weights of frames up to `half` away, [frames away][5]: times the distance (in halves) to the power of 0 … 4. */
function kernelOf(half: number): { readonly reach: number; readonly powers: Float64Array } {
  const reach = Math.floor(half);
  const powers = new Float64Array((reach + 1) * 5);
  for (let d = 0; d <= reach; d++) for (let p = 0; p < 5; p++) powers[d * 5 + p] = (1 - (d / half) ** 3) ** 3 * (d / half) ** p;
  return { reach, powers };
}

/** The least share of what is seen that lies on either side of a frame that weighs less than this itself, and what keeps a parabola from bending where little says so. */
const ONE_SIDE = 0.2;
const ITSELF = 0.5;
const RIDGE = 1e-3;
