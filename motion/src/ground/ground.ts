import { alongShape, type GroundShape, scaledShape, shapeLength, shapeProfile } from "./shapes.ts";

/**
 * What a body stands on: data that crosses threads, read through `groundHeight` and `groundNormal`. A plane
 * y = height + slopeX·x + slopeZ·z (metres; slopes are tangents), and shapes that stand on it or go down into it.
 */
export interface Ground {
  readonly height: number;
  readonly slopeX: number;
  readonly slopeZ: number;
  readonly shapes: readonly GroundShape[];
}

export const LEVEL_GROUND: Ground = { height: 0, slopeX: 0, slopeZ: 0, shapes: [] };

export function planeGround(height: number, slopeX = 0, slopeZ = 0): Ground {
  return { height, slopeX, slopeZ, shapes: [] };
}

/** Height of a ground's plane, without what stands on it, over a level place, metres. */
export function planeHeight(ground: Ground, x: number, z: number): number {
  return ground.height + ground.slopeX * x + ground.slopeZ * z;
}

interface Surface {
  readonly height: number;
  /** rise per metre along x and z */
  readonly slopeX: number;
  readonly slopeZ: number;
}

/** The surface at a level place: of the highest shape there, or of the plane where there is none. */
function surfaceAt(ground: Ground, x: number, z: number): Surface {
  let found: Surface | null = null;
  for (const shape of ground.shapes) {
    const { along, across } = alongShape(shape, x, z);
    if (along < 0 || along > shapeLength(shape) || Math.abs(across) > shape.width / 2) continue;
    const { height, grade } = shapeProfile(shape, along);
    const over = planeHeight(ground, shape.x, shape.z) + height;
    const a = (shape.heading * Math.PI) / 180;
    if (!found || over > found.height) found = { height: over, slopeX: grade * Math.sin(a), slopeZ: grade * Math.cos(a) };
  }
  return found ?? { height: planeHeight(ground, x, z), slopeX: ground.slopeX, slopeZ: ground.slopeZ };
}

/** Height of the surface over (or under) a level place, metres. */
export function groundHeight(ground: Ground, x: number, z: number): number {
  return ground.shapes.length === 0 ? planeHeight(ground, x, z) : surfaceAt(ground, x, z).height;
}

/** Unit normal of the surface at a level place, pointing up. */
export function groundNormal(ground: Ground, x: number, z: number): [number, number, number] {
  const { slopeX, slopeZ } = surfaceAt(ground, x, z);
  const n = Math.hypot(slopeX, 1, slopeZ);
  return [-slopeX / n, 1 / n, -slopeZ / n];
}

/** Tilt of the ground's plane against the horizontal, radians. */
export function groundTilt(ground: Ground): number {
  return Math.atan(Math.hypot(ground.slopeX, ground.slopeZ));
}

/** A ground so many times as large about the origin: the same slopes, higher steps, longer ways. */
export function scaledGround(ground: Ground, by: number): Ground {
  return { ...ground, height: ground.height * by, shapes: ground.shapes.map((shape) => scaledShape(shape, by)) };
}
