import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Character } from "./character.ts";
import { type ContactPoint, type Leg, legsOf } from "./contactPoints.ts";
import { type RestSurface, restSurface, toeSole } from "./onSkin.ts";
import type { Rig } from "./rig.ts";
import type { Skin } from "./skin.ts";
import { type Carried, carriedVertices, placeOf, skinExtremes } from "./skinExtremes.ts";

/** What of a foot's skin can come near the ground, and what the foot turns about. */
export interface FootSkin {
  /** end of the leg, and the toe's or hoof's joint below it; −1 without */
  readonly foot: number;
  readonly toe: number;
  /** is it the hoof that turns, about its own joint? Else the foot does, about the ball */
  readonly hoof: boolean;
  /** the ball, and the heel, in the foot's frame, metres */
  readonly ball: Float64Array;
  readonly heel: Float64Array | null;
  /** the tip of its toe in that one's frame, metres */
  readonly tip: Float64Array | null;
  /** how far the furthest place is from the foot's joint, metres */
  readonly reach: number;
  readonly places: FootPlaces;
  /** how toes bend up; null where they do not, as a hoof */
  readonly bend: ToeBend | null;
}

/**
 * Vertices by the share s [place] that the toe has in each: in the foot's frame a place is `ofFoot` + s · the toe's place + `ofToe` turned as the toe is, both [place][3], metres, and weighted by the shares already.
 * Those before `mixed` are the foot's alone, those from `toes` on the toe's.
 */
export interface FootPlaces {
  readonly mixed: number;
  readonly toes: number;
  readonly shares: Float64Array;
  readonly ofFoot: Float64Array;
  readonly ofToe: Float64Array;
}

export interface ToeBend {
  /** what toes bend about in their joint's frame, so that a turn about it raises what lies in front */
  readonly hinge: readonly number[];
  /** places of the sole in front of the joint [place][3] in its frame, metres */
  readonly sole: Float64Array;
}

/** What a skin says of a leg's foot, its map being what it is. */
type Surface = Pick<FootSkin, "reach" | "places" | "bend">;
const read = new WeakMap<BodyMap, ReadonlyMap<number, Surface>>();

/** The feet of a body with a skin by their legs' ends; empty without a skin. Its surface is read once. */
export function footSkins(character: Character, points: readonly ContactPoint[]): ReadonlyMap<number, FootSkin> {
  const { skeleton, body, rig, details } = character;
  const { skin } = details;
  if (!skin) return new Map();
  const legs = legsOf(skeleton, body, rig);
  const surfaces = read.get(body) ?? surfacesOf(character, skin, legs);
  read.set(body, surfaces);
  const out = new Map<number, FootSkin>();
  for (const { end: foot, toe, parts, limb } of legs) {
    const surface = surfaces.get(foot);
    const own = points.filter((p) => parts.includes(p.id) && p.joint === foot);
    const [ball, heel] = [own.find((p) => !p.id.endsWith("Heel")), own.find((p) => p.id.endsWith("Heel"))];
    if (!surface || !ball) continue;
    const tip = points.find((p) => p.limb === limb && p.joint === toe);
    out.set(foot, {
      tip: tip ? Float64Array.from(tip.local) : null,
      foot,
      toe,
      hoof: isHoof(parts, toe),
      ball: Float64Array.from(ball.local),
      heel: heel ? Float64Array.from(heel.local) : null,
      ...surface,
    });
  }
  return out;
}

function isHoof(parts: Leg["parts"], toe: number): boolean {
  return parts.length === 1 && toe >= 0;
}

function surfacesOf({ skeleton, rig, height }: Character, skin: Skin, legs: readonly Leg[]): ReadonlyMap<number, Surface> {
  const surface = restSurface(skeleton, skin);
  const back = new Float64Array(4);
  const places = placesOf(surface, skin, legs, rig);
  return new Map(
    legs.flatMap(({ end: foot, toe, parts }): [number, Surface][] => {
      const own = places.get(foot);
      if (!own) return [];
      const sole = toe >= 0 && !isHoof(parts, toe) ? toeSole(toe, surface, rig, height) : new Float64Array(0);
      const hinge = [-rig.left[0], -rig.left[1], -rig.left[2]];
      if (toe >= 0) rotateVecFlat(hinge, 0, conjugateQuatFlat(back, 0, surface.world.rotations, toe * 4), 0, hinge, 0);
      return [[foot, { ...own, bend: sole.length > 0 ? { hinge, sole } : null }]];
    }),
  );
}

