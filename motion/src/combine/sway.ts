import { jointTrack } from "../contacts/tracks.ts";
import { strideSeconds } from "../cycles/find.ts";
import type { Motion } from "../motion.ts";
import { type Course, hipsCourse, travelOf } from "../travel/course.ts";
import { turnedLevel } from "../travel/level.ts";

/** Over how long a body's way is averaged where it takes no strides, seconds. */
const USUAL = 1;

/** A motion's way over the ground without what comes back within a stride. */
export function travelCourse(motion: Motion): Course {
  const known = courses.get(motion) ?? courseOf(motion);
  courses.set(motion, known);
  return known;
}

const courses = new WeakMap<Motion, Course>();

function courseOf(motion: Motion): Course {
  return travelOf(hipsCourse(motion.character, motion.clip), (strideSeconds(motion) ?? USUAL) * motion.clip.fps);
}

/** Level place and heading of a body on a frame, its strides' sway taken out. */
export function courseAt(motion: Motion, frame: number): { x: number; z: number; heading: number } {
  const { x, z, heading } = travelCourse(motion);
  const f = Math.max(0, Math.min(x.length - 1, frame));
  return { x: x[f], z: z[f], heading: heading[f] };
}

/** The hips' way off their travel: sideways, up and along, as the travel's heading sees it, [frame][3] metres. */
function offTravel(motion: Motion): { readonly values: Float64Array; readonly heading: Float64Array } {
  const { x, z, heading } = travelCourse(motion);
  const { positions } = jointTrack(motion.character.skeleton, motion.clip, motion.character.rig.hips);
  const values = new Float64Array(positions.length);
  for (let f = 0; f < x.length; f++) {
    const [side, along] = turnedLevel(positions[f * 3] - x[f], positions[f * 3 + 2] - z[f], -heading[f]);
    values.set([side, positions[f * 3 + 1], along], f * 3);
  }
  return { values, heading };
}

/**
 * What another motion's hips do off their travel, against a stretch of frames of its whole clip, in the world of the motion below: what is added to its body's place. Travel
 * itself is not added.
 */
export function swayOf(laid: Motion, below: Motion, whole: Motion, [first, last]: readonly [number, number]): (frame: number) => readonly number[] {
  const { values } = offTravel(laid);
  const { heading } = travelCourse(below);
  const own = offTravel(whole).values;
  const mean = [0, 0, 0];
  for (let f = first; f <= last; f++) for (let i = 0; i < 3; i++) mean[i] += own[f * 3 + i] / (last - first + 1);
  return (f) => {
    const [x, z] = turnedLevel(values[f * 3] - mean[0], values[f * 3 + 2] - mean[2], heading[f]);
    return [x, values[f * 3 + 1] - mean[1], z];
  };
}
