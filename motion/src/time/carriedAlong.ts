import { activePatches, type Patch } from "../documents/patch.ts";
import { movedPatch } from "../documents/times.ts";
import type { Work } from "../documents/work.ts";
import { PatchError } from "../formats/errors.ts";
import { patchKind, patchWarp } from "../patches/index.ts";
import type { SourceRef } from "../sources.ts";
import { inputBeyond, isIdentity, outputBeyond, type TimeWarp } from "./warp.ts";

/** What a work's time is read from: its source's length and rate. */
export interface SourceTime {
  readonly seconds: number;
  readonly fps: number;
  /** how long another clip is, seconds, where that is known */
  readonly lengthOf?: (ref: SourceRef) => number | undefined;
}

/**
 * A changed work with everything that hangs on time gone along: where a patch that changes time was changed, added, taken away, muted or moved, the
 * ranges, ramps and keys of the patches over it come to stand on the moments of the body that they were put on. Moments that are not shown any more
 * lie before the start or behind the end, at the distance that they had, and come back when time does. Patches that are new, or whose own moments were
 * changed in the same step, stay as they are told.
 */
export function carriedAlong(before: Work, after: Work, source: SourceTime): Work {
  if (before.patches === after.patches) return after;
  const was = timesBeneath(before.patches, source);
  const now = timesBeneath(after.patches, source);
  const known = new Map(before.patches.map((p) => [p.id, p]));
  let moved = false;
  const patches = after.patches.map((patch) => {
    const old = known.get(patch.id);
    const [a, b] = [was.get(patch.id), now.get(patch.id)];
    if (!old || !a || !b || sameTimes(a, b) || !sameMoments(old, patch)) return patch;
    moved = true;
    return movedPatch(patch, (m) => translated(m, a, b));
  });
  return moved ? { ...after, patches } : after;
}

/** For each patch the maps of the patches beneath it that change time, lowest first; nothing for patches over one whose map cannot be told. */
function timesBeneath(patches: readonly Patch[], source: SourceTime): Map<string, readonly TimeWarp[]> {
  const active = new Set(activePatches(patches));
  const out = new Map<string, readonly TimeWarp[]>();
  let beneath: readonly TimeWarp[] = [];
  let { seconds } = source;
  for (const patch of patches) {
    out.set(patch.id, beneath);
    if (!active.has(patch) || !patchKind(patch.kind)?.warps) continue;
    try {
      const warp = patchWarp(patch, seconds, source.fps, null, source.lengthOf);
      if (!isIdentity(warp)) beneath = [...beneath, warp];
      seconds = warp.seconds;
    } catch (error) {
      if (error instanceof PatchError) break;
      throw error;
    }
  }
  return out;
}

function sameTimes(a: readonly TimeWarp[], b: readonly TimeWarp[]): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

/** Do two states of a patch hold the same moments? */
function sameMoments(a: Patch, b: Patch): boolean {
  const moments = (patch: Patch) => {
    const list: number[] = [];
    movedPatch(patch, (m) => {
      list.push(m);
      return m;
    });
    return JSON.stringify(list);
  };
  return moments(a) === moments(b);
}

/** A moment over some maps as a moment over others: down to where they part and up again. */
function translated(moment: number, from: readonly TimeWarp[], to: readonly TimeWarp[]): number {
  let shared = 0;
  while (shared < from.length && shared < to.length && sameTimes([from[shared]], [to[shared]])) shared++;
  let m = moment;
  for (let k = from.length - 1; k >= shared; k--) m = inputBeyond(from[k], m);
  for (let k = shared; k < to.length; k++) m = outputBeyond(to[k], m, moment);
  return m;
}
