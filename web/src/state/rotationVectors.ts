import { expQuatFlat, logQuatFlat, multiplyQuatFlat } from "@stride/motion";

/** Rotation vector, degrees, of turning by `second` first and then by `first` (quaternion product first · second). */
export function composed(first: readonly number[], second: readonly number[]): [number, number, number] {
  const rad = (v: readonly number[]) => v.map((x) => (x * Math.PI) / 180);
  const a = expQuatFlat([0, 0, 0, 1], 0, rad(first), 0);
  const b = expQuatFlat([0, 0, 0, 1], 0, rad(second), 0);
  const v = logQuatFlat([0, 0, 0], 0, multiplyQuatFlat(a, 0, a, 0, b, 0), 0);
  return [0, 1, 2].map((i) => rounded((v[i] * 180) / Math.PI)) as [number, number, number];
}

const rounded = (v: number) => Math.round(v * 1e6) / 1e6;

/** Unit quaternion of a rotation vector in degrees. */
export function rotationOf(degrees: readonly number[]): number[] {
  const angle = (Math.hypot(...degrees) * Math.PI) / 180;
  const k = angle < 1e-12 ? Math.PI / 360 : (Math.sin(angle / 2) / angle) * (Math.PI / 180);
  return [degrees[0] * k, degrees[1] * k, degrees[2] * k, Math.cos(angle / 2)];
}

/** Rotation vector in degrees of a unit quaternion. */
export function rotationDegrees(q: readonly number[]): number[] {
  const s = q[3] < 0 ? -1 : 1;
  const n = Math.hypot(q[0], q[1], q[2]);
  const k = (n < 1e-12 ? 2 : (2 * Math.atan2(n, q[3] * s)) / n) * s * (180 / Math.PI);
  return [q[0] * k, q[1] * k, q[2] * k];
}
