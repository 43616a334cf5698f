import { quinticHermite } from "../math/ramp.ts";

/** A stretch of frames whose values are fixed, and how long they take to come from and go to zero, frames. */
export interface FadeSpan {
  readonly start: number;
  readonly end: number;
  readonly rampIn: number;
  readonly rampOut: number;
}

/** Frames at a span's end over which its slope is read: a single difference would carry a frame's jitter into the ramp. */
const SLOPE_FRAMES = 2;

/**
 * Fills values [frame][3] outside `spans` so that they leave each span with its own slope and reach zero at the end of its ramp (quintic
 * Hermite: value, speed and a vanishing acceleration are continuous). Where two spans lie closer than their ramps, one segment leads
 * from the one to the other, not to zero and back. Beyond the ramps the values are zero. Spans are in order and do not touch.
 */
export function fadeBetween(values: Float64Array, frameCount: number, spans: readonly FadeSpan[]): void {
  const slope = (span: FadeSpan, atEnd: boolean, axis: number): number => {
    const k = Math.min(SLOPE_FRAMES, span.end - span.start);
    if (k === 0) return 0;
    const edge = atEnd ? span.end : span.start;
    const inner = atEnd ? edge - k : edge + k;
    const per = (values[edge * 3 + axis] - values[inner * 3 + axis]) / k;
    return atEnd ? per : -per;
  };
  const segment = (from: number, to: number, fill: (axis: number, u: number, length: number) => number) => {
    const length = to - from;
    for (let f = Math.max(0, from + 1); f < Math.min(frameCount, to); f++) {
      for (let axis = 0; axis < 3; axis++) values[f * 3 + axis] = fill(axis, (f - from) / length, length);
    }
  };
  spans.forEach((span, i) => {
    const next = spans[i + 1];
    const gap = next ? next.start - span.end : Number.POSITIVE_INFINITY;
    const joined = next !== undefined && gap <= span.rampOut + next.rampIn + 2;
    // Values at the spans' ends are read before anything is written between them.
    const ends = [0, 1, 2].map((axis) => [values[span.end * 3 + axis], slope(span, true, axis)]);
    const starts = [0, 1, 2].map((axis) => [values[span.start * 3 + axis], slope(span, false, axis)]);
    if (i === 0 || span.start - spans[i - 1].end > spans[i - 1].rampOut + span.rampIn + 2) {
      const length = span.rampIn + 1;
      segment(span.start - length, span.start, (axis, u) => quinticHermite(0, 0, starts[axis][0], starts[axis][1] * length, u));
    }
    if (joined) {
      const to = [0, 1, 2].map((axis) => [values[next.start * 3 + axis], slope(next, false, axis)]);
      segment(span.end, next.start, (axis, u, length) => quinticHermite(ends[axis][0], ends[axis][1] * length, to[axis][0], to[axis][1] * length, u));
    } else {
      const length = span.rampOut + 1;
      segment(span.end, span.end + length, (axis, u) => quinticHermite(ends[axis][0], ends[axis][1] * length, 0, 0, u));
    }
  });
}
