import { z } from "zod";
import { moment, timed } from "../documents/fields.ts";

/** How a curve passes a key. smooth: the neighbours' slope; flat: level; linear and stepped: straight on, or held, to the next; free: slopes of its own. */
export const TANGENTS = ["smooth", "flat", "linear", "stepped", "free"] as const;
export type Tangent = (typeof TANGENTS)[number];

export const keySchema = z
  .strictObject({
    /** seconds of the motion that the curve belongs to */
    at: timed(moment),
    value: z.number(),
    tangent: z.enum(TANGENTS),
    /** units a second, before and after the key; used when it is free */
    slopeIn: z.number().optional(),
    slopeOut: z.number().optional(),
  })
  .meta({ field: "key" });
export type Key = z.infer<typeof keySchema>;

/**
 * Value of a keyed curve at a moment (seconds). Between keys a cubic Hermite segment,
 * p(t) = (2t³−3t²+1)p₀ + (t³−2t²+t)·d·m₀ + (−2t³+3t²)p₁ + (t³−t²)·d·m₁ with d the segment's length (the CUBICSPLINE of glTF 2.0,
 * appendix C); constant before the first key and behind the last. Keys are in order of time (see `orderedKeys`). No keys: 0.
 */
export function curveValue(keys: readonly Key[], moment: number): number {
  if (keys.length === 0) return 0;
  let low = 0;
  let high = keys.length - 1;
  if (moment <= keys[0].at) return keys[0].value;
  if (moment >= keys[high].at) return keys[high].value;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (keys[middle].at <= moment) low = middle;
    else high = middle;
  }
  const a = keys[low];
  const b = keys[high];
  if (a.tangent === "stepped") return a.value;
  const d = b.at - a.at;
  if (!(d > 0)) return b.value;
  const t = (moment - a.at) / d;
  return hermite(a.value, slopeAfter(keys, low), b.value, slopeBefore(keys, high), d, t);
}

/** Cubic Hermite segment: values p0, p1, slopes m0, m1 per unit of the segment's length d, t in 0..1. */
export function hermite(p0: number, m0: number, p1: number, m1: number, d: number, t: number): number {
  const t2 = t * t;
  const t3 = t2 * t;
  return (2 * t3 - 3 * t2 + 1) * p0 + (t3 - 2 * t2 + t) * d * m0 + (3 * t2 - 2 * t3) * p1 + (t3 - t2) * d * m1;
}

/** Slope with which the curve leaves a key, units a second. */
export function slopeAfter(keys: readonly Key[], i: number): number {
  const key = keys[i];
  const next = keys[i + 1];
  if (!next) return 0;
  if (key.tangent === "linear") return secant(key, next);
  if (key.tangent === "free") return key.slopeOut ?? smoothSlope(keys, i);
  return key.tangent === "smooth" ? smoothSlope(keys, i) : 0;
}

/** Slope with which the curve arrives at a key, units a second. */
export function slopeBefore(keys: readonly Key[], i: number): number {
  const key = keys[i];
  const previous = keys[i - 1];
  if (!previous) return 0;
  if (key.tangent === "linear" || previous.tangent === "linear") return secant(previous, key);
  if (key.tangent === "free") return key.slopeIn ?? smoothSlope(keys, i);
  return key.tangent === "smooth" ? smoothSlope(keys, i) : 0;
}

/**
 * Slope of the parabola through a key and its neighbours (finite difference on uneven steps; textbook), level where the key is a high
 * or low point or an end, and never so steep that the curve would run past a neighbour (three times the lesser secant; Fritsch & Carlson).
 */
function smoothSlope(keys: readonly Key[], i: number): number {
  const before = keys[i - 1];
  const key = keys[i];
  const after = keys[i + 1];
  if (!before || !after) return 0;
  const d0 = key.at - before.at;
  const d1 = after.at - key.at;
  if (!(d0 > 0 && d1 > 0)) return 0;
  const s0 = (key.value - before.value) / d0;
  const s1 = (after.value - key.value) / d1;
  if (s0 * s1 <= 0) return 0;
  const slope = (s0 * d1 + s1 * d0) / (d0 + d1);
  const most = 3 * Math.min(Math.abs(s0), Math.abs(s1));
  return Math.sign(slope) * Math.min(Math.abs(slope), most);
}

/** Slope from one key to the next; level between two at one moment. */
function secant(a: Key, b: Key): number {
  return b.at > a.at ? (b.value - a.value) / (b.at - a.at) : 0;
}

/** Keys at moments nearer than this are at one moment, seconds: a tenth of a millisecond. */
const ONE_MOMENT = 1e-4;

export function sameKeyMoment(a: number, b: number): boolean {
  return Math.abs(a - b) < ONE_MOMENT;
}

/** Keys with one more, in order; a key at the same moment is replaced. */
export function withKey(keys: readonly Key[], key: Key): Key[] {
  return [...keys.filter((k) => !sameKeyMoment(k.at, key.at)), key].sort((a, b) => a.at - b.at);
}

/** Keys in order of time, of several at one moment the last. */
export function orderedKeys(keys: readonly Key[]): readonly Key[] {
  const inOrder = keys.every((key, i) => i === 0 || key.at - keys[i - 1].at >= ONE_MOMENT);
  return inOrder ? keys : keys.reduce<Key[]>((list, key) => withKey(list, key), []);
}
