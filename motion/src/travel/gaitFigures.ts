import { PointTracks } from "../contacts/pointTracks.ts";
import { strideSeconds } from "../cycles/find.ts";
import type { Motion } from "../motion.ts";
import { median } from "../signal/robust.ts";
import { alongCourse, type Course, hipsCourse, travelOf } from "./course.ts";

/** What a walk's arithmetic is made of, and what it comes to. Lengths metres, times seconds; nothing rounded. */
export interface GaitFigures {
  readonly stepLength: number;
  readonly cycleFrames: number;
  readonly fps: number;
  /** steps of one cycle: two on two legs, and of a four-legged body's fore or hind pair */
  readonly steps: number;
}

/** Speed of a stride, metres a second: steps · step length · frames a second ÷ frames a cycle (common practice). */
export function strideSpeed({ stepLength, cycleFrames, fps, steps }: GaitFigures): number {
  return (steps * stepLength * fps) / cycleFrames;
}

/** The same, metres a frame. */
export function strideSpeedPerFrame(figures: GaitFigures): number {
  return (figures.steps * figures.stepLength) / figures.cycleFrames;
}

/** How far that goes in a time, metres. */
export function strideTravel(figures: GaitFigures, seconds: number): number {
  return strideSpeed(figures) * seconds;
}

/** What of a motion the arithmetic speaks of, as it is measured; null where no foot lands twice. */
export interface MeasuredGait extends GaitFigures {
  /** how fast the body goes over the ground, m/s: its travel over whole strides */
  readonly speed: number;
  /** of that what the figure shows, and what the ground does; they add up to it */
  readonly figureSpeed: number;
  readonly groundSpeed: number;
}

/** Steps from where one foot rests to where the other one does, along the travel; strides from landing to landing. */
export function measureGait(motion: Motion): MeasuredGait | null {
  const { clip, character } = motion;
  const stride = strideSeconds(motion);
  if (stride === null) return null;
  const strideFrames = stride * clip.fps;
  const course = hipsCourse(character, clip);
  const travel = travelOf(course, strideFrames);
  const along = alongCourse(travel);
  const whole = along[along.length - 1] / ((clip.frameCount - 1) / clip.fps);
  const { groundTravel } = motion;
  let ground = 0;
  if (groundTravel) {
    const last = clip.frameCount - 1;
    ground = Math.hypot(groundTravel.x[last] - groundTravel.x[0], groundTravel.z[last] - groundTravel.z[0]) / (last / clip.fps);
  }
  return {
    stepLength: stepLengthOf(motion, travel) ?? (whole * stride) / 2,
    cycleFrames: strideFrames,
    fps: clip.fps,
    steps: 2,
    speed: whole,
    figureSpeed: whole - ground,
    groundSpeed: ground,
  };
}

/** The middle one of the ways from one foot's place to where the other one rests next, along the body's travel there; null without two of them. */
function stepLengthOf(motion: Motion, way: Course): number | null {
  const { character, clip } = motion;
  const tracks = new PointTracks(character.skeleton, clip, motion.points);
  const pairs = [
    ["leftToe", "rightToe"],
    ["leftHeel", "rightHeel"],
    ["leftHind", "rightHind"],
  ] as const;
  for (const pair of pairs) {
    const own = motion.contacts.filter((c) => (pair as readonly string[]).includes(c.point));
    // A stand that the clip cuts shows only some of where it rests.
    const full = own.filter((c) => c.start > 0 && c.end < clip.frameCount - 1);
    const stands = (full.length > 1 ? full : own)
      .map((c) => {
        const middle = Math.round((c.start + c.end) / 2);
        const course = tracks.course(c.point);
        return course ? { point: c.point, frame: middle, x: course[middle * 3], z: course[middle * 3 + 2] } : null;
      })
      .filter((s) => s !== null)
      .sort((a, b) => a.frame - b.frame);
    // From the one side to the other and back may differ: a step is the mean of the two.
    const steps: Record<string, number[]> = {};
    for (let i = 1; i < stands.length; i++) {
      const [a, b] = [stands[i - 1], stands[i]];
      if (a.point === b.point) continue;
      const [dx, dz] = [way.x[b.frame] - way.x[a.frame], way.z[b.frame] - way.z[a.frame]];
      const size = Math.hypot(dx, dz);
      if (size === 0) continue;
      steps[b.point] = [...(steps[b.point] ?? []), ((b.x - a.x) * dx + (b.z - a.z) * dz) / size];
    }
    const sides = Object.values(steps).map(median);
    if (sides.length > 0) return sides.reduce((sum, v) => sum + v, 0) / sides.length;
  }
  return null;
}
