import { solve3 } from "./robust.ts";

/**
 * Zero-phase low-pass: second-order Butterworth run forward and back, the cut-off raised by 1/0.802 so that both passes together are
 * −3 dB at `cutoffHz` (Winter, Biomechanics and Motor Control of Human Movement). Ends are padded by point reflection.
 * Works on `count` samples at src[offset + i·stride], writes a new Float64Array. A cut-off near or above Nyquist returns a copy.
 */
export function lowPass(src: ArrayLike<number>, count: number, offset: number, stride: number, fps: number, cutoffHz: number): Float64Array {
  const out = new Float64Array(count);
  for (let i = 0; i < count; i++) out[i] = src[offset + i * stride];
  const corrected = cutoffHz / 0.802;
  if (corrected >= 0.45 * fps || count < 4) return out;
  const w = Math.tan((Math.PI * corrected) / fps);
  const k1 = Math.SQRT2 * w;
  const k2 = w * w;
  const a0 = k2 / (1 + k1 + k2);
  const b1 = 2 * a0 * (1 / k2 - 1);
  const b2 = 1 - 4 * a0 - b1;
  const pad = Math.min(count - 1, Math.ceil((2 * fps) / cutoffHz));
  const n = count + 2 * pad;
  const x = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const j = i - pad;
    x[i] = j < 0 ? 2 * out[0] - out[-j] : j >= count ? 2 * out[count - 1] - out[2 * (count - 1) - j] : out[j];
  }
  const pass = (from: number, step: number) => {
    let x1 = x[from];
    let x2 = x1;
    let y1 = x1;
    let y2 = x1;
    for (let i = from, left = n; left > 0; i += step, left--) {
      const v = x[i];
      const y = a0 * (v + 2 * x1 + x2) + b1 * y1 + b2 * y2;
      x2 = x1;
      x1 = v;
      y2 = y1;
      y1 = y;
      x[i] = y;
    }
  };
  pass(0, 1);
  pass(n - 1, -1);
  for (let i = 0; i < count; i++) out[i] = x[i + pad];
  return out;
}

/**
 * Weights of the Savitzky–Golay filter (Analytical Chemistry 36, 1964) over `before` points before one, itself, and `after` behind it: the value there of the
 * least-squares parabola through them. Fewer than three points leave it as it is.
 */
export function savitzkyGolay(before: number, after: number): Float64Array {
  const weights = new Float64Array(before + after + 1);
  const s = [0, 0, 0, 0, 0];
  for (let i = -before; i <= after; i++) for (let p = 0, power = 1; p <= 4; p++, power *= i) s[p] += power;
  const c = weights.length < 3 ? null : solve3([s[0], s[1], s[2], s[1], s[2], s[3], s[2], s[3], s[4]], [1, 0, 0]);
  if (c) for (let i = -before; i <= after; i++) weights[i + before] = c[0] + c[1] * i + c[2] * i * i;
  else weights[before] = 1;
  return weights;
}

/** One axis of a course [frame][stride]: a new array [frame]. */
export function axisOf(course: Float64Array, axis: number, stride: number): Float64Array {
  const out = new Float64Array(Math.floor(course.length / stride));
  for (let f = 0, i = axis; f < out.length; f++, i += stride) out[f] = course[i];
  return out;
}

/** Slope per second by a central difference over neighbours (one-sided at the ends). */
export function slopes(values: ArrayLike<number>, fps: number): Float64Array {
  const n = values.length;
  const out = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const a = Math.max(0, i - 1);
    const b = Math.min(n - 1, i + 1);
    out[i] = b > a ? ((values[b] - values[a]) * fps) / (b - a) : 0;
  }
  return out;
}

/** Largest value within ±half samples of each sample; linear time (monotone queue). */
export function runningMax(values: ArrayLike<number>, half: number): Float64Array {
  const n = values.length;
  const out = new Float64Array(n);
  const queue = new Int32Array(n);
  let head = 0;
  let tail = 0;
  for (let i = 0; i < n + half; i++) {
    if (i < n) {
      while (tail > head && values[queue[tail - 1]] <= values[i]) tail--;
      queue[tail++] = i;
    }
    const centre = i - half;
    if (centre < 0) continue;
    while (queue[head] < centre - half) head++;
    out[centre] = values[queue[head]];
  }
  return out;
}

export function runningMin(values: ArrayLike<number>, half: number): Float64Array {
  const negated = new Float64Array(values);
  for (let i = 0; i < negated.length; i++) negated[i] = -negated[i];
  const out = runningMax(negated, half);
  for (let i = 0; i < out.length; i++) out[i] = -out[i];
  return out;
}

/** Mean over ±half samples, the window cut at the ends; linear time. */
export function runningMean(values: ArrayLike<number>, half: number): Float64Array {
  const n = values.length;
  const sums = new Float64Array(n + 1);
  for (let i = 0; i < n; i++) sums[i + 1] = sums[i] + values[i];
  const out = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const a = Math.max(0, i - half);
    const b = Math.min(n, i + half + 1);
    out[i] = (sums[b] - sums[a]) / (b - a);
  }
  return out;
}

/**
 * The smallest smooth curve at or above `required` everywhere: the running maximum over ±2·half averaged twice over ±half.
 * Each average is over values that all are maxima covering the sample, so none falls below it.
 */
export function smoothEnvelope(required: ArrayLike<number>, half: number): Float64Array {
  return runningMean(runningMean(runningMax(required, 2 * half), half), half);
}
