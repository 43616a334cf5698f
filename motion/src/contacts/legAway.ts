import { courseNoise } from "../signal/smoothCourse.ts";
import { type Away, plainAway } from "./segment.ts";
import { invertSymmetric3, leverage, tremblingOf } from "./standLine.ts";

/** Along the way to what carries it a part is off by this share of its mean trembling at least: joints' places are no surer. */
const SUREST = 0.05;

/** What the body's own trembling by `way` metres comes to beside that of joints, which makes `noise` metres of a part (both 1 σ an axis): as a variance of m² a radian². */
function besideJoints(way: number, noise: number, course: Float64Array, carriers: readonly Float64Array[]): number {
  const length = course.length / 3;
  const byJoints = noise * noise - way * way;
  return byJoints <= 0 ? Number.POSITIVE_INFINITY : (way * way * leverage({ start: 0, length, course, carriers, slope: [0, 0] })) / byJoints;
}

/**
 * How far a part of a trembling leg is from a place, by the trembling: a leg takes its foot across the way to its joints, and hardly along, so that what a foot
 * is off along counts for more (Mahalanobis' distance), in metres of its mean trembling. Heights are free by `heave`; the part trembles by `noise` metres, of which the
 * whole body does as its root shows. Where all of it is the body's, any way is alike.
 */
export function legAway(track: Float64Array, heave: number, course: Float64Array, carriers: readonly Float64Array[], noise: number): Away {
  const way = courseNoise(carriers[carriers.length - 1]);
  const body = way === 0 ? 0 : besideJoints(way, noise, course, carriers);
  if (body === Number.POSITIVE_INFINITY) return plainAway(track, heave);
  const m = new Float64Array(6);
  const inverse = new Float64Array(9);
  return (f, rest) => {
    tremblingOf(m, course, carriers, f);
    const mean = (m[0] + m[3] + m[5]) / 3 + body;
    const least = SUREST * mean + body;
    invertSymmetric3(inverse, 0, m[0] + least, m[1], m[2], m[3] + least, m[4], m[5] + least);
    const x = track[f * 3] - rest[0];
    const height = track[f * 3 + 1] - rest[1];
    const y = Math.sign(height) * Math.max(0, Math.abs(height) - heave);
    const z = track[f * 3 + 2] - rest[2];
    const square = x * (inverse[0] * x + 2 * inverse[1] * y + 2 * inverse[2] * z) + y * (inverse[4] * y + 2 * inverse[5] * z) + z * inverse[8] * z;
    return Math.sqrt(Math.max(0, square * mean));
  };
}
