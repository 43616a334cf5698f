import type { ContactPart } from "@stride/motion";
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

export interface StepSlide {
  readonly label: string;
  readonly part: ContactPart;
  readonly before: number;
  readonly after: number | null;
}

/** Slide of every contact before, and of the same contact after where it is still there. `offset` is the source frame of frame 0. */
export function slidesByStep(before: MotionFigures, after: MotionFigures, offset: number): StepSlide[] {
  return before.spans.map(({ contact, slideCm }) => {
    const now = after.spans.find((s) => s.contact.part === contact.part && Math.abs(s.contact.start + offset - contact.start) <= 1);
    return {
      label: `${contact.part
        .replace(/^left/, "L ")
        .replace(/^right/, "R ")
        .toLowerCase()} ${contact.start}`,
      part: contact.part,
      before: slideCm,
      after: now?.slideCm ?? null,
    };
  });
}
