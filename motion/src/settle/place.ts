import { legLengthOf } from "../character/legLength.ts";
import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import { standing, toPlace } from "../combine/other.ts";
import { travelCourse } from "../combine/sway.ts";
import { jointTracks } from "../contacts/tracks.ts";
import { groundHeight } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import type { Motion } from "../motion.ts";
import type { Course } from "../travel/course.ts";
import { rigidOf } from "../travel/level.ts";
import { type Landing, legEnds } from "./landings.ts";

/** A body that slows evenly from a speed to nothing comes so far, share of what it would have come. */
export const STOPPING = 0.5;
/** How far the body may still go once the first leg has landed for good, shares of the leg: the first with which all legs reach is taken. */
export const AHEAD = [0.5, 0.4, 0.3, 0.2, 0.1] as const;
/** A body slower than this share of its leg a second stands where its feet do. */
const STAYS = 0.12;

/** The frame from which on the body slows: where the trunk begins to go over, or as the first leg lands for good. */
export function slowsFrom({ over, landings }: { readonly over: number; readonly landings: readonly Landing[] }, last: number): number {
  const first = Math.min(...landings.map((l) => l.land), last);
  return Math.max(0, Math.min(last - over, first));
}

/** A body's level speed on a frame, metres a frame along x and z, read over a tenth of a second before it. */
export function travelSpeed({ x, z }: Pick<Course, "x" | "z">, frame: number, fps: number): [number, number] {
  const from = Math.max(0, frame - Math.max(1, Math.round(fps / 10)));
  const to = Math.max(frame, Math.min(x.length - 1, from + 1));
  return to > from ? [(x[to] - x[from]) / (to - from), (z[to] - z[from]) / (to - from)] : [0, 0];
}

/**
 * A pose (a clip of one frame) in its final place. "target": its own. "here": where the motion comes to when it slows from the first landing on, heading as it
 * then does, and no further behind the first landing than `ahead` (share of the leg), so that legs which land early still reach; a body that stays where it is stands over its feet.
 */
export function placedPose(motion: Motion, target: Clip, place: "here" | "target", over: number, landings: readonly Landing[], ahead: number): Clip {
  const { character, clip } = motion;
  const { skeleton } = character;
  const at = standing(character, target, 0);
  if (place === "target") {
    const y = groundHeight(motion.ground, at.x, at.z);
    return y === 0 ? target : moveBody(skeleton, target, () => rigidOf({ yaw: 0, x: 0, y, z: 0 }));
  }
  const last = clip.frameCount - 1;
  const course = travelCourse(motion);
  const begin = slowsFrom({ over, landings }, last);
  const [vx, vz] = travelSpeed(course, begin, clip.fps);
  const v = Math.hypot(vx, vz);
  const leg = legLengthOf(character);
  const ends = legEnds(motion);
  if (v * clip.fps > STAYS * leg || ends.length === 0) {
    const first = Math.min(...landings.map((l) => l.land), last);
    const way = Math.min(STOPPING * v * (last - begin), ahead * leg + v * (first - begin));
    const [x, z, heading] = alongFrom(course, begin, way, v > 0 ? [vx / v, vz / v] : [0, 0]);
    return moveBody(skeleton, target, () => rigidOf({ ...toPlace(at, { x, z, heading }), y: groundHeight(motion.ground, x, z) }));
  }
  const pose = new PoseFrame(skeleton, target);
  pose.load(target, 0);
  const tracks = jointTracks(
    skeleton,
    clip,
    ends.map((e) => e.limb.end),
  );
  const mean = (value: (end: (typeof ends)[number], i: number) => number) => ends.reduce((sum, end, i) => sum + value(end, i), 0) / ends.length;
  const from = { x: mean((e) => pose.worldPositions[e.limb.end * 3]), z: mean((e) => pose.worldPositions[e.limb.end * 3 + 2]), heading: at.heading };
  const to = { x: mean((_, i) => tracks[i].positions[last * 3]), z: mean((_, i) => tracks[i].positions[last * 3 + 2]), heading: course.heading[last] };
  return moveBody(skeleton, target, () => rigidOf({ ...toPlace(from, to), y: groundHeight(motion.ground, to.x, to.z) }));
}

/** Place and heading so far along a course from a frame on; behind its end straight on. */
function alongFrom({ x, z, heading }: Course, frame: number, way: number, ahead: readonly number[]): [number, number, number] {
  let left = way;
  for (let f = frame + 1; f < x.length; f++) {
    const step = Math.hypot(x[f] - x[f - 1], z[f] - z[f - 1]);
    if (step >= left && step > 0) {
      const t = left / step;
      return [x[f - 1] + t * (x[f] - x[f - 1]), z[f - 1] + t * (z[f] - z[f - 1]), heading[f]];
    }
    left -= step;
  }
  const last = x.length - 1;
  return [x[last] + left * ahead[0], z[last] + left * ahead[1], heading[last]];
}
