import { legLengthOf } from "../character/legLength.ts";
import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { splinedClip } from "../clip/spline.ts";
import { blendedOver } from "../combine/blend.ts";
import { travelCourse } from "../combine/sway.ts";
import { type Contact, sortContacts } from "../contacts/contact.ts";
import { jointTrack, jointTracks } from "../contacts/tracks.ts";
import { groundHeight } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { quinticHermite, quinticStep } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { hipsDrop } from "../plants/hipsDrop.ts";
import { limbCourses } from "../plants/limbCourses.ts";
import type { LimbEnd } from "../plants/plants.ts";
import { writeLimb } from "../plants/solve.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { type Landing, legEnds } from "./landings.ts";
import { STOPPING, slowsFrom, travelSpeed } from "./place.ts";
import { bendScale, type Rest, steppedCourse, stepShare } from "./steps.ts";

/** What a motion comes to rest in. */
export interface SettlePlan {
  /** the pose, in its final place, as a clip of one frame */
  readonly target: Clip;
  /** joints that take part; the others go on as they do */
  readonly joints: ReadonlySet<number>;
  /** frames over which trunk and arms go over; the last frame of the motion is the pose */
  readonly over: number;
  readonly landings: readonly Landing[];
}

/** Over so long before the end hips that had to come down are back up, seconds. */
const UP_AGAIN = 0.15;
/** A contact point of the pose that is no higher over the ground than this rests on it, share of the leg. */
const RESTS_WITHIN = 0.05;

/** A motion whose last frame is a pose, exactly: the trunk goes over first, each leg takes its last step and is still from its landing on. */
export function settledMotion(motion: Motion, plan: SettlePlan, pause: () => void): Motion {
  const { character, clip } = motion;
  const { skeleton, rig } = character;
  const n = clip.frameCount;
  const last = n - 1;
  const begin = Math.max(0, last - plan.over);
  const still = splinedClip(plan.target, new Float64Array(n));
  const weights = Float64Array.from({ length: n }, (_, f) => (last === begin ? (f === last ? 1 : 0) : quinticStep((f - begin) / (last - begin))));
  const ends = legEnds(motion).filter(({ limb }) => [limb.upper, limb.lower, limb.end].every((j) => plan.joints.has(j)));
  const below = (end: LimbEnd) => [...plan.joints].filter((j) => j !== end.limb.end && ancestry(skeleton, j).includes(end.limb.end));
  const hanging = new Set(ends.flatMap(below));
  const mover = clip.positionJoints.indexOf(rig.mover);
  const slots = [...clip.positionJoints.keys()].filter((s) => plan.joints.has(clip.positionJoints[s]) && s !== mover);
  const trunk = blendedOver(clip, still, weights, { joints: [...plan.joints].filter((j) => !hanging.has(j)), slots });
  const moved = plan.joints.has(rig.mover) || plan.joints.has(rig.hips) ? comeToRest(motion, trunk, plan.target, slowsFrom(plan, last)) : trunk;
  pause();
  const own = jointTracks(
    skeleton,
    clip,
    ends.map((end) => end.limb.end),
  );
  const rests = restsOf(motion, plan.target, ends);
  const landingOf = (end: LimbEnd) => plan.landings.find((l) => end.points.some((p) => p.id === l.point)) as Landing;
  let feet = moved;
  ends.forEach((end, i) => {
    const { lift, land } = landingOf(end);
    const share = Math.min(1, stepShare(own[i], lift, nextLanding(motion, end, lift, last), rests[i]));
    // Toes come to the pose over the step, and bend the less on the way the shorter it is.
    const toes = Float64Array.from({ length: n }, (_, f) => {
      const u = (f - lift) / Math.max(1, land - lift);
      return f >= land ? 1 : u <= 0 ? 0 : 1 - (1 - quinticStep((u - 0.35) / 0.65)) * bendScale(share, u);
    });
    feet = blendedOver(feet, still, toes, { joints: below(end), slots: [] });
  });
  const courses = limbCourses(skeleton, feet, ends);
  const targets = ends.map((end, i) => {
    const { lift, land } = landingOf(end);
    const soleHeight = rests[i].position[1] - groundHeight(motion.ground, rests[i].position[0], rests[i].position[2]);
    const swung = nextLanding(motion, end, lift, last);
    const course = steppedCourse(own[i], { lift, land, swung, rest: rests[i], ground: motion.ground, soleHeight });
    return { ...course, resting: Uint8Array.from({ length: n }, (_, f) => (f >= land ? 1 : 0)) };
  });
  pause();
  const all = new Float64Array(n).fill(1);
  const asked = hipsDrop(
    feet,
    courses,
    targets,
    motion.plants,
    all,
    ends.map(() => null),
  );
  const up = Math.max(1, Math.round(UP_AGAIN * clip.fps));
  // Before the trunk goes over nothing is asked of the hips that the motion itself does not do.
  const slows = slowsFrom(plan, last);
  const drop = asked.map((d, f) => (f < slows ? 0 : d * quinticStep((f - slows) / up) * quinticStep((last - f) / up)));
  const draft = ClipDraft.of(feet);
  const p = new Float64Array(3);
  for (let f = 0; f < n; f++) {
    if (drop[f] === 0) continue;
    readPosition(feet, mover, f, p, 0);
    p[1] -= drop[f];
    draft.setPosition(mover, f, p);
  }
  ends.forEach((end, i) => {
    writeLimb(skeleton, draft, end.limb, courses[i], targets[i], drop, null);
  });
  putPose(draft, plan, last, rig.hips);
  const done = draft.done();
  return { ...motion, clip: done, contacts: contactsOf(motion, plan, ends, begin, last), settled: motion.plants.length > 0 ? done : null };
}

