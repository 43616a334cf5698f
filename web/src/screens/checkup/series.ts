import { type Clocks, lastStage, spansBetween } from "@stride/motion";
import { sourceFrameOf } from "../../state/times.ts";
import type { MotionFigures, MotionView } from "../../worker/views.ts";

/** Height over the floor of the lower end of each foot, cm, by frame: read off the joint's world position. */
export function footHeights(view: MotionView, joint: number): number[] {
  return Array.from({ length: view.frameCount }, (_, f) => view.positions[(f * view.jointCount + joint) * 3 + 1] * 100);
}

/** Level speed of the hips, m/s, over a fifteenth of a second to each side. */
export function travelSpeed(view: MotionView, hips: number): number[] {
  const span = Math.max(1, Math.round(view.fps / 15));
  const at = (f: number) => (Math.max(0, Math.min(view.frameCount - 1, f)) * view.jointCount + hips) * 3;
  return Array.from({ length: view.frameCount }, (_, f) => {
    const a = at(f - span);
    const b = at(f + span);
    const seconds = (Math.min(view.frameCount - 1, f + span) - Math.max(0, f - span)) / view.fps;
    return Math.hypot(view.positions[b] - view.positions[a], view.positions[b + 2] - view.positions[a + 2]) / seconds;
  });
}

/** A series of the source as the result shows it: at each frame of the result what the source has at that moment. */
export function inResultsTime(series: readonly number[], clocks: Clocks, frameCount: number): number[] {
  return Array.from({ length: frameCount }, (_, f) => series[Math.max(0, Math.min(series.length - 1, sourceFrameOf(clocks, f)))]);
}

export interface StepSlide {
  readonly label: string;
  readonly point: string;
  readonly before: number;
  /** null where the result does not show it, or has it no more */
  readonly after: number | null;
}

/** Slide of every contact before, and of the same contact after wherever the result shows it (the worst, where several times). */
export function slidesByStep(before: MotionFigures, after: MotionFigures, clocks: Clocks): StepSlide[] {
  return before.spans.map(({ contact, slideCm }) => {
    const shown = spansBetween(clocks, 0, lastStage(clocks), contact.start / clocks.fps, contact.end / clocks.fps);
    const now = after.spans.filter((s) => {
      if (s.contact.point !== contact.point) return false;
      const [a, b] = [s.contact.start / clocks.fps, s.contact.end / clocks.fps];
      return shown.some(([from, to]) => Math.min(b, to) - Math.max(a, from) > 0.5 * (to - from));
    });
    return {
      label: `${contact.point
        .replace(/^left/, "L ")
        .replace(/^right/, "R ")
        .toLowerCase()} ${contact.start}`,
      point: contact.point,
      before: slideCm,
      after: now.length > 0 ? Math.max(...now.map((s) => s.slideCm)) : null,
    };
  });
}
