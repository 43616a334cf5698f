import type { Character } from "../character/character.ts";
import type { ContactPoint } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import { type Ground, groundHeight, LEVEL_GROUND } from "../ground/ground.ts";
import { leastLeap, withoutLeaps } from "../signal/leaps.ts";
import { withoutRepeats } from "../signal/repeats.ts";
import { onFrames, posesOf } from "./byPoses.ts";
import { type Contact, sortContacts } from "./contact.ts";
import { type FeetFound, findFeet } from "./findFeet.ts";
import { findOthers } from "./findOthers.ts";
import { takenAlong, wayOnTheSpot } from "./onTheSpot.ts";
import { PointTracks } from "./pointTracks.ts";
import { middlePoint } from "./segment.ts";
import { travelByHolds } from "./travelByHolds.ts";

/** What a clip was taken for: do its feet carry the body, so that ground and travel can be read off them? */
export interface Support {
  readonly byFeet: boolean;
  /** do they go up or down more than along, as on a ladder or a wall: each on a hold of its own? */
  readonly climbs: boolean;
  /** of the clip's frames, those on which a foot seems to rest under the body */
  readonly share: number;
  /** how fast the ground passes under it, m/s: it walks or runs on the spot; 0: it goes by itself, if it does */
  readonly passing: number;
  /** did a person say so? */
  readonly said: boolean;
}

/** What stands where in a clip: the character's contact points as this clip shows them, their contacts, and the ground under them (in the clip's world). */
export interface Grounding {
  readonly points: readonly ContactPoint[];
  readonly contacts: readonly Contact[];
  readonly ground: Ground;
  readonly support: Support;
  /** the level way [frame][2] that a body which walks on the spot goes over its ground, metres: contacts and ground are as that sees it; null where the ground lies still */
  readonly way: Float64Array | null;
}

/** What a person says of what carries a body: its feet, also while the ground passes under one that walks on the spot; its feet, on ground that lies still; or other parts, or nothing. */
export type CarriedBy = "feet" | "stillGround" | "other";

/** A body whose feet rest on fewer of its frames than this hangs, swims, flies or lies: even in a run they do for half of the time. */
const LEAST_SHARE = 0.2;

/** A body whose hands hold on, or that sits, for more of a clip than this, and whose feet rest on less of it, is carried by those. */
const HANGS = 0.6;
/** Feet that rest on places further above each other than this, as a share of the body's height, and than they are apart along, climb. */
const CLIMBS = 0.25;

/**
 * Finds what rests where: feet and the ground under them, then the other parts. Where the feet hardly rest at all under the body they do not carry it: what
 * was found of them is chance, and says nothing of the ground. Nor does it where they climb, but then they rest on their holds. Under a body that walks on the spot the ground passes: it is looked for
 * as that sees it. A clip that goes by steps is looked at pose by pose. `carriedBy` is what a person says of it, if anything. `pause` is called now and then; what it throws ends the search.
 */
export function findContacts(character: Character, source: Clip, carriedBy: CarriedBy | null = null, pause: () => void = () => {}): Grounding {
  const poses = posesOf(source);
  const found = findIn(character, poses?.clip ?? source, carriedBy, pause);
  return poses ? onFrames(found, poses, source.frameCount) : found;
}

function findIn(character: Character, source: Clip, carriedBy: CarriedBy | null, pause: () => void): Grounding {
  // What leaps away with the whole body for one frame, or is shown a frame late, has not left the ground.
  const clip = withoutLeaps(withoutRepeats(source), leastLeap(character));
  const even = carriedBy === null || carriedBy === "feet" ? wayOnTheSpot(character, clip) : null;
  if (even) {
    const { travel, ...found } = search(character, takenAlong(character, clip, even), carriedBy, pause);
    const way = unevenly(even, travel);
    const last = way.length - 2;
    const passing = Math.hypot(way[last], way[last + 1]) / ((clip.frameCount - 1) / clip.fps);
    if (found.support.byFeet) return { ...found, way, support: { ...found.support, passing } };
  }
  const { travel, ...found } = search(character, clip, carriedBy, pause);
  return found;
}

