import type { Character } from "../character/character.ts";
import { type ContactPoint, legsOf } from "../character/contactPoints.ts";
import { buildSole, type Sole } from "../character/soles.ts";
import type { Clip } from "../clip/clip.ts";
import { fitGround, type RestPoint } from "../ground/fitGround.ts";
import { type Ground, groundHeight, groundTilt, LEVEL_GROUND, type PlaneGround, planeGround } from "../ground/ground.ts";
import { lowPass } from "../signal/filters.ts";
import { noiseLevel } from "../signal/robust.ts";
import { boneLength, type Skeleton } from "../skeleton/skeleton.ts";
import { calibrateSole, evenDepths } from "./calibrate.ts";
import { type Contact, sortContacts } from "./contact.ts";
import type { PointTracks } from "./pointTracks.ts";
import { middlePoint, refineSpan, segmentContacts, smoothedNoise, smoothingFor } from "./segment.ts";
import { pointTrack } from "./tracks.ts";
import { integrateTravel, travelError } from "./travel.ts";

/** What stands where in a clip: the character's contact points as this clip shows them, their contacts, and the ground under them (in the clip's world). */
export interface Grounding {
  readonly points: readonly ContactPoint[];
  readonly contacts: readonly Contact[];
  readonly ground: Ground;
}

/** Rounds of: find spans, take the travel error out, fit the ground, look again with a sharper eye. Shares of the swing speed. */
const SPEED_SHARES = [0.22, 0.14, 0.1];
/** Tilt below this is taken for level, radians: short walks cannot tell it from noise. */
const LEAST_TILT = (0.75 * Math.PI) / 180;

/** Finds ground and contacts of a clip, also while its feet skate, float, sink or jitter, at any frame rate and body size. Looks at the points that bear the body. */
export function findContacts(character: Character, clip: Clip): Grounding {
  const { skeleton, body, rig } = character;
  const legs = legsOf(skeleton, body, rig);
  if (legs.length === 0 || clip.frameCount < 3) return { points: character.contactPoints, contacts: [], ground: LEVEL_GROUND };
  let soles = legs.map((leg) => buildSole(skeleton, clip, leg));
  const named = (id: string) => character.contactPoints.find((p) => p.id === id)?.named ?? 0;
  let ground: PlaneGround | undefined;
  let contacts: Contact[] = [];
  let travel: Float64Array = new Float64Array(clip.frameCount * 2);
  SPEED_SHARES.forEach((speedShare, round) => {
    const last = round === SPEED_SHARES.length - 1;
    contacts = findRound(skeleton, clip, soles, named, travel, ground, speedShare, last);
    const courses = soleCourses(soles);
    travel = integrateTravel(
      travelError(contacts, (id) => courses.get(id), clip.frameCount, clip.fps),
      clip.fps,
    );
    if (round === 1) soles = evenDepths(soles.map((sole) => calibrateSole(sole, contacts, travel)));
    ground = fitGround(restPoints(soles, contacts));
  });
  const settled = settleGround(ground ?? LEVEL_GROUND, soles, contacts);
  const calibrated = new Map(settled.soles.flatMap((sole) => sole.points.map((p) => [p.id, p.local] as const)));
  return {
    points: character.contactPoints.map((p) => ({ ...p, local: calibrated.get(p.id) ?? p.local })),
    ground: settled.ground,
    contacts: sortContacts(contacts),
  };
}

/** World course of every point of some soles. */
function soleCourses(soles: readonly Sole[]): Map<string, Float64Array> {
  return new Map(soles.flatMap((sole) => sole.points.map(({ id, local }) => [id, pointTrack(sole.track, [...local])] as const)));
}

