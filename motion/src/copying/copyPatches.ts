import type { Patch } from "../documents/patch.ts";
import { movedPatch } from "../documents/times.ts";
import type { Work } from "../documents/work.ts";
import type { Evaluation, Evaluator } from "../evaluate.ts";
import type { Motion } from "../motion.ts";
import { patchKind } from "../patches/index.ts";
import { phaseMap } from "./phaseMap.ts";

/** Where a copied patch's range comes to lie: on the same phase of the steps, on the same moments, or over the whole clip. */
export type RangePlacing = "contacts" | "same" | "whole";

/** A patch as it was laid on another work. */
export interface CopiedPatch {
  readonly patch: Patch;
  /** seconds in the motion that it receives; null: no range */
  readonly range: Patch["range"];
  /** footfalls by which its moments were brought over; null where it has none, or they were not asked for */
  readonly footfalls: number | null;
  /** what became of it other than was asked, for people */
  readonly said: string | null;
}

export interface CopiedWork {
  readonly document: Work;
  readonly patches: readonly CopiedPatch[];
}

/** A patch that cannot be laid on another work: its moments lie outside it. */
export class CopyError extends Error {
  override readonly name = "CopyError";
}

/**
 * Lays patches of one evaluated work on another, each where its kind wants to stand: over its patches, or under them. Moments are brought over by `placing`, each patch's in the motion
 * that it receives there. Throws CopyError where a range lies outside the other motion, PatchError where the other work fails.
 */
export function copyPatches(
  source: Evaluation,
  ids: readonly string[],
  target: { readonly evaluator: Evaluator; readonly work: Work },
  placing: RangePlacing,
  freshId: () => string,
): CopiedWork {
  let document = target.work;
  const copied: CopiedPatch[] = [];
  for (const patch of source.work.patches) {
    if (!ids.includes(patch.id)) continue;
    const evaluation = target.evaluator.evaluate(document);
    const bottom = patchKind(patch.kind)?.place === "bottom";
    const onto = bottom ? evaluation.base : lastMotion(evaluation);
    const one = copiedPatch(patch, receivedBy(source, patch.id), onto, placing);
    const own = { ...one.patch, id: freshId(), solo: false };
    document = { ...document, patches: bottom ? [own, ...document.patches] : [...document.patches, own] };
    copied.push({ ...one, patch: own });
  }
  return { document, patches: copied };
}

/** The motion that a patch receives, or would if it were not muted. */
function receivedBy({ work, base, stages }: Evaluation, id: string): Motion {
  const below = new Set(
    work.patches
      .slice(
        0,
        Math.max(
          0,
          work.patches.findIndex((p) => p.id === id),
        ),
      )
      .map((p) => p.id),
  );
  return stages.findLast((s) => below.has(s.patch.id))?.motion ?? base;
}

function lastMotion({ base, stages }: Evaluation): Motion {
  return stages.at(-1)?.motion ?? base;
}

function copiedPatch(patch: Patch, from: Motion, onto: Motion, placing: RangePlacing): CopiedPatch {
  if (placing === "whole") return { patch: { ...patch, range: null }, range: null, footfalls: null, said: patch.range ? "over the whole clip" : null };
  const moments: number[] = [];
  movedPatch(patch, (moment) => {
    moments.push(moment);
    return moment;
  });
  if (moments.length === 0) return { patch, range: null, footfalls: null, said: null };
  if (placing === "same") return fitted(patch, onto, null);
  const window = patch.range ? ([patch.range.start, patch.range.end] as const) : ([Math.min(...moments), Math.max(...moments)] as const);
  const map = phaseMap(from, onto, window);
  return fitted(map.footfalls > 0 ? movedPatch(patch, map.at) : patch, onto, map.footfalls);
}

/** A patch with its range inside a motion. */
function fitted(patch: Patch, { clip }: Motion, footfalls: number | null): CopiedPatch {
  const seconds = (clip.frameCount - 1) / clip.fps;
  const unmatched = footfalls === 0 ? "no footfalls in common: left at its own moments" : null;
  const { range } = patch;
  if (!range) return { patch, range, footfalls, said: unmatched };
  if (range.start > seconds || range.end < 0)
    throw new CopyError(`"${patch.name}" would lie at ${range.start.toFixed(2)}–${range.end.toFixed(2)} s, outside this clip of ${seconds.toFixed(2)} s`);
  const inside = { start: Math.max(0, range.start), end: Math.min(seconds, range.end) };
  const cut = inside.start !== range.start || inside.end !== range.end ? "cut off where the clip ends" : null;
  return { patch: { ...patch, range: inside }, range: inside, footfalls, said: [unmatched, cut].filter((s) => s !== null).join("; ") || null };
}
