import type { Away } from "./segment.ts";
import { invertSymmetric3, tremblingOf } from "./standLine.ts";

/** Along the way to what carries it a part is off by this share of its mean trembling at least: joints' places are no surer. */
const SUREST = 0.05;

/**
 * How far a part of a trembling leg is from a place, by the trembling: a leg takes its foot across the way to its joints, and hardly along, so that what a foot
 * is off along counts for more (Mahalanobis' distance), in metres of its mean trembling. Heights are free by `heave`.
 */
export function legAway(track: Float64Array, heave: number, course: Float64Array, carriers: readonly Float64Array[]): Away {
  const m = new Float64Array(6);
  const inverse = new Float64Array(9);
  return (f, rest) => {
    tremblingOf(m, course, carriers, f);
    const mean = (m[0] + m[3] + m[5]) / 3;
    const least = SUREST * mean;
    invertSymmetric3(inverse, 0, m[0] + least, m[1], m[2], m[3] + least, m[4], m[5] + least);
    const x = track[f * 3] - rest[0];
    const height = track[f * 3 + 1] - rest[1];
    const y = Math.sign(height) * Math.max(0, Math.abs(height) - heave);
    const z = track[f * 3 + 2] - rest[2];
    const square = x * (inverse[0] * x + 2 * inverse[1] * y + 2 * inverse[2] * z) + y * (inverse[4] * y + 2 * inverse[5] * z) + z * inverse[8] * z;
    return Math.sqrt(Math.max(0, square * mean));
  };
}
