import { type Clocks, type LoopSettings, momentsBetween, type Patch, patchKind } from "@stride/motion";
import { shownDoc, useBench } from "./bench.ts";
import { playhead } from "./playhead.ts";

/** How much is played on either side of a seam, seconds. */
const AROUND = 0.6;

/** Frames of the result around the first seam of a loop; the whole where it repeats once, whose seam is where playing starts anew. */
export function seamFrames(patch: Patch, clocks: Clocks, last: number): [number, number] {
  const { repeats, half } = { ...patchKind("loop")?.defaults, ...patch.settings } as LoopSettings;
  const stage = clocks.receives[patch.id];
  const warp = stage === undefined ? undefined : clocks.warps[stage];
  if (!warp || (repeats < 2 && half === null)) return [0, last];
  const [seam] = momentsBetween(clocks, stage + 1, clocks.warps.length, warp.pieces[0].outEnd);
  if (seam === undefined) return [0, last];
  const [from, to] = [seam - AROUND, seam + AROUND].map((m) => Math.round(m * clocks.fps));
  return [Math.max(0, from), Math.min(last, to)];
}

/** The loop that is picked, or the last one that takes part. */
export function pickedLoop(): Patch | undefined {
  const s = useBench.getState();
  const { patches } = shownDoc(s);
  return patches.find((p) => p.id === s.patchId && p.kind === "loop") ?? patches.findLast((p) => p.kind === "loop" && !p.muted);
}

/** Plays around a loop's seam, over and over; again: the whole. */
export function playSeam(patch: Patch | undefined): void {
  if (!patch) return;
  const { clocks } = useBench.getState();
  const [from, to] = seamFrames(patch, clocks, playhead.last);
  const same = playhead.range?.[0] === from && playhead.range[1] === to;
  playhead.setLooping(true);
  playhead.setRange(same || (from === 0 && to === playhead.last) ? null : [from, to]);
  if (!playhead.playing) playhead.play();
}