/** Ways in which a foot's surface is looked at, spread evenly over the sphere along a spiral; of those that look up, few: feet seldom lie on their backs. */
const LOOKS = 150;
const WAYS = Array.from({ length: LOOKS }, (_, i) => {
  const up = 1 - (2 * i + 1) / LOOKS;
  const turn = i * Math.PI * (3 - Math.sqrt(5));
  const wide = Math.sqrt(1 - up * up);
  return [wide * Math.cos(turn), up, wide * Math.sin(turn)];
}).filter(([, up], i) => up < 0.2 || i % 4 === 0);

/** So many of the lowest vertices that foot and toe share, each by this much at least: a bend pushes them out. */
const SEAM = 24;
const SHARED = 0.03;

function seamOf(surface: RestSurface, skin: Skin, { end, toe }: Leg, { up }: Rig): Carried[] {
  const { world, skeleton } = surface;
  const at = new Float64Array(3);
  return carriedVertices(skin, surface, new Set(surface.moved.get(end)))
    .filter(({ by }) => by.some(({ joint, weight }) => weight >= SHARED && ancestry(skeleton, joint).includes(toe)))
    .map((carried) => ({ carried, height: dot(up, placeOf(at, carried, world.positions, world.rotations)) }))
    .sort((a, b) => a.height - b.height)
    .slice(0, SEAM)
    .map(({ carried }) => carried);
}

function dot(a: ArrayLike<number>, b: ArrayLike<number>): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/** What sticks out furthest of the surface of each foot and what hangs on it, by the foot's joint; nothing of a foot without a surface. */
function placesOf(surface: RestSurface, skin: Skin, legs: readonly Leg[], rig: Rig): ReadonlyMap<number, Pick<FootSkin, "reach" | "places">> {
  const { world, skeleton } = surface;
  const back = new Float64Array(4);
  const at = new Float64Array(3);
  const inFrame = (joint: number, share: number): number[] => {
    if (joint < 0) return [0, 0, 0];
    const v = [0, 1, 2].map((c) => share * (at[c] - world.positions[joint * 3 + c]));
    rotateVecFlat(v, 0, conjugateQuatFlat(back, 0, world.rotations, joint * 4), 0, v, 0);
    return v;
  };
  const lists = new Map<number, { share: number; ofFoot: number[]; ofToe: number[]; reach: number }[]>(legs.map((leg) => [leg.end, []]));
  const seams = legs.flatMap((leg) => (leg.toe < 0 ? [] : seamOf(surface, skin, leg, rig)));
  for (const carried of [...skinExtremes(skin, surface, WAYS), ...seams]) {
    const leg = legs.find(({ end }) => ancestry(skeleton, carried.joint).includes(end));
    if (!leg) continue;
    placeOf(at, carried, world.positions, world.rotations);
    const exact = carried.by.reduce((sum, { joint, weight }) => sum + (ancestry(skeleton, joint).includes(leg.toe) ? weight : 0), 0);
    const share = exact < SHARED ? 0 : exact > 1 - SHARED ? 1 : exact;
    lists.get(leg.end)?.push({ share, ofFoot: inFrame(leg.end, 1 - share), ofToe: inFrame(leg.toe, share), reach: Math.hypot(...inFrame(leg.end, 1)) });
  }
  return new Map(
    [...lists].flatMap(([foot, list]) => {
      if (list.length === 0) return [];
      const sorted = list.sort((a, b) => a.share - b.share);
      const flat = (of: "ofFoot" | "ofToe") => Float64Array.from(sorted.flatMap((place) => place[of]));
      const shares = Float64Array.from(sorted, ({ share }) => share);
      const places = { mixed: shares.filter((share) => share === 0).length, toes: shares.filter((share) => share < 1).length, shares };
      return [[foot, { reach: Math.max(...list.map(({ reach }) => reach)), places: { ...places, ofFoot: flat("ofFoot"), ofToe: flat("ofToe") } }] as const];
    }),
  );
}
