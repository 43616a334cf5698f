import type { ContactPoint } from "../character/contactPoints.ts";
import { type Contact, sortContacts } from "../contacts/contact.ts";
import type { Ground } from "../ground/ground.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { GroundTravel, Motion } from "../motion.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import { type Mirror, type MirrorPlace, mirrorFor, type StrayRootKeys } from "./mirror.ts";
import { mirroredClip } from "./mirrorClip.ts";
import { type MirrorPairs, mirrorPairs, reflect } from "./pairs.ts";

/** The contact point of the same place on the other side: leftHeel ↔ rightHeel. */
export function otherPoint(id: string): string {
  return id.startsWith("left") ? `right${id.slice(4)}` : id.startsWith("right") ? `left${id.slice(5)}` : id;
}

/** A motion as a mirror shows it: its clip, and with it contacts, the points that they rest by, and the ground. */
export function mirroredMotion(motion: Motion, where: MirrorPlace, stray: StrayRootKeys): Motion {
  const { character } = motion;
  const { mirror, shift } = mirrorFor(character, motion.clip, where);
  const pairs = mirrorPairs(character);
  const clip = mirroredClip(character, motion.clip, mirror, shift, stray);
  const points = motion.points.map((p) => mirroredPoint(motion, p, pairs));
  return {
    ...motion,
    clip,
    points,
    contacts: sortContacts(motion.contacts.map((c) => mirroredContact(c, points, pairs, mirror, shift))),
    ground: mirroredGround(motion.ground, mirror, shift),
    groundTravel: motion.groundTravel && mirroredTravel(motion.groundTravel, mirror),
    settled: null,
  };
}

/** A point as its partner shows it: where the foot of the other side rolls, this one now does. */
function mirroredPoint({ character, points }: Motion, point: ContactPoint, { partner, turns }: MirrorPairs): ContactPoint {
  const other = points.find((p) => p.id === otherPoint(point.id));
  if (!other || other.id === point.id || partner[point.joint] !== other.joint) return point;
  const { rotations } = restWorld(character.skeleton);
  const v = new Float64Array(3);
  const q = new Float64Array(4);
  rotateVecFlat(v, 0, rotations, other.joint * 4, other.local, 0);
  reflect(v, 0, v, 0, character.rig.left);
  for (const [list, joint] of [
    [turns, point.joint],
    [rotations, point.joint],
  ] as const) {
    conjugateQuatFlat(q, 0, list, joint * 4);
    rotateVecFlat(v, 0, q, 0, v, 0);
  }
  return { ...point, local: [v[0], v[1], v[2]], clearance: other.clearance, modelled: other.modelled };
}

function mirroredContact(
  contact: Contact,
  points: readonly ContactPoint[],
  { partner }: MirrorPairs,
  mirror: Mirror,
  shift: readonly [number, number],
): Contact {
  const id = otherPoint(contact.point);
  const point = points.some((p) => p.id === id) ? id : contact.point;
  const on = typeof contact.on === "object" ? { joint: partner[contact.on.joint] } : contact.on;
  const { anchor } = contact;
  // A place on a part of the body lies in that part's frame, and a place of the world in the world.
  const place = anchor.point === null || typeof on === "object" ? anchor.point : imageOf(anchor.point, mirror, shift);
  return { ...contact, point, joint: partner[contact.joint], on, anchor: { ...anchor, point: place } };
}

function imageOf(place: readonly [number, number, number], mirror: Mirror, shift: readonly [number, number]): [number, number, number] {
  const v = new Float64Array([place[0] - mirror.x, place[1], place[2] - mirror.z]);
  reflect(v, 0, v, 0, mirror.normal);
  return [v[0] + mirror.x + shift[0], v[1], v[2] + mirror.z + shift[1]];
}

/** The ground as the mirror shows it: y'(x) = y(image of x). */
function mirroredGround(ground: Ground, mirror: Mirror, shift: readonly [number, number]): Ground {
  if (ground.slopeX === 0 && ground.slopeZ === 0 && ground.shapes.length === 0) return ground;
  const slope = new Float64Array([ground.slopeX, 0, ground.slopeZ]);
  reflect(slope, 0, slope, 0, mirror.normal);
  const [x, , z] = imageOf([0, 0, 0], mirror, shift);
  const [slopeX, slopeZ] = [slope[0], slope[2]];
  const shapes = ground.shapes.map((shape) => {
    const [sx, , sz] = imageOf([shape.x, 0, shape.z], mirror, shift);
    const a = (shape.heading * Math.PI) / 180;
    const way = new Float64Array([Math.sin(a), 0, Math.cos(a)]);
    reflect(way, 0, way, 0, mirror.normal);
    return { ...shape, x: sx, z: sz, heading: (Math.atan2(way[0], way[2]) * 180) / Math.PI };
  });
  return { height: ground.height - slopeX * x - slopeZ * z, slopeX, slopeZ, shapes };
}

function mirroredTravel({ x, z }: GroundTravel, { normal }: Mirror): GroundTravel {
  const v = new Float64Array(3);
  const out = { x: new Float64Array(x.length), z: new Float64Array(z.length) };
  for (let f = 0; f < x.length; f++) {
    reflect(v, 0, [x[f], 0, z[f]], 0, normal);
    out.x[f] = v[0];
    out.z[f] = v[2];
  }
  return out;
}