/** An even way with what feet still ask for along it: the ground under a body that was put to the spot on every frame goes as unevenly as that did. */
function unevenly(even: Float64Array, travel: Float64Array): Float64Array {
  const last = even.slice(-2);
  const [x, z] = last.map((v) => v / Math.hypot(...last));
  return even.map((v, i) => v - (i & 1 ? z : x) * (x * travel[i & ~1] + z * travel[i | 1]));
}

function search(character: Character, clip: Clip, said: CarriedBy | null, pause: () => void): Grounding & { readonly travel: Float64Array } {
  const carriedBy = said === "stillGround" ? "feet" : said;
  const feet = findFeet(character, clip, pause);
  pause();
  const share = shareOf(
    feet.under.map(({ contact }) => contact),
    clip,
  );
  const climbs = carriedBy === null && climb(feet, character);
  const others = (byFeet: boolean) =>
    byFeet || climbs
      ? findOthers(character, clip, byFeet ? feet.ground : LEVEL_GROUND, feet.contacts, feet.travel, byFeet ? feet.heave : undefined)
      : ofHanging(character, clip);
  const may = carriedBy === null ? share >= LEAST_SHARE && !climbs : carriedBy === "feet";
  // What dangles comes to rest now and then.
  const hanging = may && carriedBy === null && share < HANGS ? others(false) : null;
  const byFeet = may && !(hanging && heldShare(hanging.contacts, clip) >= HANGS);
  const found = !byFeet && hanging ? hanging : others(byFeet);
  const ground = byFeet ? feet.ground : LEVEL_GROUND;
  const beside =
    byFeet || climbs
      ? []
      : besideBody(feet.contacts, found.contacts, new PointTracks(character.skeleton, clip, feet.points), ground, BESIDE * character.height);
  const points = (byFeet || climbs || beside.length > 0 ? feet.points : character.contactPoints).map((p) => found.points.get(p.id) ?? p);
  return {
    points,
    contacts: sortContacts([
      ...(byFeet ? standing(feet.contacts, found.contacts, new PointTracks(character.skeleton, clip, points), ground) : []),
      ...beside,
      ...(climbs ? feet.contacts.map((contact) => ({ ...contact, on: "place" as const })) : []),
      ...found.contacts,
    ]),
    ground,
    support: { byFeet, climbs, share, passing: 0, said: carriedBy !== null },
    way: null,
    travel: feet.travel,
  };
}

/** The parts of a body that its feet do not carry: seen with the travel put right that its hands and seat show, where they hold on for longer so. */
function ofHanging(character: Character, clip: Clip): ReturnType<typeof findOthers> {
  const asItComes = findOthers(character, clip, LEVEL_GROUND, [], new Float64Array(clip.frameCount * 2));
  const travel = travelByHolds(character, clip);
  const put = travel && findOthers(character, clip, LEVEL_GROUND, [], travel);
  return put && heldShare(put.contacts, clip) > heldShare(asItComes.contacts, clip) ? put : asItComes;
}

/** Of a clip's frames, the share on which a hand holds on to something, or the body sits. */
function heldShare(contacts: readonly Contact[], clip: Clip): number {
  return shareOf(
    contacts.filter(({ on, point }) => on === "place" && /Hand$|^seat$/.test(point)),
    clip,
  );
}

/** Of a clip's frames, the share on which one of some contacts is in force. */
function shareOf(contacts: readonly Contact[], { frameCount }: Clip): number {
  const rests = new Uint8Array(frameCount);
  for (const contact of contacts) rests.fill(1, contact.start, contact.end + 1);
  return rests.reduce((sum, v) => sum + v, 0) / frameCount;
}

/** Do the feet rest above each other rather than beside each other? */
function climb({ under }: FeetFound, { height }: Character): boolean {
  const spread = [0, 1, 2].map((axis) => {
    const values = under.map(({ place }) => place[axis]);
    return Math.max(...values) - Math.min(...values);
  });
  return under.length > 2 && spread[1] > CLIMBS * height && spread[1] > Math.hypot(spread[0], spread[2]);
}

