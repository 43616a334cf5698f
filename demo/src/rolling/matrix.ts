/** Vectors, and 3×3 matrices row by row: what the walks of this folder are computed with, and nothing else. */
export type Vec = readonly [number, number, number];
export type Mat = readonly number[];
export type Axis = "x" | "y" | "z";

export const SAME: Mat = [1, 0, 0, 0, 1, 0, 0, 0, 1];

export const plus = (a: Vec, b: Vec): Vec => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const minus = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scaled = (a: Vec, by: number): Vec => [a[0] * by, a[1] * by, a[2] * by];
export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const unit = (a: Vec): Vec => scaled(a, 1 / (Math.hypot(...a) || 1));
export const cross = (a: Vec, b: Vec): Vec => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

export const applied = (m: Mat, v: Vec): Vec => [
  m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
  m[3] * v[0] + m[4] * v[1] + m[5] * v[2],
  m[6] * v[0] + m[7] * v[1] + m[8] * v[2],
];

export const transposed = (m: Mat): Mat => [m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]];

export function product(...all: Mat[]): Mat {
  return all.reduce((a, b) => Array.from({ length: 9 }, (_, k) => [0, 1, 2].reduce((sum, i) => sum + a[k - (k % 3) + i] * b[i * 3 + (k % 3)], 0)));
}

/** A turn by an angle (radians, right-handed) about an axis of the world. */
export function turn(axis: Axis, angle: number): Mat {
  return turnAbout(axis === "x" ? [1, 0, 0] : axis === "y" ? [0, 1, 0] : [0, 0, 1], angle);
}

/** A turn about any axis (Rodrigues' formula). */
export function turnAbout(axis: Vec, angle: number): Mat {
  const [x, y, z] = unit(axis);
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const k = 1 - c;
  return [
    c + x * x * k,
    x * y * k - z * s,
    x * z * k + y * s,
    y * x * k + z * s,
    c + y * y * k,
    y * z * k - x * s,
    z * x * k - y * s,
    z * y * k + x * s,
    c + z * z * k,
  ];
}

/** The turn that takes the world's axes to three square directions. */
export const fromAxes = (x: Vec, y: Vec, z: Vec): Mat => [x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2]];

/** The three angles by which a turn is written about its axes in an order such as "zxy" (the first applied last), radians. The middle one is within a right angle. */
export function anglesOf(m: Mat, order: readonly [Axis, Axis, Axis]): Vec {
  const [a, b, c] = order.map((axis) => "xyz".indexOf(axis));
  const way = (b - a + 3) % 3 === 1 ? 1 : -1;
  // With the middle one a right angle the other two turn about the same axis: the first does it all.
  if (Math.abs(m[a * 3 + c]) > 1 - 1e-12) return [Math.atan2(way * m[c * 3 + b], m[b * 3 + b]), (way * m[a * 3 + c] * Math.PI) / 2, 0];
  return [
    Math.atan2(-way * m[b * 3 + c], m[c * 3 + c]),
    Math.asin(Math.max(-1, Math.min(1, way * m[a * 3 + c]))),
    Math.atan2(-way * m[a * 3 + b], m[a * 3 + a]),
  ];
}
