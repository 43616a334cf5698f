import { PointTracks, showsTravel } from "../contacts/pointTracks.ts";
import { strideSeconds } from "../cycles/find.ts";
import type { Motion } from "../motion.ts";
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

/**
 * What the legs do and what the body does, measured apart: the step is what a foot in stance goes back under the body's travel in half a stride, so that it
 * does not change when the travel is wrong for the feet. Strides from landing to landing.
 */
export function measureGait(motion: Motion): MeasuredGait | null {
  const { clip, character, groundTravel } = motion;
  const stride = strideSeconds(motion);
  if (stride === null) return null;
  const last = clip.frameCount - 1;
  const seconds = last / clip.fps;
  const travel = travelOf(hipsCourse(character, clip), stride * clip.fps);
  const speed = alongCourse(travel)[last] / seconds;
  const groundSpeed = groundTravel ? Math.hypot(groundTravel.x[last] - groundTravel.x[0], groundTravel.z[last] - groundTravel.z[0]) / seconds : 0;
  const legs = legSpeed(motion, travel) ?? speed;
  return { stepLength: (legs * stride) / 2, cycleFrames: stride * clip.fps, fps: clip.fps, steps: 2, speed, figureSpeed: speed - groundSpeed, groundSpeed };
}

/** Share of a stance, at either end, in which a foot may still roll or have begun to lift. */
const ENDS = 0.15;

/** How fast feet in stance go back under the body's travel, along its heading, m/s; null where none stands long enough. */
function legSpeed(motion: Motion, travel: Course): number | null {
  const { character, clip, points } = motion;
  const tracks = new PointTracks(character.skeleton, clip, points);
  let [way, time] = [0, 0];
  for (const { point, start, end, on } of motion.contacts) {
    const course = typeof on !== "object" && showsTravel(points, point) ? tracks.course(point) : undefined;
    const [a, b] = [Math.round(start + ENDS * (end - start)), Math.round(end - ENDS * (end - start))];
    if (!course || b <= a) continue;
    const heading = travel.heading[Math.round((a + b) / 2)];
    const back = (f: number) => Math.sin(heading) * (travel.x[f] - course[f * 3]) + Math.cos(heading) * (travel.z[f] - course[f * 3 + 2]);
    way += back(b) - back(a);
    time += (b - a) / clip.fps;
  }
  return time > 0 ? Math.abs(way) / time : null;
}
