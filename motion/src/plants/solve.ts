import type { RigLimb } from "../character/rig.ts";
import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import type { JointTrack } from "../contacts/tracks.ts";
import { makeTwoBoneReach, reachTwoBone } from "../kinematics/twoBone.ts";
import { conjugateQuatFlat, length3, multiplyQuatFlat, normalizeQuatFlat, quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { ancestry, jointsBetween, type Skeleton } from "../skeleton/skeleton.ts";
import { holdBody } from "./body.ts";
import { clearBody } from "./clearBody.ts";
import { clearEnds, lastJoint, lowHands } from "./clearEnds.ts";
import { type EndTargets, footTargets, type Holding } from "./footTargets.ts";
import { hipsDrop } from "./hipsDrop.ts";
import { type LimbCourse, limbCourses } from "./limbCourses.ts";
import { clearingWeights, type LimbEnd, limbEnds, plantWeights, rampFrames, settingsAt } from "./plants.ts";
import { type SolveScope, scopeMarks } from "./scope.ts";
import { drawWithinReach, FORE_STRETCHED } from "./withinReach.ts";

/**
 * Holds every anchored contact of a motion by its plants: parts of the trunk by the body's place, then legs (foot targets, the smallest smooth
 * drop of the hips at which all legs reach without passing the soft knee, the two-bone reach), then arms. Changes the root's position and
 * the local rotations of hips and limbs only (of toes too, where the skin is kept out of the ground); frames on which nothing moves keep their bits. Bone lengths never change. After Kovar,
 * Schreiner & Gleicher, Footskate Cleanup for Motion Capture Editing (2002), with hips lowered instead of bones stretched.
 * `pause` is called now and then; what it throws ends the work. With a `scope` only its frames are solved, every other keeps its bits, and the hips' drop fades out towards those.
 */
export function solvePlants(motion: Motion, scope: SolveScope | null = null, pause: () => void = () => {}): Clip {
  const anchored = motion.contacts.filter((c) => c.anchor.point);
  const weights = plantWeights(motion.plants, motion.clip.frameCount);
  const ends = limbEnds(motion.character, motion.points);
  pause();
  const clearing = clearingWeights(motion.plants, motion.clip.frameCount);
  const byPoints = holdBody(motion, anchored, weights, scope);
  const held = clearing ? clearBody(motion, byPoints, clearing, scope) : byPoints;
  pause();
  const legs = solveLimbs(
    motion,
    held,
    anchored,
    weights,
    ends.filter((end) => end.bears),
    scope,
    true,
    pause,
  );
  // Arms last: what a hand rests on may be a thigh.
  const low = lowHands(motion, legs, ends);
  const arms = ends.filter((end) => !end.bears && (low.has(end) || anchored.some((c) => end.points.some((p) => p.id === c.point))));
  return arms.length === 0 ? legs : solveLimbs({ ...motion, clip: legs }, legs, anchored, weights, arms, scope, false, pause);
}

function solveLimbs(
  motion: Motion,
  clip: Clip,
  contacts: Motion["contacts"],
  weights: Float64Array,
  ends: readonly LimbEnd[],
  scope: SolveScope | null,
  hipsHelp: boolean,
  pause: () => void,
): Clip {
  const { fps } = clip;
  const { skeleton } = motion.character;
  const tracks = new PointTracks(skeleton, clip, motion.points);
  const holding: Holding = {
    contacts,
    ground: motion.ground,
    fps,
    rampsAt: (frame) => rampFrames(settingsAt(motion.plants, frame), fps),
    weights,
    trembles: Math.max(0, ...motion.plants.map((plant) => plant.trembles)),
    partTrack: (joint) => tracks.joint(joint),
  };
  const courses = limbCourses(skeleton, clip, ends);
  const targets = ends.map((end, i) => {
    pause();
    return footTargets(end, courses[i].end, holding);
  });
  const toes = clearEnds(motion, clip, ends, targets, pause);
  if (!hipsHelp) for (const [i, course] of courses.entries()) drawWithinReach(course, targets[i], fps);
  const changed = ends.map((end) => scopeMarks(scope, clip, ancestry(skeleton, lastJoint(motion, end))));
  const drop = hipsHelp ? hipsDrop(clip, courses, targets, motion.plants, weights, changed) : new Float64Array(clip.frameCount);
  // What the hips could not help a fore leg with.
  if (hipsHelp)
    for (const [i, { limb }] of ends.entries()) if (limb.kind === "arm") drawWithinReach(lowered(courses[i], drop), targets[i], fps, FORE_STRETCHED);
  const draft = ClipDraft.of(clip);
  const p = new Float64Array(3);
  for (let f = 0; f < clip.frameCount; f++) {
    if (drop[f] === 0) continue;
    readPosition(clip, 0, f, p, 0);
    p[1] -= drop[f];
    draft.setPosition(0, f, p);
  }
  for (const [i, end] of ends.entries()) {
    pause();
    writeLimb(skeleton, draft, end.limb, courses[i], targets[i], drop, changed[i]);
    const toe = toes[i];
    if (toe) turnJoint(draft, toe.joint, toe.by, changed[i]);
  }
  return draft.done();
}

/** A limb whose start is so much lower [frame], metres: its bones are as long. */
function lowered(course: LimbCourse, drop: Float64Array): LimbCourse {
  if (drop.every((d) => d === 0)) return course;
  const down = (places: Float64Array) => places.map((v, i) => (i % 3 === 1 ? v - drop[(i / 3) | 0] : v));
  return { ...course, hip: down(course.hip), knee: down(course.knee), end: { ...course.end, positions: down(course.end.positions) } };
}

/** Turns a joint by rotations in its own frame [frame][4]; where they are none, or nothing is to change, it keeps its bits. */
function turnJoint(draft: ClipDraft, joint: number, by: Float64Array, changed: Uint8Array | null): void {
  const q = new Float64Array(4);
  const { clip } = draft;
  for (let f = 0; f < clip.frameCount; f++) {
    const o = f * 4;
    if (changed?.[f] === 0 || length3(by[o], by[o + 1], by[o + 2]) < SAME_TURN) continue;
    readRotation(clip, joint, f, q, 0);
    multiplyQuatFlat(q, 0, q, 0, by, o);
    normalizeQuatFlat(q, 0);
    draft.setRotation(joint, f, q);
  }
}

/** Below these nothing has moved: the foot keeps its bits. */
const SAME_PLACE = 1e-7;
const SAME_TURN = 1e-6;

/**
 * Bends a limb so that its end is at its targets, `drop` [frame] metres lower at its start; frames that are not `changed` (all where it is null), or on which nothing moves, keep their bits. The bend stays in
 * the pose's own plane, or turns by way of the limb's `via` as `hangsOn` (the course of what the limb hangs on) has it.
 */
export function writeLimb(
  skeleton: Skeleton,
  draft: ClipDraft,
  limb: RigLimb,
  course: LimbCourse,
  targets: Pick<EndTargets, "positions" | "rotations">,
  drop: Float64Array,
  changed: Uint8Array | null,
  hangsOn: JointTrack | null = null,
): void {
  const track = course.end;
  const frameCount = drop.length;
  // Joints above and between have not turned: those between are read as they stand in the draft.
  const clip = draft.clip;
  const { above } = course;
  const betweenJoints = jointsBetween(skeleton, limb.lower, limb.upper).slice(0, -1);
  const belowJoints = jointsBetween(skeleton, limb.end, limb.lower).slice(0, -1);
  const reach = makeTwoBoneReach();
  const parentRotation = new Float64Array(4);
  const hip = new Float64Array(3);
  const target = new Float64Array(3);
  const worldHinge = new Float64Array(3);
  const via = new Float64Array(3);
  const q = new Float64Array(4);
  const local = new Float64Array(4);
  for (let f = 0; f < frameCount; f++) {
    if (changed?.[f] === 0 && drop[f] === 0) continue;
    const o = f * 3;
    const moved = length3(
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
    rotateVecFlat(worldHinge, 0, course.upper, f * 4, limb.hinge, 0);
    if (hangsOn) rotateVecFlat(via, 0, hangsOn.rotations, f * 4, limb.via, 0);
    reachTwoBone(reach, course.hip, o, course.knee, o, track.positions, o, hip, target, worldHinge, hangsOn && via, true);
    // Upper: new world rotation over its parent's, which has not turned.
    for (let c = 0; c < 4; c++) parentRotation[c] = above ? above[f * 4 + c] : c === 3 ? 1 : 0;
    multiplyQuatFlat(q, 0, reach.upper, 0, course.upper, f * 4);
    localRotation(local, parentRotation, q, 0);
    draft.setRotation(limb.upper, f, local);
    carry(q, clip, betweenJoints, f);
    parentRotation.set(q);
    multiplyQuatFlat(q, 0, reach.lower, 0, course.lower, f * 4);
    localRotation(local, parentRotation, q, 0);
    draft.setRotation(limb.lower, f, local);
    carry(q, clip, belowJoints, f);
    localRotation(local, q, targets.rotations, f * 4);
    draft.setRotation(limb.end, f, local);
  }
}

/** Turns q on by joints that ride along. */
function carry(q: Float64Array, clip: Clip, joints: readonly number[], f: number): void {
  const local = new Float64Array(4);
  for (const joint of joints) {
    readRotation(clip, joint, f, local, 0);
    multiplyQuatFlat(q, 0, q, 0, local, 0);
  }
}

/** Local rotation of a child from two world rotations. */
function localRotation(dst: Float64Array, parent: Float64Array, child: Float64Array, co: number): void {
  conjugateQuatFlat(dst, 0, parent, 0);
  multiplyQuatFlat(dst, 0, dst, 0, child, co);
}
