import { type Ground, groundHeight, groundNormal } from "../ground/ground.ts";

/** A sole that comes down: a level place of it, the level direction of its toes (unit), and how far it reaches from that place to the front and to the back, metres. */
export interface Sole2d {
  readonly x: number;
  readonly z: number;
  readonly dirX: number;
  readonly dirZ: number;
  readonly front: number;
  readonly back: number;
}

/** Where a sole is put down: moved so far along its toes' direction, on a surface of this height and normal under its place. */
export interface Foothold {
  readonly shift: number;
  readonly height: number;
  readonly normal: readonly [number, number, number];
}

/** A sole may be off the plane that it stands on by this much, and stand into a surface by that much, metres. */
const EVEN = 0.015;
const INTO = 0.004;
/** The furthest that a foothold is moved for a better one, and how finely it is sought, metres. */
const FURTHEST = 0.36;
const FINE = 0.01;
/** A foot likes this much air between it and whatever is higher before and behind it, and goes so far for it, metres. */
const AIR = 0.14;
const FOR_AIR = 0.18;
/** A surface within this of the one before is that one, metres. */
const AS_BEFORE = 0.03;
const LEAST_AIR = 0.05;

/**
 * The foothold nearest to where a sole comes down: the whole of it on one surface where there is such a place within reach, else with its heel over an
 * edge as people stand on narrow treads, and in any case with nothing of it inside the ground. Where the surface is as high as the one that it stood
 * on (`was`, metres) it stays where it is, if that holds it and is not right before a wall.
 */
export function footholdOn(ground: Ground, sole: Sole2d, was: number): Foothold {
  const at = (shift: number): Foothold => {
    const [x, z] = [sole.x + shift * sole.dirX, sole.z + shift * sole.dirZ];
    return { shift, height: groundHeight(ground, x, z), normal: groundNormal(ground, x, z) };
  };
  if (ground.shapes.length === 0) return at(0);
  /** How far the surface lies over (first) and under the plane of a foothold, from so far behind the sole to so far before it, metres. */
  const off = (hold: Foothold, air: number): [number, number] => {
    let [over, under] = [0, 0];
    const [nx, ny, nz] = hold.normal;
    const [back, front] = [-sole.back - air, sole.front + air];
    const count = Math.max(1, Math.ceil((front - back) / 0.03));
    for (let i = 0; i <= count; i++) {
      const s = back + ((front - back) * i) / count;
      const plane = hold.height - (s * (nx * sole.dirX + nz * sole.dirZ)) / ny;
      const reach = hold.shift + s;
      const gap = groundHeight(ground, sole.x + reach * sole.dirX, sole.z + reach * sole.dirZ) - plane;
      over = Math.max(over, gap);
      under = Math.max(under, -gap);
    }
    return [over, under];
  };
  let [even, overhanging]: [Foothold | null, Foothold | null] = [null, null];
  for (let d = 0; d <= FURTHEST; d += FINE) {
    for (const shift of d === 0 ? [0] : [d, -d]) {
      const hold = at(shift);
      const [over, under] = off(hold, 0);
      if (over <= EVEN && under <= EVEN) {
        if (d === 0 && Math.abs(hold.height - was) <= AS_BEFORE && off(hold, LEAST_AIR)[0] <= EVEN) return hold;
        if (d <= FOR_AIR && off(hold, AIR)[0] <= EVEN) return hold;
        even ??= hold;
      }
      if (over <= INTO) overhanging ??= hold;
    }
    if (even && d > FOR_AIR) break;
  }
  return even ?? overhanging ?? at(0);
}
