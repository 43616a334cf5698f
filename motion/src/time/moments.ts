import { inputAt, isIdentity, outputSpans, outputsAt, type TimeWarp } from "./warp.ts";

/**
 * The clocks of an evaluation. Stage 0 is the source, stage k what the k-th active patch makes; `warps[k]` says which moment of stage k each
 * moment of stage k + 1 shows. Whatever writes a moment into a document, or compares with the source, asks here.
 */
export interface Clocks {
  readonly fps: number;
  /** how long the source is */
  readonly seconds: number;
  readonly warps: readonly TimeWarp[];
  /** the stage that each patch of the work receives, active or not, by its id */
  readonly receives: Readonly<Record<string, number>>;
}

/**
 * A moment of one stage as moments of another, in order. From a later stage to an earlier one there is always one; the other way there is
 * none where the moment was cut away, and several where it is shown more than once.
 */
export function momentsBetween(clocks: Clocks, from: number, to: number, moment: number): number[] {
  let moments = [moment];
  for (let k = from; k > to; k--) moments = moments.map((m) => inputAt(clocks.warps[k - 1], m));
  for (let k = from; k < to; k++) moments = moments.flatMap((m) => outputsAt(clocks.warps[k], m)).sort((a, b) => a - b);
  return moments;
}

/** A stretch of an earlier stage as stretches of a later one. */
export function spansBetween(clocks: Clocks, from: number, to: number, start: number, end: number): [number, number][] {
  if (to <= from) {
    const [a] = momentsBetween(clocks, from, to, start);
    const [b] = momentsBetween(clocks, from, to, end);
    return [[Math.min(a, b), Math.max(a, b)]];
  }
  let spans: [number, number][] = [[start, end]];
  for (let k = from; k < to; k++) spans = spans.flatMap(([a, b]) => outputSpans(clocks.warps[k], a, b));
  return spans.sort((a, b) => a[0] - b[0]);
}

/** How long the motion of a stage is, seconds. */
export function stageSeconds(clocks: Clocks, stage: number): number {
  return stage === 0 ? clocks.seconds : clocks.warps[stage - 1].seconds;
}

/** How long the motion is that a patch receives, seconds. */
export function receivedSeconds(clocks: Clocks, patchId: string): number {
  return stageSeconds(clocks, clocks.receives[patchId] ?? lastStage(clocks));
}

export function lastStage(clocks: Clocks): number {
  return clocks.warps.length;
}

/** The moment, in the time that a patch receives, of a moment of the result; of the result itself for a patch that is not there yet. */
export function intoPatch(clocks: Clocks, patchId: string | null, resultMoment: number): number {
  const stage = patchId === null ? lastStage(clocks) : (clocks.receives[patchId] ?? lastStage(clocks));
  return momentsBetween(clocks, lastStage(clocks), stage, resultMoment)[0];
}

/** Moments of the result that show a moment of what a patch receives. */
export function outOfPatch(clocks: Clocks, patchId: string, moment: number): number[] {
  return momentsBetween(clocks, clocks.receives[patchId] ?? lastStage(clocks), lastStage(clocks), moment);
}

/** Stretches of the result that show a stretch of what a patch receives. */
export function spansOutOfPatch(clocks: Clocks, patchId: string, start: number, end: number): [number, number][] {
  return spansBetween(clocks, clocks.receives[patchId] ?? lastStage(clocks), lastStage(clocks), start, end);
}

/** The moment of the source that a moment of the result shows. */
export function intoSource(clocks: Clocks, resultMoment: number): number {
  return momentsBetween(clocks, lastStage(clocks), 0, resultMoment)[0];
}

/** Moments of the result that show a moment of the source. */
export function outOfSource(clocks: Clocks, sourceMoment: number): number[] {
  return momentsBetween(clocks, 0, lastStage(clocks), sourceMoment);
}

/** Does the result run on the source's own clock? */
export function sameClock(clocks: Clocks): boolean {
  return clocks.warps.every(isIdentity);
}
