import {
  type Clocks,
  frameOf,
  intoPatch,
  intoSource,
  lastStage,
  momentsBetween,
  outOfPatch,
  outOfSource,
  receivedSeconds,
  sameClock,
  spansOutOfPatch,
  type Work,
} from "@stride/motion";

/** Frames of the result, as the page counts, to and from the moments that documents hold. Everything that writes or compares a moment asks here. */

/** The moment, in the time that a patch receives, that a frame of the result shows; for a patch that is yet to be put on top, null. */
export function momentIn(clocks: Clocks, patchId: string | null, frame: number): number {
  return intoPatch(clocks, patchId, frame / clocks.fps);
}

/** Frames of the result that show a moment of what a patch receives: none where it is cut away. */
export function framesOf(clocks: Clocks, patchId: string, moment: number): number[] {
  return outOfPatch(clocks, patchId, moment).map((m) => frameOf(m, clocks.fps));
}

/** Stretches of the result, frames, that show a stretch of what a patch receives: none where it lies outside of that. */
export function frameSpansOf(clocks: Clocks, patchId: string, start: number, end: number): [number, number][] {
  if (end < 0 || start > receivedSeconds(clocks, patchId) + 0.5 / clocks.fps) return [];
  return spansOutOfPatch(clocks, patchId, start, end).map(([a, b]) => [frameOf(a, clocks.fps), frameOf(b, clocks.fps)]);
}

/** Why a stretch of what a patch receives is not shown, where it is not. */
export function goneReason(clocks: Clocks, patchId: string, { start, end }: { readonly start: number; readonly end: number }): string {
  if (end < 0) return "its stretch lies before the start";
  if (start > receivedSeconds(clocks, patchId) + 0.5 / clocks.fps) return "its stretch lies behind the end";
  return "its stretch is cut away above";
}

/** The frame of the source, to the nearest, that a frame of the result shows. */
export function sourceFrameOf(clocks: Clocks, frame: number): number {
  return sameClock(clocks) ? frame : Math.round(frameOf(intoSource(clocks, frame / clocks.fps), clocks.fps));
}

/** The moment of the source that a frame of the result shows, seconds. */
export function sourceMomentOf(clocks: Clocks, frame: number): number {
  return intoSource(clocks, frame / clocks.fps);
}

/** The last frame of what a patch receives. */
export function lastFrameOf(clocks: Clocks, patchId: string): number {
  return Math.floor(frameOf(receivedSeconds(clocks, patchId), clocks.fps));
}

/** The moment, in the time that a patch makes, of a frame of the result. */
export function momentMade(clocks: Clocks, patchId: string, frame: number): number {
  return momentsBetween(clocks, lastStage(clocks), madeStage(clocks, patchId), frame / clocks.fps)[0];
}

/** The frame of the result, not rounded, that shows a moment of what a patch makes; null where it is not shown. */
export function frameMade(clocks: Clocks, patchId: string, moment: number): number | null {
  const [m] = momentsBetween(clocks, madeStage(clocks, patchId), lastStage(clocks), moment);
  return m === undefined ? null : frameOf(m, clocks.fps);
}

function madeStage(clocks: Clocks, patchId: string): number {
  return Math.min(lastStage(clocks), (clocks.receives[patchId] ?? lastStage(clocks)) + 1);
}

/** The frame of one evaluation that shows the moment which a frame of another showed: of several the nearest, the frame itself where it is gone. */
export function sameMoment(from: Clocks, to: Clocks, frame: number): number {
  const shown = outOfSource(to, intoSource(from, frame / from.fps)).map((m) => frameOf(m, to.fps));
  return shown.length === 0 ? frame : Math.round(shown.reduce((best, f) => (Math.abs(f - frame) < Math.abs(best - frame) ? f : best)));
}

/** The work with its patches in another order. */
export function reordered(work: Work, from: number, to: number): Work {
  const patches = [...work.patches];
  const [moved] = patches.splice(from, 1);
  patches.splice(to, 0, moved);
  return { ...work, patches };
}