/** Feet that rest as low as what a body sits or lies on, within so much of its height, stand on the same: where either's surface is, is an estimate. */
const BESIDE = 0.04;

/** Feet without those that only seem to stand on something: held up while the trunk lies on the ground, they carry nothing. */
function standing(feet: readonly Contact[], others: readonly Contact[], tracks: PointTracks, ground: Ground): Contact[] {
  const lying = others.filter((c) => c.on === "ground" && (c.point === "back" || c.point === "seat"));
  return feet.filter((foot) => {
    const course = tracks.course(foot.point);
    if (!course || !lying.some((c) => c.start <= foot.end && c.end >= foot.start)) return true;
    const rest = middlePoint(course, foot.start, foot.end);
    const point = tracks.point(foot.point);
    const alone =
      point?.modelled === false &&
      !feet.some((c) => c.point !== foot.point && tracks.point(c.point)?.limb === point.limb && c.start <= foot.end && c.end >= foot.start);
    return Math.abs(rest[1] - (point?.clearance ?? 0) - groundHeight(ground, rest[0], rest[2])) <= (alone ? HEEL_OFF_GROUND : OFF_GROUND);
  });
}

/** Feet of a body that sits or lies on the ground, where they rest as low as it does: they do not carry it, but stand beside it. Heels alone say too little. `most` is what heights may differ by, metres. */
function besideBody(feet: readonly Contact[], others: readonly Contact[], tracks: PointTracks, ground: Ground, most: number): Contact[] {
  const restOf = (contact: Contact, [from, to]: readonly [number, number]) => {
    const course = tracks.course(contact.point);
    return course && middlePoint(course, from, to);
  };
  const lying = others.filter((c) => c.on === "ground" && (c.point === "back" || c.point === "seat"));
  const low = (foot: Contact): boolean => {
    const rest = restOf(foot, [foot.start, foot.end]);
    if (!rest) return false;
    const over = rest[1] - (tracks.point(foot.point)?.clearance ?? 0);
    return lying.some((c) => {
      const both = [Math.max(c.start, foot.start), Math.min(c.end, foot.end)] as const;
      const under = both[1] >= both[0] ? restOf(c, both) : undefined;
      return under !== undefined && Math.abs(over - under[1]) <= most;
    });
  };
  const toes = feet.filter((c) => tracks.point(c.point)?.modelled !== false && low(c));
  return feet
    .filter((c) => toes.some((toe) => toe === c || (tracks.point(toe.point)?.limb === tracks.point(c.point)?.limb && toe.start <= c.end && toe.end >= c.start)))
    .map((contact) => {
      const rest = restOf(contact, [contact.start, contact.end]);
      const over = rest ? rest[1] - (tracks.point(contact.point)?.clearance ?? 0) - groundHeight(ground, rest[0], rest[2]) : 0;
      return Math.abs(over) <= HEEL_OFF_GROUND ? contact : { ...contact, on: "place" as const };
    });
}

/** Where a heel is is an estimate for feet that stand: alone it has to be nearer to the ground, metres. */
const HEEL_OFF_GROUND = 0.012;

/** Metres off the ground from which a contact is taken to rest on something of its own: a step, a box, a rail. */
export const OFF_GROUND = 0.05;

/** Contacts that rest well away from the ground keep their own height; those whose place a person set, or that rest on a part, stay as they are. */
export function settleSurfaces(contacts: readonly Contact[], tracks: PointTracks, ground: Ground, decided: ReadonlySet<Contact>): Contact[] {
  return contacts.map((contact) => {
    const course = contact.on === "ground" && !decided.has(contact) ? tracks.course(contact.point) : undefined;
    if (!course) return contact;
    const rest = middlePoint(course, contact.start, contact.end);
    const clearance = tracks.point(contact.point)?.clearance ?? 0;
    return Math.abs(rest[1] - clearance - groundHeight(ground, rest[0], rest[2])) > OFF_GROUND ? { ...contact, on: "place" as const } : contact;
  });
}
