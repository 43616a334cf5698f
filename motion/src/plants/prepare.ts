import type { Clip } from "../clip/clip.ts";
import { moveBody, type RigidMove } from "../clip/roots.ts";
import { carryAnchors } from "../contacts/carryAnchors.ts";
import { type Contact, sortContacts } from "../contacts/contact.ts";
import { commonHeave } from "../contacts/heave.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint } from "../contacts/segment.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { travelDisplacement, travelError, WANDER, withoutTravel } from "../contacts/travel.ts";
import { fitGround, type RestPoint } from "../ground/fitGround.ts";
import { type Ground, groundTilt, planeGround } from "../ground/ground.ts";
import type { Motion } from "../motion.ts";
import { median } from "../signal/robust.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { placeAnchors } from "./anchors.ts";
import { layFlat } from "./layFlat.ts";
import { withLingering } from "./lingering.ts";
import { limbEnds } from "./plants.ts";
import type { PlantSettings } from "./settings.ts";
import { mendLegs, steadyLegs } from "./steady.ts";

/** Where a plant works: frames from `start` to `end` (inclusive), its weight at each, and whether that is the whole motion. */
export interface PlantReach {
  readonly start: number;
  readonly end: number;
  readonly whole: boolean;
  readonly weights: Float64Array;
}

/** A motion before its plant is solved: the body moved with its feet, every contact with its anchor, the plant among those to be solved. */
export interface Prepared {
  readonly planted: Omit<Motion, "plants">;
  /** the clip in which earlier plants are solved, moved likewise; null where there are none */
  readonly settled: Motion["settled"];
  /** by how much ends of legs tremble, metres: what is seen of it while they rest, or what steadying the legs moved the most trembling one by (medians) */
  readonly trembles: number;
}

interface Known {
  readonly settings: string;
  readonly reach: PlantReach;
  readonly prepared: Prepared;
}

/** What was prepared last of a motion: how hips drop and knees bend changes nothing of it. */
const KNOWN = new WeakMap<Motion, Known>();

/** What a plant needs to know of the whole motion before it can be solved anywhere; made once for as long as the settings that it depends on are the same. */
export function preparePlant(motion: Motion, settings: PlantSettings, reach: PlantReach): Prepared {
  const known = preparedPlant(motion, settings, reach);
  if (known) return known;
  const prepared = prepare(motion, settings, reach);
  KNOWN.set(motion, { settings: readBy(motion, settings), reach, prepared });
  return prepared;
}

/** The same if it is known already; null otherwise. */
export function preparedPlant(motion: Motion, settings: PlantSettings, reach: PlantReach): Prepared | null {
  const known = KNOWN.get(motion);
  return known?.settings === readBy(motion, settings) && sameReach(known.reach, reach) ? known.prepared : null;
}

/** The settings that count before anything is solved; ramps only where feet are laid flat along them. */
function readBy({ contacts }: Motion, { travelStrength, travelAfter, steadyLegs, layFlat, rests, landingRamp, liftRamp }: PlantSettings): string {
  const laid = layFlat > 0 || contacts.some((c) => (c.flat ?? 0) > 0);
  return JSON.stringify([travelStrength, travelAfter, steadyLegs, layFlat, rests, laid && [landingRamp, liftRamp]]);
}

function sameReach(a: PlantReach, b: PlantReach): boolean {
  return a.start === b.start && a.end === b.end && a.whole === b.whole && a.weights.every((w, f) => w === b.weights[f]);
}

function prepare(motion: Motion, settings: PlantSettings, reach: PlantReach): Prepared {
  const touched = motion.contacts.filter((c) => c.end >= reach.start && c.start <= reach.end);
  const mended = mendLegs(motion, settings.steadyLegs, reach.weights);
  const steadied = steadyLegs(mended, settings.steadyLegs, reach.weights);
  // Read off the legs before they are steadied: smoothing would take a share of the speed along.
  const { moves, ground } = travelMoves(mended, settings, reach);
  const moveAt = (f: number) => moves?.[Math.max(0, Math.min(moves.length - 1, f))] ?? null;
  const { skeleton } = motion.character;
  const ends = limbEnds(motion.character, motion.points);
  const flat = layFlat({ ...motion, contacts: touched }, steadied.clip, ends, settings, reach.weights);
  const corrected = moves ? moveBody(skeleton, flat, moveAt) : flat;
  const untouched = carryAnchors(
    motion.contacts.filter((c) => c.end < reach.start || c.start > reach.end),
    moveAt,
  );
  const tracks = new PointTracks(skeleton, corrected, motion.points);
  const anchored = placeAnchors(touched, tracks, ends, ground, settings);
  // Of steadied legs alone: others show by themselves when a part leaves.
  const raw = () => new PointTracks(skeleton, moves ? moveBody(skeleton, mended.clip, moveAt) : mended.clip, motion.points);
  const held = steadied.clip === mended.clip ? anchored : withLingering(anchored, raw(), tracks, motion.clip.fps);
  return {
    planted: { ...motion, ground, clip: corrected, contacts: sortContacts([...untouched, ...held]) },
    // What earlier plants hold and nothing has changed since is solved already.
    settled: motion.settled && (moves ? moveBody(skeleton, motion.settled, moveAt) : motion.settled),
    trembles: Math.max(
      seenTrembling(touched, tracks),
      ...(steadied.clip === mended.clip ? [] : ends.flatMap((end) => (end.bears ? [medianApart(skeleton, mended.clip, steadied.clip, end.limb.end)] : []))),
    ),
  };
}

