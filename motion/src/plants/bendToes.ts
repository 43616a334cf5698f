import type { ToeBend } from "../character/footSkin.ts";
import { type Ground, groundHeight, groundNormal } from "../ground/ground.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";

/** Toes bend up no further than this, radians: a foot bends at its ball by about 60°, and a little more under load. */
const FURTHEST = (65 * Math.PI) / 180;

const normal = new Float64Array(3);
const inverse = new Float64Array(4);
const offset = new Float64Array(3);

/**
 * How far toes have to be bent up so that nothing of their sole is in the ground, radians; `place` and `turn` are their joint's in the world, and what lies more than `inside` metres deep is inside something, which no bend helps.
 *
 * A place s of the sole, turned by θ about the hinge a, is over the ground's plane by h + A cos θ + B sin θ + C with n the plane's normal in the joint's frame, A = n·(s − (a·s)a), B = n·(a × s),
 * C = (a·s)(n·a) and h the joint's own height over it: it is out of the ground from θ = asin(−(h + C) / r) − atan2(A, B) on, r = √(A² + B²). Under a place the ground is a plane.
 */
export function toeBendNeeded({ hinge: a, sole }: ToeBend, place: ArrayLike<number>, turn: Float64Array, ground: Ground, inside: number): number {
  const [x, y, z] = [place[0], place[1], place[2]];
  const stepped = ground.shapes.length > 0;
  let world = groundNormal(ground, x, z);
  let height = (y - groundHeight(ground, x, z)) * world[1];
  conjugateQuatFlat(inverse, 0, turn, 0);
  rotateVecFlat(normal, 0, inverse, 0, world, 0);
  let bend = 0;
  for (let s = 0; s < sole.length; s += 3) {
    if (stepped) {
      rotateVecFlat(offset, 0, turn, 0, sole, s);
      const [px, pz] = [x + offset[0], z + offset[2]];
      world = groundNormal(ground, px, pz);
      rotateVecFlat(normal, 0, inverse, 0, world, 0);
      height = (y + offset[1] - groundHeight(ground, px, pz)) * world[1] - (world[0] * offset[0] + world[1] * offset[1] + world[2] * offset[2]);
    }
    const whole = normal[0] * sole[s] + normal[1] * sole[s + 1] + normal[2] * sole[s + 2];
    const gap = height + whole;
    if (gap >= 0 || gap < -inside) continue;
    const along = a[0] * sole[s] + a[1] * sole[s + 1] + a[2] * sole[s + 2];
    const A = whole - along * (normal[0] * a[0] + normal[1] * a[1] + normal[2] * a[2]);
    const B =
      normal[0] * (a[1] * sole[s + 2] - a[2] * sole[s + 1]) +
      normal[1] * (a[2] * sole[s] - a[0] * sole[s + 2]) +
      normal[2] * (a[0] * sole[s + 1] - a[1] * sole[s]);
    const r = Math.sqrt(A * A + B * B);
    if (r < 1e-6) continue;
    bend = Math.max(bend, Math.asin(Math.max(-1, Math.min(1, (A - gap) / r))) - Math.atan2(A, B));
  }
  return Math.min(FURTHEST, bend);
}
