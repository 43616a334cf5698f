import { cross } from "../math/cross.ts";
import type { LimbParts } from "./limbPairs.ts";
import type { Side } from "./roles.ts";
import { meanDirection, type StanceSamples } from "./stance.ts";

export type Direction = readonly [number, number, number];

/** Joints at which the limbs of a pair that is known already begin. */
export interface Across {
  readonly left: number;
  readonly right: number;
}

/** Which side each limb of a pair is on, and why, in words for a person. */
export interface Sides {
  readonly order: readonly [Side, Side];
  readonly reason: string;
}

const ordered = (firstIsLeft: boolean): readonly [Side, Side] => (firstIsLeft ? ["left", "right"] : ["right", "left"]);

/** As the first limb of a pair is named. */
export function sidesByName(first: Side): Sides {
  return { order: ordered(first === "left"), reason: `${first} by name` };
}

/**
 * Sides of a pair that has no names. `facing`, of a four-legged body: the way it faces in the world, with `up` the vertical axis; left is up × forward. Arms lie over the legs (`legs`), however the
 * trunk is twisted. Legs say it by themselves, whichever way the body lies or crawls: toes point forward of the shin, and knees bend forward of the line from hip to ankle.
 */
export function sidesByPlace(samples: StanceSamples, limbs: readonly [LimbParts, LimbParts], legs: Across | null, facing: Direction | null, up: 1 | 2): Sides {
  const [first, second] = limbs;
  if (facing) {
    const across = meanDirection(samples, second.upper, first.upper);
    // (up × forward) · across, with up a coordinate axis of a right-handed frame.
    const [u, v] = up === 1 ? [2, 0] : [0, 1];
    return { order: ordered(facing[u] * across[v] - facing[v] * across[u] >= 0), reason: "side from where the fore legs are" };
  }
  let firstIsLeft = 0;
  for (let s = 0; s < samples.count; s++) {
    const way = (from: number, to: number): Direction => between(samples, s, from, to);
    const across = way(second.upper, first.upper);
    firstIsLeft += legs ? along(across, way(legs.right, legs.left)) : limbs.reduce((sum, limb) => sum + along(leftOf(limb, way), across), 0);
  }
  return { order: ordered(firstIsLeft >= 0), reason: legs ? "side from where the legs are" : "side from where feet and knees point" };
}

/** The left of a leg, by how its toes and its knee point: up × forward, longer where they show it more. */
function leftOf({ upper, lower, end, tip }: LimbParts, way: (from: number, to: number) => Direction): Float64Array {
  const byKnee = cross(way(end, upper), way(end, lower));
  const byToe = tip < 0 ? null : cross(way(end, lower), way(end, tip));
  return byKnee.map((v, i) => v + (byToe?.[i] ?? 0));
}

function between({ positions, pointCount }: StanceSamples, sample: number, from: number, to: number): Direction {
  const base = sample * pointCount * 3;
  const of = (i: number) => positions[base + to * 3 + i] - positions[base + from * 3 + i];
  return [of(0), of(1), of(2)];
}

function along(a: ArrayLike<number>, b: ArrayLike<number>): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}
