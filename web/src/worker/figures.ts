import {
  type Evaluation,
  findingsInTime,
  findingsOf,
  type Motion,
  measureSteps,
  poseMovedCm,
  sameClock,
  sourceInTime,
  totalsOf,
  treatedFindings,
} from "@stride/motion";
import type { Figures, MotionFigures, StageFigures } from "./views.ts";

/** Measures evaluations, and keeps what it measured of each motion for as long as that is there. */
export class FigureMeasurer {
  private readonly measured = new WeakMap<Motion, MotionFigures>();
  private timed: { readonly base: Motion; readonly key: string; readonly motion: Motion | null } | undefined;
  private readonly movedBy = new WeakMap<Motion, { before: Motion; cm: number | null }>();

  /** All that can be measured of an evaluation, a little at a time. */
  *steps(evaluation: Evaluation): Generator<void, Figures> {
    const stages: Record<string, StageFigures> = {};
    const before = yield* this.measure(evaluation.base);
    let input = evaluation.base;
    for (const { patch, motion, warp } of evaluation.stages) {
      const moved = sameClock({ fps: 1, seconds: 0, warps: [warp], receives: {} }) ? this.moved(input, motion) : null;
      yield;
      const [own, made] = [yield* this.measure(input), yield* this.measure(motion)];
      stages[patch.id] = { before: own.totals, after: made.totals, poseMovedCm: moved };
      input = motion;
    }
    const after = yield* this.measure(evaluation.result);
    const timed = this.inResultsTime(evaluation);
    const shown = timed ? (yield* this.measure(timed)).findings : findingsInTime(before.findings, evaluation.base, evaluation.result);
    return { before, after, treated: treatedFindings(shown, after.findings), stages };
  }

  /** The source in the result's time; made once for each map of time. */
  private inResultsTime({ base, result }: Evaluation): Motion | null {
    const key = JSON.stringify(result.time);
    if (this.timed?.base !== base || this.timed.key !== key) this.timed = { base, key, motion: sourceInTime(base, result) };
    return this.timed.motion;
  }

  private moved(before: Motion, after: Motion): number | null {
    const known = this.movedBy.get(after);
    if (known && known.before === before) return known.cm;
    // On another body it is another pose altogether.
    const cm = before.character === after.character ? poseMovedCm(before, after) : null;
    this.movedBy.set(after, { before, cm });
    return cm;
  }

  private *measure(motion: Motion): Generator<void, MotionFigures> {
    let figures = this.measured.get(motion);
    if (!figures) {
      const measures = yield* measureSteps(motion);
      figures = { totals: totalsOf(measures), findings: findingsOf(motion, measures), spans: measures.spans };
      this.measured.set(motion, figures);
    }
    return figures;
  }
}
