import type { Clip } from "../clip/clip.ts";
import { lowPass } from "../signal/filters.ts";
import { noiseLevel } from "../signal/robust.ts";
import type { BodyMap } from "../skeleton/bodyMap.ts";
import { boneLength, type Skeleton } from "../skeleton/skeleton.ts";
import { calibrateSole, evenDepths } from "./calibrate.ts";
import { type Contact, type ContactPart, sortContacts } from "./contact.ts";
import { type FloorPlane, fitFloor, floorHeightAt, floorTilt, LEVEL_FLOOR, type RestPoint } from "./floor.ts";
import { legsOf, partJoint } from "./limbs.ts";
import { middlePoint, refineSpan, segmentContacts, smoothedNoise, smoothingFor } from "./segment.ts";
import { buildSole, type Sole } from "./soles.ts";
import { pointTrack } from "./tracks.ts";
import { integrateTravel, travelError } from "./travel.ts";

/** What stands where in a clip: the soles, their contacts, and the floor under them (in the clip's world). */
export interface Grounding {
  readonly soles: readonly Sole[];
  readonly contacts: readonly Contact[];
  readonly floor: FloorPlane;
}

/** Rounds of: find spans, take the travel error out, fit the floor, look again with a sharper eye. Shares of the swing speed. */
const SPEED_SHARES = [0.22, 0.14, 0.1];
/** Tilt below this is taken for level, radians: short walks cannot tell it from noise. */
const LEAST_TILT = (0.75 * Math.PI) / 180;

/** Finds floor and contacts of a clip, also while its feet skate, float, sink or jitter, at any frame rate and body size. */
export function findContacts(skeleton: Skeleton, clip: Clip, body: BodyMap): Grounding {
  const legs = legsOf(skeleton, body);
  if (legs.length === 0 || clip.frameCount < 3) return { soles: [], contacts: [], floor: LEVEL_FLOOR };
  let soles = legs.map((leg) => buildSole(skeleton, clip, leg));
  let floor: FloorPlane | undefined;
  let contacts: Contact[] = [];
  let travel: Float64Array = new Float64Array(clip.frameCount * 2);
  SPEED_SHARES.forEach((speedShare, round) => {
    const last = round === SPEED_SHARES.length - 1;
    contacts = findRound(skeleton, clip, soles, travel, floor, speedShare, last);
    travel = integrateTravel(travelError(contacts, partTracks(soles), clip.frameCount, clip.fps), clip.fps);
    if (round === 1) soles = evenDepths(soles.map((sole) => calibrateSole(sole, contacts, travel)));
    floor = fitFloor(restPoints(soles, contacts));
  });
  const settled = settleFloor(floor ?? LEVEL_FLOOR, soles, contacts);
  return { soles: settled.soles, floor: settled.floor, contacts: sortContacts(markSurfaces(contacts, settled.soles, settled.floor)) };
}

/** World course of every contact part. */
export function partTracks(soles: readonly Sole[]): Map<ContactPart, Float64Array> {
  const tracks = new Map<ContactPart, Float64Array>();
  for (const sole of soles) for (const { part, local } of sole.points) tracks.set(part, pointTrack(sole.track, [...local]));
  return tracks;
}

export function soleOf(soles: readonly Sole[], part: ContactPart): Sole | undefined {
  return soles.find((sole) => sole.points.some((point) => point.part === part));
}

function findRound(
  skeleton: Skeleton,
  clip: Clip,
  soles: readonly Sole[],
  travel: Float64Array,
  floor: FloorPlane | undefined,
  speedShare: number,
  refine: boolean,
): Contact[] {
  const { frameCount: n, fps } = clip;
  const contacts: Contact[] = [];
  const tracks = partTracks(soles);
  for (const sole of soles) {
    const legLength = boneLength(skeleton, sole.leg.lower) + boneLength(skeleton, sole.leg.end);
    for (const { part } of sole.points) {
      const raw = tracks.get(part);
      if (!raw) continue;
      const height = floor ? Float64Array.from({ length: n }, (_, f) => raw[f * 3 + 1] - floorHeightAt(floor, raw[f * 3], raw[f * 3 + 2])) : null;
      const track = raw.slice();
      for (let f = 0; f < n; f++) {
        track[f * 3] -= travel[f * 2];
        track[f * 3 + 2] -= travel[f * 2 + 1];
        if (floor) track[f * 3 + 1] -= floorHeightAt(floor, raw[f * 3], raw[f * 3 + 2]);
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
          part,
          joint: partJoint(sole.leg, part),
          start: refined[0],
          end: refined[1],
          surface: "floor",
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
  const tracks = partTracks(soles);
  return contacts.flatMap((contact) => {
    const track = tracks.get(contact.part);
    if (!track) return [];
    const quarter = Math.floor((contact.end - contact.start) / 4);
    return [{ point: middlePoint(track, contact.start + quarter, contact.end - quarter), weight: Math.sqrt(contact.end - contact.start + 1) }];
  });
}

/**
 * Decides between "the floor is off" and "the sole is thicker than the skeleton shows". Within what an unmodelled sole can explain, the
 * clip's own zero is believed and the soles get the rest; beyond that, the floor is off. Small tilts are taken for level.
 */
function settleFloor(fitted: FloorPlane, soles: readonly Sole[], contacts: readonly Contact[]): { floor: FloorPlane; soles: Sole[] } {
  const tilted = floorTilt(fitted) >= LEAST_TILT;
  const points = restPoints(soles, contacts);
  let height = fitted.height;
  if (!tilted && points.length > 0) {
    const total = points.reduce((sum, p) => sum + p.weight, 0);
    height = points.reduce((sum, p) => sum + p.weight * floorHeightAt(fitted, p.point[0], p.point[2]), 0) / total;
  }
  const unmodelled = soles.reduce((sum, sole) => sum + sole.unmodelled, 0) / soles.length;
  const floor: FloorPlane = tilted ? fitted : { height, slopeX: 0, slopeZ: 0 };
  if (height > 1.5 * unmodelled + 0.005 || height < -unmodelled - 0.006) return { floor, soles: [...soles] };
  const deeper = soles.map((sole) => ({
    ...sole,
    points: sole.points.map(({ part, local }) => ({
      part,
      local: [0, 1, 2].map((i) => local[i] - sole.upLocal[i] * height) as unknown as [number, number, number],
    })),
  }));
  return { floor: { ...floor, height: 0 }, soles: deeper };
}

/** Spans that rest well away from the floor keep their own height. */
function markSurfaces(contacts: readonly Contact[], soles: readonly Sole[], floor: FloorPlane): Contact[] {
  const tracks = partTracks(soles);
  return contacts.map((contact) => {
    const track = tracks.get(contact.part);
    if (!track) return contact;
    const rest = middlePoint(track, contact.start, contact.end);
    const off = Math.abs(rest[1] - floorHeightAt(floor, rest[0], rest[2])) > 0.05;
    return off ? { ...contact, surface: "own" as const } : contact;
  });
}