function findRound(
  skeleton: Skeleton,
  clip: Clip,
  soles: readonly Sole[],
  named: (id: string) => number,
  travel: Float64Array,
  ground: Ground | undefined,
  speedShare: number,
  refine: boolean,
): Contact[] {
  const { frameCount: n, fps } = clip;
  const contacts: Contact[] = [];
  const courses = soleCourses(soles);
  for (const sole of soles) {
    const legLength = boneLength(skeleton, sole.leg.lower) + boneLength(skeleton, sole.leg.end);
    for (const { id } of sole.points) {
      const raw = courses.get(id);
      if (!raw) continue;
      const height = ground ? Float64Array.from({ length: n }, (_, f) => raw[f * 3 + 1] - groundHeight(ground, raw[f * 3], raw[f * 3 + 2])) : null;
      const track = raw.slice();
      for (let f = 0; f < n; f++) {
        track[f * 3] -= travel[f * 2];
        track[f * 3 + 2] -= travel[f * 2 + 1];
        if (ground) track[f * 3 + 1] -= groundHeight(ground, raw[f * 3], raw[f * 3 + 2]);
      }
      const spans = segmentContacts({ track, height, frameCount: n, fps, legLength, speedShare });
      const noise = Math.max(...[0, 1, 2].map((axis) => noiseLevel(track.filter((_, i) => i % 3 === axis))));
      const tolerance = Math.max(REST_TOLERANCE * (legLength / 0.9), 3.6 * smoothedNoise(noise, fps));
      const calm = refine ? smoothTrack(track, n, fps, smoothingFor(noise)) : track;
      spans.forEach((span, i) => {
        const bounds = [i > 0 ? spans[i - 1][1] + 2 : 0, i + 1 < spans.length ? spans[i + 1][0] - 2 : n - 1] as const;
        const refined = refine ? refineSpan(calm, span, bounds, tolerance, Math.max(2, Math.round(0.09 * fps))) : span;
        if (!refined) return;
        contacts.push({
          point: id,
          joint: named(id),
          start: refined[0],
          end: refined[1],
          on: "ground",
          anchor: { mode: "settle", point: null },
          rampIn: null,
          rampOut: null,
          origin: "found",
        });
      });
    }
  }
  return contacts;
}

/** How far a resting part of a clean clip may be from its place, metres for a leg of 0.9 m. */
const REST_TOLERANCE = 0.0025;

function smoothTrack(track: Float64Array, n: number, fps: number, cutoff: number): Float64Array {
  const out = new Float64Array(n * 3);
  for (let axis = 0; axis < 3; axis++)
    lowPass(track, n, axis, 3, fps, cutoff).forEach((v, f) => {
      out[f * 3 + axis] = v;
    });
  return out;
}

function restPoints(soles: readonly Sole[], contacts: readonly Contact[]): RestPoint[] {
  const courses = soleCourses(soles);
  return contacts.flatMap((contact) => {
    const course = courses.get(contact.point);
    if (!course) return [];
    const quarter = Math.floor((contact.end - contact.start) / 4);
    return [{ point: middlePoint(course, contact.start + quarter, contact.end - quarter), weight: Math.sqrt(contact.end - contact.start + 1) }];
  });
}

/**
 * Decides between "the ground is off" and "the sole is thicker than the skeleton shows". Within what an unmodelled sole can explain, the
 * clip's own zero is believed and the soles get the rest; beyond that, the ground is off. Small tilts are taken for level.
 */
function settleGround(fitted: PlaneGround, soles: readonly Sole[], contacts: readonly Contact[]): { ground: PlaneGround; soles: Sole[] } {
  const tilted = groundTilt(fitted) >= LEAST_TILT;
  const points = restPoints(soles, contacts);
  let height = fitted.height;
  if (!tilted && points.length > 0) {
    const total = points.reduce((sum, p) => sum + p.weight, 0);
    height = points.reduce((sum, p) => sum + p.weight * groundHeight(fitted, p.point[0], p.point[2]), 0) / total;
  }
  const unmodelled = soles.reduce((sum, sole) => sum + sole.unmodelled, 0) / soles.length;
  const ground = tilted ? fitted : planeGround(height);
  if (height > 1.5 * unmodelled + 0.005 || height < -unmodelled - 0.006) return { ground, soles: [...soles] };
  const deeper = soles.map((sole) => ({
    ...sole,
    points: sole.points.map(({ id, local }) => ({
      id,
      local: [0, 1, 2].map((i) => local[i] - sole.upLocal[i] * height) as unknown as [number, number, number],
    })),
  }));
  return { ground: { ...ground, height: 0 }, soles: deeper };
}

/** Metres off the ground from which a contact is taken to rest on something of its own: a step, a box, a rail. */
export const OFF_GROUND = 0.05;

/** Contacts that rest well away from the ground keep their own height; those whose place a person set, or that rest on a part, stay as they are. */
export function settleSurfaces(contacts: readonly Contact[], tracks: PointTracks, ground: Ground, decided: ReadonlySet<Contact>): Contact[] {
  return contacts.map((contact) => {
    const course = contact.on === "ground" && !decided.has(contact) ? tracks.course(contact.point) : undefined;
    if (!course) return contact;
    const rest = middlePoint(course, contact.start, contact.end);
    return Math.abs(rest[1] - groundHeight(ground, rest[0], rest[2])) > OFF_GROUND ? { ...contact, on: "place" as const } : contact;
  });
}
