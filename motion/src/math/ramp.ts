/** Quintic step: 0 → 1 over t in 0..1 with zero speed and zero acceleration at both ends. */
export function quinticStep(t: number): number {
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  // Rounding may come out a bit over.
  return Math.min(1, t * t * t * (t * (t * 6 - 15) + 10));
}

/**
 * Quintic Hermite segment over t in 0..1 (accelerations zero at both ends).
 * p0, p1: values; m0, m1: slopes per unit of t. Source: textbook quintic Hermite basis.
 */
export function quinticHermite(p0: number, m0: number, p1: number, m1: number, t: number): number {
  const t3 = t * t * t;
  const t4 = t3 * t;
  const t5 = t4 * t;
  const h0 = 1 - 10 * t3 + 15 * t4 - 6 * t5;
  const g0 = t - 6 * t3 + 8 * t4 - 3 * t5;
  const g1 = -4 * t3 + 7 * t4 - 3 * t5;
  return p0 * h0 + m0 * g0 + m1 * g1 + p1 * (1 - h0);
}

/** How a ramp runs from 0 to 1: smoothly, smoothly but sooner or later, or straight. */
export const RAMP_SHAPES = ["smooth", "early", "late", "straight"] as const;
export type RampShape = (typeof RAMP_SHAPES)[number];

export function rampStep(t: number, shape: RampShape): number {
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  if (shape === "straight") return t;
  return quinticStep(shape === "early" ? t ** 0.65 : shape === "late" ? t ** 1.6 : t);
}

/**
 * Weight of a patch at `frame`: 1 inside start..end (inclusive), fading by its ramp's shape outside, 0 beyond.
 * rampIn and rampOut are in frames and lie outside the range; a ramp of 0 is a hard edge.
 */
export function rangeWeight(frame: number, start: number, end: number, rampIn: number, rampOut: number, shape: RampShape = "smooth"): number {
  if (frame < start) return rampIn > 0 ? rampStep((frame - (start - rampIn)) / rampIn, shape) : 0;
  if (frame > end) return rampOut > 0 ? rampStep((end + rampOut - frame) / rampOut, shape) : 0;
  return 1;
}
