import type { Motion } from "../motion.ts";
import { phaseMap } from "./phaseMap.ts";

/** How two motions are shown beside each other. */
export type InStep = "time" | "phase";

/** Which frame of another motion is shown with each frame of this one. */
export interface FramesInStep {
  /** [frame], whole frames of the other */
  readonly frames: Float64Array;
  /** footfalls that were laid on each other; null where clocks alone were asked for, 0: there are none in common, and clocks are used */
  readonly footfalls: number | null;
}

/** Another motion in step with this one: by the clock, or by the phase of their steps. Beyond its ends its first or last frame stays. */
export function framesInStep(motion: Motion, other: Motion, by: InStep): FramesInStep {
  const { fps, frameCount } = motion.clip;
  const map = by === "phase" ? phaseMap(motion, other, [0, (frameCount - 1) / fps]) : null;
  const last = other.clip.frameCount - 1;
  const frames = Float64Array.from({ length: frameCount }, (_, f) => {
    const moment = map ? map.at(f / fps) : f / fps;
    return Math.max(0, Math.min(last, Math.round(moment * other.clip.fps)));
  });
  return { frames, footfalls: map ? map.footfalls : null };
}
