import { findingsOf } from "../checkup/findings.ts";
import { measure, type Totals, totalsOf } from "../checkup/measures.ts";
import { poseMovedCm } from "../checkup/poseMoved.ts";
import { changedWindows, frameTotal } from "../clip/changes.ts";
import type { Evaluation } from "../evaluate.ts";

/** What is told of a motion beside another. */
export interface MotionFigures {
  readonly frames: number;
  readonly fps: number;
  readonly joints: number;
  readonly plan: "biped" | "quadruped";
  readonly totals: Totals;
  readonly findings: number;
}

/** What a change of a work did: the result before and after it. */
export interface Outcome {
  readonly before: MotionFigures;
  readonly after: MotionFigures;
  /** frames that differ, and how far the most moved joint went on average, cm; null where the two have not the same frames and joints */
  readonly changedFrames: number | null;
  readonly movedCm: number | null;
  /** what patches of the new work could not do, for people */
  readonly notes: readonly string[];
}

/** Measures the result of a work before and after a change. Cost: two measurings. */
export function outcomeOf(before: Evaluation, after: Evaluation): Outcome {
  const [a, b] = [before.result.clip, after.result.clip];
  const alike = a.frameCount === b.frameCount && a.jointCount === b.jointCount && a.positions.length === b.positions.length;
  return {
    before: figuresOf(before),
    after: figuresOf(after),
    changedFrames: alike ? frameTotal(changedWindows(a, b, 0)) : null,
    movedCm: alike ? poseMovedCm(before.result, after.result) : null,
    notes: after.notes.map((note) => `${after.work.patches.find((p) => p.id === note.patchId)?.name ?? "a patch"}: ${note.message}`),
  };
}

function figuresOf({ result }: Evaluation): MotionFigures {
  const measures = measure(result);
  const { clip, character } = result;
  return {
    frames: clip.frameCount,
    fps: clip.fps,
    joints: clip.jointCount,
    plan: character.body.plan,
    totals: totalsOf(measures),
    findings: findingsOf(result, measures).length,
  };
}
