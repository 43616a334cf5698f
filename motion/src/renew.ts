import { changedWindows, type FrameWindow, frameTotal, mergedWindows, splicedClip, widened } from "./clip/changes.ts";
import type { Patch } from "./documents/patch.ts";
import { type Motion, sameButClip } from "./motion.ts";
import { applyPiece, kindOf, type PatchNote } from "./patches/index.ts";
import { pieceOf } from "./piece.ts";
import { frameOf } from "./time/warp.ts";

/** What a patch made of a motion when it was last applied. */
export interface Made {
  readonly patch: Patch;
  readonly input: Motion;
  readonly output: Motion;
}

/** Above this share of the clip applying the patch to all of it is as quick. */
const MOST_SHARE = 0.5;
/** Changed stretches closer than this, frames, are renewed as one. */
const GAP = 16;

/**
 * What a patch makes of a motion, renewed only where that can differ from what it made before: where its input has changed, as far as its kind sees,
 * and where its own window was or is. Null where all has to be done anew: the kind sees the whole of its input or is about time, it touches
 * more than the clip, or too much has changed.
 */
export function renewed(made: Made, patch: Patch, input: Motion, notes: PatchNote[], pause: () => void): Motion | null {
  const kind = kindOf(patch);
  const { fps, frameCount } = input.clip;
  const own = made.patch.kind === patch.kind && kind.ranged && !kind.warps;
  if (!own || !sameButClip(made.input, input) || !sameButClip(made.input, made.output)) return null;
  const sees = [made.patch, patch].map((p) => kind.sees(p.settings, fps));
  if (sees[0] === "whole" || sees[1] === "whole") return null;
  const before = Math.ceil(Math.max(sees[0].before, sees[1].before) * fps);
  const after = Math.ceil(Math.max(sees[0].after, sees[1].after) * fps);
  // A change shows as far behind it as the kind sees ahead, and the other way round.
  const shown = widened(changedWindows(made.input.clip, input.clip, GAP), after, before, frameCount);
  const windows = mergedWindows(sameWork(made.patch, patch) ? shown : [...shown, ...workWindow(made.patch, input), ...workWindow(patch, input)], GAP);
  if (windows.length === 0 || frameTotal(windows) > MOST_SHARE * frameCount) return null;
  const pieces = windows.map((window, i) => {
    const [[from, to]] = widened([window], before, after, frameCount);
    pause();
    const piece = applyPiece(pieceOf(input, from, to), patch, from, frameCount, input, i === 0 ? notes : [], pause);
    return { piece: piece.clip, offset: from, window };
  });
  const clip = splicedClip(made.output.clip, pieces);
  return clip === input.clip ? input : { ...input, clip };
}

/** Do two patches do the same, whatever they are called? */
function sameWork(a: Patch, b: Patch): boolean {
  const work = ({ name, muted, solo, ...rest }: Patch) => JSON.stringify(rest);
  return work(a) === work(b);
}

/** The frames on which a patch has weight. */
function workWindow(patch: Patch, { clip }: Motion): FrameWindow[] {
  const last = clip.frameCount - 1;
  if (!patch.range) return [[0, last]];
  const start = Math.floor(frameOf(patch.range.start - patch.rampIn, clip.fps)) - 1;
  const end = Math.ceil(frameOf(patch.range.end + patch.rampOut, clip.fps)) + 1;
  return start > last || end < 0 ? [] : [[Math.max(0, start), Math.min(last, end)]];
}
