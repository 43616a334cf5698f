import { mapMarked } from "../documents/marked.ts";
import type { Patch } from "../documents/patch.ts";
import type { Work } from "../documents/work.ts";
import { patchKind } from "../patches/index.ts";
import { type ClipKey, clipKeyOf, type SourceRef } from "../sources.ts";

/** A work with every reference to one clip turned to another; those to the result of a work on it are left, since that work stands on the old one. */
export function withClipSwapped(work: Work, from: ClipKey, to: SourceRef): { readonly work: Work; readonly swapped: number } {
  let swapped = 0;
  const swap = (value: unknown): unknown => {
    const ref = value as SourceRef;
    if (clipKeyOf(ref) !== clipKeyOf(from) || ref.work !== undefined) return value;
    swapped++;
    return to;
  };
  const patches = work.patches.map((patch): Patch => {
    const kind = patchKind(patch.kind);
    return kind ? { ...patch, settings: mapMarked(kind.schema, patch.settings, (meta) => meta.field === "clip", swap) as Patch["settings"] } : patch;
  });
  return { work: { ...work, patches }, swapped };
}

/** A work as it can stand on a clip of another length: ranges and contact edits cut to it; what lies wholly behind its end is left out, and named. */
export function fittedToLength(work: Work, seconds: number): { readonly work: Work; readonly dropped: readonly string[] } {
  const dropped: string[] = [];
  const timed = work.patches.some((p) => patchKind(p.kind)?.warps);
  const patches = work.patches.flatMap((patch): Patch[] => {
    const { range } = patch;
    // Over a patch that changes time a range may lie anywhere.
    if (!range || timed || range.end <= seconds) return [patch];
    if (range.start <= seconds) return [{ ...patch, range: { ...range, end: seconds } }];
    dropped.push(`"${patch.name}" lies behind the clip's end and is left out`);
    return [];
  });
  const contacts = work.contacts.filter((c) => c.start <= seconds).map((c) => ({ ...c, end: Math.min(c.end, seconds) }));
  const lost = work.contacts.length - contacts.length;
  if (lost > 0) dropped.push(`${lost} edited ${lost === 1 ? "contact lies" : "contacts lie"} behind the clip's end`);
  return { work: { ...work, patches, contacts }, dropped };
}
