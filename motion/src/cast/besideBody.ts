import type { Character } from "../character/character.ts";
import { Alongside, PlacedVolume } from "./placedVolume.ts";
import type { Posed } from "./someJoints.ts";

/** Within the first a hand meets what is near it, beyond the second it has nothing to do with it: shares of the arm's length, from surface to palm (palm to palm). */
const BODY_MEETS = [0.06, 0.25] as const;
/** On the new body, where it was further off on the other. */
const COMES_NEAR = [0, 0.08] as const;
const HANDS_MEET = [0.25, 0.6] as const;
/** Below this weight a hand is left where it is. */
export const NOTHING = 1e-4;
/** Of several parts near a hand the nearest counts most: weights fall with this power of the distance. */
const FALL = 4;
const CLOSE = 0.01;
/** What is further off than so many arms does not count at all. */
const MATTERS = 0.6;

/** A part of the body that hands may touch, as two bodies have it. */
export interface Met {
  /** the same part on either body */
  readonly from: PlacedVolume;
  readonly to: PlacedVolume;
  /** how far its surface is from its axis at most, on either body */
  readonly widest: number;
  readonly widestHere: number;
  /** where each palm is alongside it on the source, in this frame; and whether it is near enough to count */
  readonly palms: readonly { readonly at: Alongside; counts: boolean }[];
}

/** Parts that hands touch: trunk, neck, head, thighs, of bodies that both have them. */
export function metParts(target: Character, source: Character): Met[] {
  const roles = ["hips", "spine", "spine2", "spine3", "chest", "neck", "head", "leftThigh", "rightThigh"] as const;
  return roles.flatMap((role): Met[] => {
    const [from, to] = [source, target].map((c) => c.volumes.find((v) => v.joint === c.body.roles[role]));
    if (!from || !to) return [];
    return [
      {
        from: new PlacedVolume(from),
        to: new PlacedVolume(to),
        widest: Math.max(from.size[0], from.size[2]),
        widestHere: Math.max(to.size[0], to.size[2]),
        palms: [0, 1].map(() => ({ at: new Alongside(), counts: false })),
      },
    ];
  });
}

/** How much a palm is led by its nearness to the other one, and to the body: 0..1 each. */
export interface Nearness {
  readonly hands: number;
  readonly body: number;
}

/** Places the parts of the source where a pose has them, and tells how near the palms are. What counts of the parts is kept in them for this frame. */
export function nearness(palms: readonly { readonly from: Float64Array }[], met: readonly Met[], pose: Posed, reach: number): Nearness[] {
  for (const part of met) part.from.place(pose);
  return palms.map(({ from: palm }, i) => {
    const other = palms[1 - i]?.from;
    const apart = other ? Math.hypot(palm[0] - other[0], palm[1] - other[1], palm[2] - other[2]) : Number.POSITIVE_INFINITY;
    let nearest = Number.POSITIVE_INFINITY;
    for (const { from, widest, palms: seen } of met) {
      const own = seen[i];
      own.counts = nearAxis(from, palm, MATTERS * reach + widest);
      if (!own.counts) continue;
      const { away, radius } = from.alongside(own.at, palm);
      nearest = Math.min(nearest, Math.max(0, away - radius));
    }
    return { hands: meets(apart, HANDS_MEET, reach), body: meets(nearest, BODY_MEETS, reach) };
  });
}

/** How much a palm is led by its nearness to the new body, whose arm reaches so far: 0..1. */
export function comesNear(palm: Float64Array, met: readonly Met[], reach: number): number {
  let nearest = Number.POSITIVE_INFINITY;
  for (const { to, widestHere } of met) {
    if (!nearAxis(to, palm, COMES_NEAR[1] * reach + widestHere)) continue;
    const { away, radius } = to.alongside(beside, palm);
    nearest = Math.min(nearest, Math.max(0, away - radius));
  }
  return meets(nearest, COMES_NEAR, reach);
}

const beside = new Alongside();

/** Is a place so near to a volume's axis? */
function nearAxis({ start, axis, volume }: PlacedVolume, place: ArrayLike<number>, far: number): boolean {
  const px = place[0] - start[0];
  const py = place[1] - start[1];
  const pz = place[2] - start[2];
  const t = Math.max(0, Math.min(volume.size[1], px * axis[0] + py * axis[1] + pz * axis[2]));
  const dx = px - t * axis[0];
  const dy = py - t * axis[1];
  const dz = pz - t * axis[2];
  return dx * dx + dy * dy + dz * dz < far * far;
}

/** Where a palm should be for its distance to the body; null where nothing of it counts. The parts of the other body are where its pose has them. */
export function besideBody(i: number, met: readonly Met[], reach: number, scale: number): number[] | null {
  let sum = 0;
  const place = [0, 0, 0];
  for (const { to, palms: seen } of met) {
    const { at, counts } = seen[i];
    if (!counts) continue;
    const distance = Math.max(0, at.away - at.radius);
    const weight = 1 / (distance / reach + CLOSE) ** FALL;
    const out = to.radius(at.outward, at.along) + (at.away - at.radius) * scale;
    const far = at.along * to.volume.size[1];
    sum += weight;
    for (let c = 0; c < 3; c++) place[c] += weight * (to.start[c] + far * to.axis[c] + at.outward[c] * out);
  }
  return sum > 0 ? place.map((v) => v / sum) : null;
}

/** How far a palm is from the nearest of the parts that count for it, metres, below zero inside. */
export function nearestAway(met: readonly Met[], i: number): number {
  return met.reduce(
    (nearest, { palms: seen }) => (seen[i].counts ? Math.min(nearest, seen[i].at.away - seen[i].at.radius) : nearest),
    Number.POSITIVE_INFINITY,
  );
}

/** 1 within the nearer bound, 0 beyond the farther, smooth in between (both shares of the reach). */
export function meets(distance: number, [near, far]: readonly [number, number], reach: number): number {
  const u = Math.max(0, Math.min(1, (far * reach - distance) / ((far - near) * reach)));
  return u * u * u * (u * (6 * u - 15) + 10);
}
