/**
 * What a body stands on: data that crosses threads, read through `groundHeight` and `groundNormal`. A plane
 * y = height + slopeX·x + slopeZ·z (metres; slopes are tangents) so far; other shapes join as further kinds of this union.
 */
export type Ground = PlaneGround;

export interface PlaneGround {
  readonly kind: "plane";
  readonly height: number;
  readonly slopeX: number;
  readonly slopeZ: number;
}

export const LEVEL_GROUND: PlaneGround = { kind: "plane", height: 0, slopeX: 0, slopeZ: 0 };

export function planeGround(height: number, slopeX = 0, slopeZ = 0): PlaneGround {
  return { kind: "plane", height, slopeX, slopeZ };
}

/** Height of the surface over (or under) a level place, metres. */
export function groundHeight(ground: Ground, x: number, z: number): number {
  return ground.height + ground.slopeX * x + ground.slopeZ * z;
}

/** Unit normal of the surface at a level place, pointing up. */
export function groundNormal(ground: Ground, _x: number, _z: number): [number, number, number] {
  const n = Math.hypot(ground.slopeX, 1, ground.slopeZ);
  return [-ground.slopeX / n, 1 / n, -ground.slopeZ / n];
}

/** Tilt of the surface at a level place against the horizontal, radians. */
export function groundTilt(ground: Ground, x = 0, z = 0): number {
  const [nx, ny, nz] = groundNormal(ground, x, z);
  return Math.atan2(Math.hypot(nx, nz), ny);
}
