import { axisAngleQuatFlat, conjugateQuatFlat, multiplyQuatFlat, rotateVecFlat } from "@stride/motion";

/** Rotations as plain 4-arrays, for the generator (which runs once, so may allocate). */
export type Quat = readonly [number, number, number, number];
export type Vec = readonly [number, number, number];

export const IDENTITY: Quat = [0, 0, 0, 1];

export function about(axis: "x" | "y" | "z", angle: number): Quat {
  const q = [0, 0, 0, 1];
  axisAngleQuatFlat(q, 0, axis === "x" ? 1 : 0, axis === "y" ? 1 : 0, axis === "z" ? 1 : 0, angle);
  return q as unknown as Quat;
}

export function times(...turns: readonly Quat[]): Quat {
  const q = [0, 0, 0, 1];
  for (const turn of turns) multiplyQuatFlat(q, 0, q, 0, [...turn], 0);
  return q as unknown as Quat;
}

export function inverse(q: Quat): Quat {
  const r = [0, 0, 0, 1];
  conjugateQuatFlat(r, 0, [...q], 0);
  return r as unknown as Quat;
}

export function turned(q: Quat, v: Vec): Vec {
  const r = [0, 0, 0];
  rotateVecFlat(r, 0, [...q], 0, [...v], 0);
  return r as unknown as Vec;
}

export function plus(a: Vec, b: Vec, scale = 1): Vec {
  return [a[0] + b[0] * scale, a[1] + b[1] * scale, a[2] + b[2] * scale];
}
