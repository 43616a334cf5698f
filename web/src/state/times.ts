import {
  type Clocks,
  frameOf,
  intoPatch,
  intoSource,
  momentsBetween,
  movedPatch,
  outOfPatch,
  type Patch,
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

/** Stretches of the result, frames, that show a stretch of what a patch receives. */
export function frameSpansOf(clocks: Clocks, patchId: string, start: number, end: number): [number, number][] {
  return spansOutOfPatch(clocks, patchId, start, end).map(([a, b]) => [frameOf(a, clocks.fps), frameOf(b, clocks.fps)]);
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

/**
 * The work with its patches in another order. A patch that comes to stand on another side of one that changes time keeps the moments of the body
 * that it was put on: what it holds is told anew in the time that it now receives. Moments that are not there any more stay as they were.
 */
export function reordered(work: Work, clocks: Clocks, from: number, to: number): Work {
  const patches = [...work.patches];
  const [moved] = patches.splice(from, 1);
  patches.splice(to, 0, moved);
  if (sameClock(clocks)) return { ...work, patches };
  const was = stages(work.patches, clocks);
  const now = stages(patches, clocks);
  return {
    ...work,
    patches: patches.map((patch) => {
      const [a, b] = [was.get(patch.id) ?? [], now.get(patch.id) ?? []];
      // A kind about time speaks of its own input; what it cuts is said by the person.
      return a.join() === b.join() ? patch : movedPatch(patch, (m) => translated(clocks, a, b, m));
    }),
  };
}

/** For each patch the stages (indices of warps that change time) that lie beneath it, in order. */
function stages(patches: readonly Patch[], clocks: Clocks): Map<string, number[]> {
  const out = new Map<string, number[]>();
  const beneath: number[] = [];
  for (const patch of patches) {
    out.set(patch.id, [...beneath]);
    const stage = clocks.receives[patch.id];
    if (!patch.muted && stage !== undefined && stage < clocks.warps.length && !sameClock({ ...clocks, warps: [clocks.warps[stage]] })) beneath.push(stage);
  }
  return out;
}

/** A moment over some time changes as a moment over others: down to the source and up again. */
function translated(clocks: Clocks, from: readonly number[], to: readonly number[], moment: number): number {
  const over = (list: readonly number[]): Clocks => ({ ...clocks, warps: list.map((k) => clocks.warps[k]) });
  const [source] = momentsBetween(over(from), from.length, 0, moment);
  const [there] = momentsBetween(over(to), 0, to.length, source);
  return there ?? moment;
}