/** The pose, bit for bit. */
function putPose(draft: ClipDraft, { target, joints }: SettlePlan, frame: number, hips: number): void {
  const q = new Float64Array(4);
  for (const joint of joints) {
    readRotation(target, joint, 0, q, 0);
    draft.setRotation(joint, frame, q);
  }
  target.positionJoints.forEach((joint, slot) => {
    if (!joints.has(joint) && !(slot === 0 && joints.has(hips))) return;
    readPosition(target, slot, 0, q, 0);
    draft.setPosition(slot, frame, q);
  });
}

/**
 * The body's place on its way to that of the pose: its travel slows from the speed it has to nothing, and what sways about it fades. Where the way left is shorter than a stop
 * over the whole time would take it is there sooner, and stays.
 */
function comeToRest(motion: Motion, clip: Clip, target: Clip, begin: number): Clip {
  const { skeleton, rig } = motion.character;
  const mover = clip.positionJoints.indexOf(rig.mover);
  const { x, z } = travelCourse(motion);
  const last = clip.frameCount - 1;
  const [vx, vz] = travelSpeed({ x, z }, begin, clip.fps);
  const end = jointTrack(skeleton, target, rig.hips).positions;
  const hips = jointTrack(skeleton, motion.clip, rig.hips).positions;
  const reached = jointTrack(skeleton, clip, rig.hips).positions;
  const v = Math.hypot(vx, vz);
  // As far as it goes along the way that it has.
  const along = v > 1e-6 ? Math.max(0, ((end[0] - x[begin]) * vx + (end[2] - z[begin]) * vz) / v) : 0;
  const span = v > 1e-6 && along > 0 ? Math.min(last - begin, Math.max((last - begin) / 3, along / (STOPPING * v))) : last - begin;
  const draft = ClipDraft.of(clip);
  const [place, q, by] = [new Float64Array(3), new Float64Array(4), new Float64Array(3)];
  const pose = new PoseFrame(skeleton, clip);
  for (let f = begin + 1; f <= last; f++) {
    const t = Math.min(1, (f - begin) / Math.max(1, span));
    const w = quinticStep((f - begin) / (last - begin));
    by[0] = quinticHermite(x[begin], vx * span, end[0], 0, t) + (1 - w) * (hips[f * 3] - x[f]) - reached[f * 3];
    by[1] = (1 - w) * hips[f * 3 + 1] + w * end[1] - reached[f * 3 + 1];
    by[2] = quinticHermite(z[begin], vz * span, end[2], 0, t) + (1 - w) * (hips[f * 3 + 2] - z[f]) - reached[f * 3 + 2];
    const parent = skeleton.parents[rig.mover];
    if (parent >= 0) {
      pose.load(clip, f);
      conjugateQuatFlat(q, 0, pose.worldRotations, parent * 4);
      rotateVecFlat(by, 0, q, 0, by, 0);
    }
    readPosition(clip, mover, f, place, 0);
    draft.setPosition(
      mover,
      f,
      place.map((c, i) => c + by[i]),
    );
  }
  return draft.done();
}

/** Where each leg's end rests in the pose. */
function restsOf(motion: Motion, target: Clip, ends: readonly LimbEnd[]): Rest[] {
  const pose = new PoseFrame(motion.character.skeleton, target);
  pose.load(target, 0);
  return ends.map(({ limb }) => ({
    position: pose.worldPositions.slice(limb.end * 3, limb.end * 3 + 3),
    rotation: pose.worldRotations.slice(limb.end * 4, limb.end * 4 + 4),
  }));
}

/** The frame on which a leg that lifts on one lands again in the motion itself; the last where it does not. */
function nextLanding(motion: Motion, end: LimbEnd, lift: number, last: number): number {
  const starts = motion.contacts.filter((c) => end.points.some((p) => p.id === c.point) && c.start > lift).map((c) => c.start);
  return starts.length > 0 ? Math.min(...starts) : last;
}

/** What rests: each leg as it did up to its last step, and where the pose stands from its landing on; of the rest what ends before the trunk goes over. */
function contactsOf(motion: Motion, { target, landings }: SettlePlan, ends: readonly LimbEnd[], begin: number, last: number): Contact[] {
  const pose = new PoseFrame(motion.character.skeleton, target);
  pose.load(target, 0);
  const leg = legLengthOf(motion.character);
  const points = new Map(ends.flatMap((end) => end.points.map((p) => [p.id, { end, p }] as const)));
  const liftOf = (id: string) => landings.find((l) => points.get(id)?.end.points.some((p) => p.id === l.point))?.lift ?? begin;
  const kept = motion.contacts.flatMap((c) => {
    const until = points.has(c.point) ? liftOf(c.point) : begin;
    return c.start >= until ? [] : [{ ...c, end: Math.min(c.end, until), rampOut: c.end > until ? null : c.rampOut }];
  });
  const v = new Float64Array(3);
  const rests = landings.flatMap(({ point, land }): Contact[] =>
    (points.get(point)?.end.points ?? []).flatMap((p): Contact[] => {
      pose.point(v, p.joint, p.local);
      const height = v[1] - groundHeight(motion.ground, v[0], v[2]) - p.clearance;
      if (Math.abs(height) > RESTS_WITHIN * leg) return [];
      return [
        {
          point: p.id,
          joint: p.named,
          start: land,
          end: last,
          on: "place",
          anchor: { mode: "set", point: [v[0], v[1], v[2]] },
          rampIn: null,
          rampOut: null,
          origin: "found",
        },
      ];
    }),
  );
  return sortContacts([...kept, ...rests]);
}
