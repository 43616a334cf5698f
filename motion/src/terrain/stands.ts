import type { Contact } from "../contacts/contact.ts";
import type { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint } from "../contacts/segment.ts";
import { type Ground, groundHeight, groundNormal, planeGround } from "../ground/ground.ts";
import { fromToQuatFlat, rotateVecFlat, setIdentityQuatFlat } from "../math/quat.ts";
import type { LimbEnd } from "../plants/plants.ts";
import { type StandSpan, standsOfEnd } from "../plants/stands.ts";
import { footholdOn } from "./footholds.ts";

/** A rigid move of the world that takes `from` to `to` and turns about it. */
export interface Carry {
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
  readonly turn: Float64Array;
}

/** A stand with the rigid move that takes it onto the new ground. */
export interface Stand extends StandSpan {
  readonly carry: Carry;
  /** what it stood on: the old ground, or a level of its own (a step) */
  readonly stoodOn: Ground;
}

/** The front of a foot beyond its toe joint, and the back beyond its heel, as a share of their distance. */
const TOES_BEYOND = 0.28;
const HEEL_BEYOND = 0.06;
/** A hoof or a hand takes up so much to either side of its point, metres. */
const AROUND_POINT = 0.03;

export function carriedPoint(carry: Carry, point: readonly [number, number, number]): [number, number, number] {
  const v = new Float64Array([0, 1, 2].map((i) => point[i] - carry.from[i]));
  rotateVecFlat(v, 0, carry.turn, 0, v, 0);
  return [carry.to[0] + v[0], carry.to[1] + v[1], carry.to[2] + v[2]];
}

/**
 * The stands of a limb's end with the move that carries each from one ground onto another. The move is one and the same over the whole stand, so that
 * what rests goes on resting and what rolls goes on rolling: the surface under the leading point (the toe where it rests) goes to the surface of the
 * nearest foothold, and its normal to that one's.
 */
export function standsOf(end: LimbEnd, contacts: readonly Contact[], tracks: PointTracks, from: Ground, to: Ground): Stand[] {
  return standsOfEnd(end, contacts).map((stand) => {
    const lead = leadOf(end, stand.contacts);
    const rest = restOf(lead, tracks);
    const stoodOn = lead.on === "ground" ? from : planeGround(rest[1] - (tracks.point(lead.point)?.clearance ?? 0));
    return { ...stand, stoodOn, carry: carryOf(end, lead, rest, tracks, stoodOn, to) };
  });
}

/** The contact that a stand is carried by: its toe's where that rests. */
function leadOf(end: LimbEnd, contacts: readonly Contact[]): Contact {
  return contacts.findLast((c) => c.point === end.points.at(-1)?.id) ?? contacts[0];
}

function carryOf(end: LimbEnd, lead: Contact, rest: readonly [number, number, number], tracks: PointTracks, stoodOn: Ground, to: Ground): Carry {
  const height = groundHeight(stoodOn, rest[0], rest[2]);
  const normal = groundNormal(stoodOn, rest[0], rest[2]);
  const middle = Math.round((lead.start + lead.end) / 2);
  const { dirX, dirZ, length } = direction(end, tracks, middle);
  const beyond = length > 0 ? { toes: TOES_BEYOND * length, heel: HEEL_BEYOND * length } : { toes: AROUND_POINT, heel: AROUND_POINT };
  // The tip of a toe leads as its toe does.
  const leadsByToe = lead.point !== end.points[0].id || end.points.length === 1;
  const sole = {
    x: rest[0],
    z: rest[2],
    dirX,
    dirZ,
    front: beyond.toes + (leadsByToe ? 0 : length),
    back: beyond.heel + (leadsByToe ? length : 0),
  };
  const hold = footholdOn(to, sole, height);
  const turn = setIdentityQuatFlat(new Float64Array(4), 0) as Float64Array;
  const same = hold.normal.every((v, i) => Math.abs(v - normal[i]) < 1e-9);
  if (!same) fromToQuatFlat(turn, 0, normal[0], normal[1], normal[2], hold.normal[0], hold.normal[1], hold.normal[2]);
  return { from: rest, to: [rest[0] + hold.shift * dirX, rest[1] + hold.height - height, rest[2] + hold.shift * dirZ], turn };
}

/** Where a contact rests: its anchor, or the middle of its course. */
function restOf(contact: Contact, tracks: PointTracks): readonly [number, number, number] {
  if (contact.anchor.point) return contact.anchor.point;
  const course = tracks.course(contact.point);
  return course ? middlePoint(course, contact.start, contact.end) : [0, 0, 0];
}

/** The level direction from a foot's heel to its toe at a frame, and how far apart they are; a hoof or a hand has none. */
function direction(end: LimbEnd, tracks: PointTracks, frame: number): { dirX: number; dirZ: number; length: number } {
  const [heel, toe] = end.points.map((p) => tracks.course(p.id));
  const none = { dirX: 0, dirZ: 1, length: 0 };
  if (!heel || !toe) return none;
  const [dx, dz] = [toe[frame * 3] - heel[frame * 3], toe[frame * 3 + 2] - heel[frame * 3 + 2]];
  const length = Math.hypot(dx, dz);
  return length < 1e-6 ? none : { dirX: dx / length, dirZ: dz / length, length };
}
