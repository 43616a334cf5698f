import { expQuatFlat, logQuatFlat, multiplyQuatFlat } from "./quat.ts";

/** Rotations as people read and type them: vectors whose direction is the axis and whose length the angle, degrees. */

const DEGREES = 180 / Math.PI;

/** Unit quaternion of a rotation vector in degrees. */
export function rotationOf(degrees: ArrayLike<number>): number[] {
  return expQuatFlat([0, 0, 0, 1], 0, [degrees[0] / DEGREES, degrees[1] / DEGREES, degrees[2] / DEGREES], 0) as number[];
}

/** Rotation vector in degrees of a unit quaternion, by the shorter way. */
export function rotationDegrees(q: ArrayLike<number>): [number, number, number] {
  const v = rotationRadians(q);
  return [v[0] * DEGREES, v[1] * DEGREES, v[2] * DEGREES];
}

/** The same in radians. */
export function rotationRadians(q: ArrayLike<number>): [number, number, number] {
  const v = logQuatFlat([0, 0, 0], 0, Array.from(q), 0);
  return [v[0], v[1], v[2]];
}

/** Rotation vector, degrees, of turning by `second` first and then by `first` (quaternion product first · second), rounded to a millionth. */
export function composed(first: ArrayLike<number>, second: ArrayLike<number>): [number, number, number] {
  const q = multiplyQuatFlat([0, 0, 0, 1], 0, rotationOf(first), 0, rotationOf(second), 0);
  return rotationDegrees(q as number[]).map((v) => Math.round(v * 1e6) / 1e6) as [number, number, number];
}
