import { savitzkyGolay } from "../signal/filters.ts";
import { hermite } from "./keys.ts";
import { sampleSlopes } from "./thin.ts";

/**
 * Operations on a stretch of a dense curve: samples [frame] in, samples of the frames start..end (inclusive) out. What lies outside the
 * stretch is only read, and every operation but `shiftSamples` and `scaleSamples` meets it at both ends.
 */
export interface Stretch {
  readonly start: number;
  readonly end: number;
}

const cut = (samples: ArrayLike<number>, { start, end }: Stretch) => Float64Array.from({ length: end - start + 1 }, (_, i) => samples[start + i]);

export function shiftSamples(samples: ArrayLike<number>, stretch: Stretch, by: number): Float64Array {
  return cut(samples, stretch).map((v) => v + by);
}

/** About the stretch's own average, a given value, or the default (0). `factor` 1 leaves it as it is. */
export function scaleSamples(samples: ArrayLike<number>, stretch: Stretch, factor: number, about: "average" | "default" | number): Float64Array {
  const own = cut(samples, stretch);
  const centre = about === "average" ? own.reduce((a, b) => a + b, 0) / own.length : about === "default" ? 0 : about;
  return own.map((v) => centre + factor * (v - centre));
}

/** Savitzky–Golay (quadratic), ±half samples, reading across the stretch's ends; strength 0..1 fades in over `half` frames from either end. */
export function smoothSamples(samples: ArrayLike<number>, stretch: Stretch, half: number): Float64Array {
  const n = samples.length;
  return cut(samples, stretch).map((own, i) => {
    const f = stretch.start + i;
    const h = Math.min(half, f, n - 1 - f);
    const weights = savitzkyGolay(h, h);
    let sum = 0;
    for (let k = -h; k <= h; k++) sum += weights[k + h] * samples[f + k];
    const edge = Math.min(i, stretch.end - f) / Math.max(1, half);
    return own + (sum - own) * Math.min(1, edge);
  });
}

/** The stretch thrown away and led across with the values and slopes of its ends (cubic Hermite). */
export function bridgeSamples(samples: ArrayLike<number>, { start, end }: Stretch): Float64Array {
  const slope = sampleSlopes(samples);
  const d = end - start;
  const out = new Float64Array(d + 1);
  // Slopes as they are outside: the stretch itself is not to be trusted.
  const before = start > 0 ? samples[start] - samples[start - 1] : slope[start];
  const after = end < samples.length - 1 ? samples[end + 1] - samples[end] : slope[end];
  for (let i = 0; i <= d; i++) out[i] = d === 0 ? samples[start] : hermite(samples[start], before, samples[end], after, d, i / d);
  return out;
}

/** Level at `value` over the stretch, coming from and going back to the curve over `ramp` frames inside either end. */
export function flattenSamples(samples: ArrayLike<number>, stretch: Stretch, value: number, ramp: number): Float64Array {
  return cut(samples, stretch).map((own, i) => {
    const edge = Math.min(i, stretch.end - stretch.start - i);
    const t = ramp <= 0 ? 1 : Math.min(1, edge / ramp);
    const w = t * t * (3 - 2 * t);
    return w === 1 ? value : own + (value - own) * w;
  });
}

/** Moved in time by whole frames inside the stretch; what is pushed out is lost, what is missing repeats the end. */
export function delaySamples(samples: ArrayLike<number>, { start, end }: Stretch, frames: number): Float64Array {
  return Float64Array.from({ length: end - start + 1 }, (_, i) => samples[Math.max(0, Math.min(samples.length - 1, start + i - frames))]);
}

/** Stretched in time by `factor` about a frame (2: half as fast); sampled linearly, ends held. */
export function stretchSamples(samples: ArrayLike<number>, { start, end }: Stretch, factor: number, about: number): Float64Array {
  return Float64Array.from({ length: end - start + 1 }, (_, i) => {
    const at = Math.max(0, Math.min(samples.length - 1, about + (start + i - about) / factor));
    const low = Math.floor(at);
    const high = Math.min(samples.length - 1, low + 1);
    return samples[low] + (at - low) * (samples[high] - samples[low]);
  });
}
