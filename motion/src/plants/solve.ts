import { type Clip, changedFrames, copyClip } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import type { FloorPlane } from "../contacts/floor.ts";
import type { Sole } from "../contacts/soles.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { chainReader } from "../kinematics/forward.ts";
import { FULL_STRETCH, makeTwoBoneReach, meanHinge, reachTwoBone } from "../kinematics/twoBone.ts";
import { multiplyQuatFlat, quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";
import { smoothEnvelope } from "../signal/filters.ts";
import { ancestry, type Skeleton } from "../skeleton/skeleton.ts";
import { type FootTargets, footTargets, localRotation } from "./footTargets.ts";
import { type PlantSettings, RAMP_RATE } from "./settings.ts";

/** The same soles on the tracks of another clip. */
export function retrack(soles: readonly Sole[], skeleton: Skeleton, clip: Clip): Sole[] {
  return soles.map((sole) => ({ ...sole, track: jointTrack(skeleton, clip, sole.leg.end) }));
}

/** World course of one leg as it comes: hip [3], knee [3] a frame, and rotations of upper, the lower's parent and lower. */
interface LegCourse {
  readonly hip: Float64Array;
  readonly knee: Float64Array;
  readonly upper: Float32Array;
  readonly lower: Float32Array;
}

/** Seconds over which the hips come down for a reach. */
const DROP_SECONDS = 0.12;

/**
 * Holds every contact on its anchor: foot targets, then the smallest smooth drop of the hips at which all legs reach without passing
 * the soft knee, then the two-bone reach. Changes the root's position and the local rotations of thigh, shin and foot only; frames
 * on which nothing moves keep their bits. Bone lengths never change. After Kovar, Schreiner & Gleicher, Footskate Cleanup for Motion
 * Capture Editing (2002), with hips lowered instead of bones stretched.
 * `since`: a clip of the same shape that is solved already; then only frames on which a leg or what it hangs on differs from it are
 * solved, every other keeps its bits, and the hips' drop fades out towards those.
 */
export function solvePlants(
  skeleton: Skeleton,
  clip: Clip,
  soles: readonly Sole[],
  contacts: readonly Contact[],
  floor: FloorPlane,
  settings: PlantSettings,
  weights: Float64Array,
  since: Clip | null = null,
): Clip {
  const tracked = retrack(soles, skeleton, clip);
  const perSecond = clip.fps / RAMP_RATE;
  const ramps = { landing: Math.round(settings.landingRampInFrames * perSecond), lift: Math.round(settings.liftRampInFrames * perSecond) };
  const targets = tracked.map((sole) => footTargets(sole, contacts, floor, ramps, weights));
  const courses = tracked.map((sole) => legCourse(skeleton, clip, sole));
  const changed = tracked.map((sole) => (since ? changedFrames(since, clip, ancestry(skeleton, sole.leg.end)) : null));
  const drop = hipsDrop(clip, tracked, courses, targets, settings, weights, changed);
  const out = copyClip(clip);
  const k = clip.positionJoints.length * 3;
  for (let f = 0; f < clip.frameCount; f++) out.positions[f * k + 1] -= drop[f];
  for (const [i, sole] of tracked.entries()) writeLeg(skeleton, out, sole, courses[i], targets[i], drop, changed[i]);
  return out;
}

function legCourse(skeleton: Skeleton, clip: Clip, sole: Sole): LegCourse {
  const upper = jointTrack(skeleton, clip, sole.leg.upper);
  const lower = jointTrack(skeleton, clip, sole.leg.lower);
  return { hip: upper.positions, knee: lower.positions, upper: upper.rotations, lower: lower.rotations };
}

/** How far the hips come down at each frame, metres: never more than allowed, zero where every leg reaches softly. */
function hipsDrop(
  clip: Clip,
  soles: readonly Sole[],
  courses: readonly LegCourse[],
  targets: readonly FootTargets[],
  settings: PlantSettings,
  weights: Float64Array,
  changed: readonly (Uint8Array | null)[],
): Float64Array {
  const most = settings.hipsMayDropCm / 100;
  const bend = Math.PI - (settings.softKneeDegrees * Math.PI) / 180;
  const required = new Float64Array(clip.frameCount);
  soles.forEach((sole, leg) => {
    const { hip, knee } = courses[leg];
    const ankle = sole.track.positions;
    const target = targets[leg].positions;
    for (let f = 0; f < clip.frameCount; f++) {
      if (weights[f] === 0 || changed[leg]?.[f] === 0) continue;
      const o = f * 3;
      const l1 = distance(hip, knee, o);
      const l2 = distance(knee, ankle, o);
      const soft = Math.sqrt(l1 * l1 + l2 * l2 + 2 * l1 * l2 * Math.cos(bend));
      // The source's own stretch is never too much.
      const reach = Math.min((l1 + l2) * FULL_STRETCH, Math.max(soft, distance(hip, ankle, o)));
      const level = Math.hypot(hip[o] - target[o], hip[o + 2] - target[o + 2]);
      const above = hip[o + 1] - target[o + 1];
      if (level * level + above * above <= reach * reach || above <= 0) continue;
      const needed = level < reach ? above - Math.sqrt(reach * reach - level * level) : most;
      required[f] = Math.max(required[f], Math.min(most, needed));
    }
  });
  const half = Math.max(1, Math.round(DROP_SECONDS * clip.fps));
  const drop = smoothEnvelope(required, half);
  const near = changed[0] ? awayFromUnchanged(changed as Uint8Array[]) : null;
  return drop.map((d, f) => (d === 0 ? 0 : d * weights[f] * (near ? quinticStep(near[f] / half) : 1)));
}

/** Frames from each frame to the nearest that no leg has changed on. */
function awayFromUnchanged(changed: readonly Uint8Array[]): Float64Array {
  const n = changed[0].length;
  const away = Float64Array.from({ length: n }, (_, f) => (changed.some((marks) => marks[f]) ? n : 0));
  for (let f = 1; f < n; f++) away[f] = Math.min(away[f], away[f - 1] + 1);
  for (let f = n - 2; f >= 0; f--) away[f] = Math.min(away[f], away[f + 1] + 1);
  return away;
}

function distance(a: Float64Array, b: Float64Array, o: number): number {
  return Math.hypot(a[o] - b[o], a[o + 1] - b[o + 1], a[o + 2] - b[o + 2]);
}

/** Below these nothing has moved: the foot keeps its bits. */
const SAME_PLACE = 1e-7;
const SAME_TURN = 1e-6;

function writeLeg(skeleton: Skeleton, out: Clip, sole: Sole, course: LegCourse, targets: FootTargets, drop: Float64Array, changed: Uint8Array | null): void {
  const { leg, track } = sole;
  const hinge = meanHinge(out.frameCount, (f, points, rotation) => {
    for (let i = 0; i < 3; i++) {
      points[i] = course.hip[f * 3 + i];
      points[3 + i] = course.knee[f * 3 + i];
      points[6 + i] = track.positions[f * 3 + i];
    }
    for (let i = 0; i < 4; i++) rotation[i] = course.upper[f * 4 + i];
  });
  const parent = skeleton.parents[leg.upper];
  const above = parent >= 0 ? chainReader(skeleton, out, parent) : undefined;
  const betweenJoints = chainBetween(skeleton, leg.lower, leg.upper);
  const belowJoints = chainBetween(skeleton, leg.end, leg.lower);
  const reach = makeTwoBoneReach();
  const parentRotation = new Float64Array(4);
  const scratch = new Float64Array(3);
  const hip = new Float64Array(3);
  const target = new Float64Array(3);
  const worldHinge = new Float64Array(3);
  const q = new Float64Array(4);
  const local = new Float64Array(4);
  const write = (joint: number, f: number) => out.rotations.set(local, (f * out.jointCount + joint) * 4);
  for (let f = 0; f < out.frameCount; f++) {
    if (changed?.[f] === 0 && drop[f] === 0) continue;
    const o = f * 3;
    const moved = Math.hypot(
      targets.positions[o] - track.positions[o],
      targets.positions[o + 1] - track.positions[o + 1],
      targets.positions[o + 2] - track.positions[o + 2],
    );
    const turnedBy = quatAngleFlat(targets.rotations, f * 4, track.rotations, f * 4);
    if (moved < SAME_PLACE && turnedBy < SAME_TURN && drop[f] === 0) continue;
    for (let i = 0; i < 3; i++) {
      hip[i] = course.hip[o + i] - (i === 1 ? drop[f] : 0);
      target[i] = targets.positions[o + i];
    }
    rotateVecFlat(worldHinge, 0, course.upper, f * 4, hinge, 0);
    reachTwoBone(reach, course.hip, o, course.knee, o, track.positions, o, hip, target, worldHinge);
    // Upper: new world rotation over its parent's, which has not turned.
    if (above) above.read(f, scratch, parentRotation);
    else parentRotation.set([0, 0, 0, 1]);
    multiplyQuatFlat(q, 0, reach.upper, 0, course.upper, f * 4);
    localRotation(local, parentRotation, q, 0);
    write(leg.upper, f);
    carry(q, out, betweenJoints, f);
    parentRotation.set(q);
    multiplyQuatFlat(q, 0, reach.lower, 0, course.lower, f * 4);
    localRotation(local, parentRotation, q, 0);
    write(leg.lower, f);
    carry(q, out, belowJoints, f);
    localRotation(local, q, targets.rotations, f * 4);
    write(leg.end, f);
  }
}

/** Joints strictly between a joint and its ancestor, ancestor's side first: spare joints that ride along. */
function chainBetween(skeleton: Skeleton, joint: number, ancestor: number): number[] {
  const between: number[] = [];
  for (let j = skeleton.parents[joint]; j >= 0 && j !== ancestor; j = skeleton.parents[j]) between.unshift(j);
  return between;
}

function carry(q: Float64Array, clip: Clip, joints: readonly number[], f: number): void {
  for (const joint of joints) multiplyQuatFlat(q, 0, q, 0, clip.rotations, (f * clip.jointCount + joint) * 4);
}
