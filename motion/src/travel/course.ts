import type { Character } from "../character/character.ts";
import type { Clip } from "../clip/clip.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { bestCycle, strideSeconds } from "../cycles/find.ts";
import type { Motion } from "../motion.ts";
import { headingOf } from "../pose/spaces.ts";

/** A body's way over the ground: places of the hips (x, z) and heading, radians without jumps, at each frame. */
export interface Course {
  readonly x: Float64Array;
  readonly z: Float64Array;
  readonly heading: Float64Array;
}

/** The hips' way as the clip has it. */
export function hipsCourse(character: Character, clip: Clip): Course {
  const track = jointTrack(character.skeleton, clip, character.rig.hips);
  const n = clip.frameCount;
  const out = { x: new Float64Array(n), z: new Float64Array(n), heading: new Float64Array(n) };
  const worldRotations = new Float64Array(clip.jointCount * 4);
  for (let f = 0; f < n; f++) {
    out.x[f] = track.positions[f * 3];
    out.z[f] = track.positions[f * 3 + 2];
    for (let i = 0; i < 4; i++) worldRotations[character.rig.hips * 4 + i] = track.rotations[f * 4 + i];
    const angle = headingOf({ worldRotations }, character.rig);
    const before = f > 0 ? out.heading[f - 1] : angle;
    out.heading[f] = before + (angle - before) - 2 * Math.PI * Math.round((angle - before) / (2 * Math.PI));
  }
  return out;
}

/** A stride where none is known, seconds. */
const USUAL_STRIDE = 1;

/** Over how long sway, surge and bob come back to where they were: a stride, as contacts or the pose show it; one second where nothing does. Seconds. */
export function cycleSeconds(motion: Motion): number {
  const stride = strideSeconds(motion);
  if (stride !== null) return stride;
  const cycle = bestCycle(motion, false);
  return cycle ? cycle.to - cycle.from : USUAL_STRIDE;
}

/**
 * The travel of a way: its mean over one whole stride around each frame, so that what comes back within a stride is gone from it. Beyond the ends the way is
 * taken to go on as it does over the first and the last stride.
 */
export function travelOf(course: Course, strideFrames: number): Course {
  const smooth = (values: Float64Array) => strideMean(values, strideFrames);
  return { x: smooth(course.x), z: smooth(course.z), heading: smooth(course.heading) };
}

/** Mean of a sampled curve over ±half of a window of so many frames (not rounded), as the integral of straight lines between samples. */
function strideMean(values: Float64Array, window: number): Float64Array {
  const n = values.length;
  const length = Math.min(window, n - 1);
  if (!(length > 0)) return values.slice();
  const value = (at: number): number => {
    const low = Math.floor(at);
    const high = Math.min(n - 1, low + 1);
    return values[low] + (at - low) * (values[high] - values[low]);
  };
  const [headStep, tailStep] = [value(length) - values[0], values[n - 1] - value(n - 1 - length)];
  const beyond = (at: number): number => (at < 0 ? beyond(at + length) - headStep : at > n - 1 ? beyond(at - length) + tailStep : value(at));
  // The integral from −half before the first frame on, frame by frame.
  const pad = Math.ceil(length / 2) + 1;
  const sums = new Float64Array(n + 2 * pad);
  for (let k = 1; k < sums.length; k++) sums[k] = sums[k - 1] + (beyond(k - 1 - pad) + beyond(k - pad)) / 2;
  const integral = (at: number) => {
    const k = at + pad;
    const low = Math.min(sums.length - 2, Math.floor(k));
    const t = k - low;
    const [a, b] = [beyond(low - pad), beyond(low + 1 - pad)];
    return sums[low] + t * a + (t * t * (b - a)) / 2;
  };
  return Float64Array.from({ length: n }, (_, f) => (integral(f + length / 2) - integral(f - length / 2)) / length);
}

/** How far along a way each frame is, metres. */
export function alongCourse({ x, z }: Course): Float64Array {
  const out = new Float64Array(x.length);
  for (let f = 1; f < out.length; f++) out[f] = out[f - 1] + Math.hypot(x[f] - x[f - 1], z[f] - z[f - 1]);
  return out;
}
