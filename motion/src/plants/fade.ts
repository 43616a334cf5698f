import { quinticHermite, quinticStep } from "../math/ramp.ts";

/** A stretch of frames whose values are fixed, and how long they take to come from and go to zero, frames. */
export interface FadeSpan {
  readonly start: number;
  readonly end: number;
  readonly rampIn: number;
  readonly rampOut: number;
}

/** How soon what comes of trembling is let go, frames, and how much trembles (median, as large as the values). */
export interface LettingGo {
  readonly frames: number;
  readonly trembles: number;
}

const NO_TREMBLING: LettingGo = { frames: 0, trembles: 0 };

/** What a span's end differs by beyond so many times the trembling is no longer all of that, beyond twice as much none of it. */
const TREMBLING = 4;

/**
 * Frames at a span's end over which its slope is read where it trembles: a single difference would carry a frame's jitter into the ramp. What
 * bends there by more than trembling explains is read from the last two frames alone, or speed would jump where the ramp begins.
 */
const SLOPE_FRAMES = 2;

/**
 * Fills values [frame][3] outside `spans` so that they leave each span with its own slope and reach zero at the end of its ramp (quintic
 * Hermite: value, speed and a vanishing acceleration are continuous). Where two spans lie closer than their ramps, one segment leads
 * from the one to the other, not to zero and back. Beyond the ramps the values are zero. Spans are in order and do not touch.
 *
 * Of what trembles, the mean of a span's last frames is carried over a whole ramp; by how much its very end differs, and its slope, are let go soon, as
 * far as trembling explains them: a long ramp with the slope of two trembling frames at its end would swing out far.
 */
export function fadeBetween(values: Float64Array, frameCount: number, spans: readonly FadeSpan[], letting: LettingGo = NO_TREMBLING): void {
  const edgeOf = (span: FadeSpan, atEnd: boolean): Edge => {
    const edge = atEnd ? span.end : span.start;
    const inwards = atEnd ? -1 : 1;
    const at = (k: number, axis: number) => values[(edge + inwards * k) * 3 + axis];
    const k = Math.min(SLOPE_FRAMES, span.end - span.start);
    const last = AXES.map((axis) => (k === 0 ? 0 : at(0, axis) - at(1, axis)));
    const longer = AXES.map((axis) => (k === 0 ? 0 : (at(0, axis) - at(k, axis)) / k));
    const bends = beyondTrembling(Math.hypot(...AXES.map((axis) => last[axis] - longer[axis])), letting.trembles);
    const slope = AXES.map((axis) => bends * last[axis] + (1 - bends) * longer[axis]);
    const frames = Math.min(letting.frames, span.end - span.start) + 1;
    const mean = AXES.map((axis) => Array.from({ length: frames }, (_, i) => at(i, axis)).reduce((sum, v) => sum + v, 0) / frames);
    const off = AXES.map((axis) => at(0, axis) - mean[axis]);
    // What is over four times the trembling, or over twice that not at all, is a foot that moves: it is carried like the rest.
    const most = Math.max(Math.hypot(...off), SLOPE_FRAMES * Math.hypot(...slope));
    return { mean, off, slope, moves: beyondTrembling(most, letting.trembles) };
  };
  const edges = spans.map((span) => ({ start: edgeOf(span, false), end: edgeOf(span, true) }));
  /** A span's part of the value so many frames away from it, on a ramp of that length. */
  const fades = ({ mean, off, slope, moves }: Edge, axis: number, frames: number, length: number) => {
    const left = 1 - quinticStep(frames / length);
    const whole = off[axis] * left + quinticHermite(0, slope[axis] * length, 0, 0, frames / length);
    const soon = Math.min(letting.frames, length);
    const trembling = frames < soon ? quinticHermite(off[axis], slope[axis] * soon, 0, 0, frames / soon) : 0;
    return mean[axis] * left + moves * whole + (1 - moves) * trembling;
  };
  const fill = (from: number, to: number, left: Edge | null, right: Edge | null) => {
    for (let f = Math.max(0, from + 1); f < Math.min(frameCount, to); f++)
      for (const axis of AXES) values[f * 3 + axis] = (left ? fades(left, axis, f - from, to - from) : 0) + (right ? fades(right, axis, to - f, to - from) : 0);
  };
  const joins = (a: FadeSpan, b: FadeSpan) => b.start - a.end <= a.rampOut + b.rampIn + 2;
  // What lies between spans is written only once the ends of all have been read.
  spans.forEach((span, i) => {
    const [before, next] = [spans[i - 1], spans[i + 1]];
    if (!before || !joins(before, span)) fill(span.start - span.rampIn - 1, span.start, null, edges[i].start);
    if (next && joins(span, next)) fill(span.end, next.start, edges[i].end, edges[i + 1].start);
    else fill(span.end, span.end + span.rampOut + 1, edges[i].end, null);
  });
}

/** How far a difference is more than trembling explains, 0..1. */
function beyondTrembling(difference: number, trembles: number): number {
  return trembles > 0 ? quinticStep(difference / (TREMBLING * trembles) - 1) : 1;
}

const AXES = [0, 1, 2] as const;

/** A span's end as a ramp sees it: the mean near it, what its last frame differs by, how fast that changes away from the span (a frame), and how much of both is the foot's own movement. */
interface Edge {
  readonly mean: readonly number[];
  readonly off: readonly number[];
  readonly slope: readonly number[];
  readonly moves: number;
}