/** By how much parts tremble while they rest, metres (median distance from their courses): what their second differences, √6 times as large for white noise, show. */
function seenTrembling(contacts: readonly Contact[], tracks: PointTracks): number {
  const lengths = contacts.flatMap((contact) => {
    const course = typeof contact.on !== "object" && tracks.point(contact.point)?.bears ? tracks.spanCourse(contact) : undefined;
    const second = (i: number) =>
      Math.hypot(...[0, 1, 2].map((k) => (course as Float64Array)[i + 6 + k] - 2 * (course as Float64Array)[i + 3 + k] + (course as Float64Array)[i + k]));
    return course ? Array.from({ length: Math.max(0, course.length / 3 - 2) }, (_, f) => second(f * 3)) : [];
  });
  return lengths.length === 0 ? 0 : median(lengths) / Math.sqrt(6);
}

/** Median distance of a joint's places in two clips, metres. */
function medianApart(skeleton: Skeleton, a: Clip, b: Clip, joint: number): number {
  const [p, q] = [a, b].map((clip) => jointTrack(skeleton, clip, joint).positions);
  return median(
    Float64Array.from({ length: a.frameCount }, (_, f) => Math.hypot(p[f * 3] - q[f * 3], p[f * 3 + 1] - q[f * 3 + 1], p[f * 3 + 2] - q[f * 3 + 2])),
  );
}

/** Where contacts on the ground rest once a path [frame][2] is taken out of the body's. */
function restsWithout(motion: Motion, tracks: PointTracks, path: Float64Array): RestPoint[] {
  return motion.contacts.flatMap(({ point, on, start, end }): RestPoint[] => {
    const course = on === "ground" ? tracks.bearing(point) : undefined;
    if (!course) return [];
    const [x, y, z] = middlePoint(withoutTravel(course.subarray(start * 3, (end + 1) * 3), path.subarray(start * 2)), 0, end - start);
    return [{ part: "ground", point: [x, y - (tracks.point(point)?.clearance ?? 0), z], weight: 1, stirs: 0 }];
  });
}

/** The plane under such places, a slope taken for one beyond so many standard errors; the motion's own ground where they are too few, or shapes stand on it. */
function planeUnder({ ground }: Motion, rests: readonly RestPoint[], sure?: number): Ground {
  if (ground.shapes.length > 0 || rests.length < LEAST_RESTS) return ground;
  const { slopeX, slopeZ, heights } = fitGround(rests, sure);
  return planeGround(heights.get("ground") ?? 0, slopeX, slopeZ);
}

/** Fewer places than this say nothing of a slope. */
const LEAST_RESTS = 4;

/**
 * The moves [frame] that take the movement of planted parts out of the body's level path, and what heaves all of them out of its height; null where there is none to take; and the ground under them. Over a stretch they
 * begin with nothing; what they have come to at its end goes on behind it, or (spread) is given back evenly over the stretch. The correction
 * fades in and out with the weights by its speed, never by its size, so that no ramp moves the body.
 */
function travelMoves(motion: Motion, settings: PlantSettings, reach: PlantReach): { readonly moves: RigidMove[] | null; readonly ground: Ground } {
  if (settings.travelStrength === 0 || !motion.points.some((p) => p.bears)) return { moves: null, ground: motion.ground };
  const { skeleton, body } = motion.character;
  const { frameCount, fps } = motion.clip;
  const tracks = new PointTracks(skeleton, motion.clip, motion.points);
  // The hips' course, not the root's: some skeletons have a root that stays at the origin.
  const hips = tracks.joint(body.roles.hips ?? 0).positions;
  const { byFeet, climbs } = motion.support;
  // What the feet do not carry is told by whatever else rests.
  const shows = byFeet || climbs ? tracks.bearing : (id: string) => tracks.course(id);
  const error = travelDisplacement(travelError(motion.contacts, shows, hips, fps, { legs: tracks.legs(motion.ground) }), hips, fps, WANDER.moved);
  const { weights, whole } = reach;
  const even = whole && weights.every((w) => w === weights[0]);
  const path = new Float64Array(frameCount * 2);
  for (let i = 0; i < path.length; i++) {
    const f = i >> 1;
    path[i] = even ? weights[0] * error[i] : f === 0 ? 0 : path[i - 2] + ((weights[f] + weights[f - 1]) / 2) * (error[i] - error[i - 2]);
  }
  if (!even && settings.travelAfter === "spread") spread(path, weights);
  for (let i = 0; i < path.length; i++) path[i] *= settings.travelStrength;
  const rests = restsWithout(motion, tracks, path);
  // What slopes is as much steeper as the way over it has become shorter.
  const ground = groundTilt(motion.ground) === 0 ? motion.ground : planeUnder(motion, rests);
  const known = new Map<string, Float64Array | undefined>();
  const corrected = (id: string) => {
    if (!known.has(id)) {
      const course = tracks.bearing(id);
      known.set(id, course && withoutTravel(course, path));
    }
    return known.get(id);
  };
  const heave = commonHeave(motion.contacts, corrected, (id) => tracks.point(id), planeUnder(motion, rests, 0), frameCount, fps).course;
  const moves = Array.from({ length: frameCount }, (_, f) => ({
    shift: [-path[f * 2], -settings.travelStrength * weights[f] * heave[f], -path[f * 2 + 1]],
    turn: null,
  }));
  return { moves, ground };
}

/** Takes the path's end out of it again, in step with the weights. */
function spread(path: Float64Array, weights: Float64Array): void {
  const total = weights.reduce((sum, w) => sum + w, 0);
  const [endX, endZ] = path.slice(-2);
  let passed = 0;
  weights.forEach((w, f) => {
    passed += w;
    const share = total > 0 ? passed / total : 0;
    path[f * 2] -= share * endX;
    path[f * 2 + 1] -= share * endZ;
  });
}
