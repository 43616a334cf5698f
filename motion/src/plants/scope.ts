import { changedFrames } from "../clip/changes.ts";
import type { Clip } from "../clip/clip.ts";

/** Which frames have to be solved: those that differ from a clip in which all was held already, and those with a weight of their own. */
export interface SolveScope {
  readonly settled: Clip;
  /** [frame]; frames above zero are solved in any case */
  readonly also: Float64Array | null;
}

/** [frame] 1 where a scope wants a chain of joints solved; null for everywhere. */
export function scopeMarks(scope: SolveScope | null, clip: Clip, joints: readonly number[]): Uint8Array | null {
  if (!scope) return null;
  const marks = changedFrames(scope.settled, clip, joints);
  if (scope.also) for (let f = 0; f < marks.length; f++) if (scope.also[f] > 0) marks[f] = 1;
  return marks;
}
