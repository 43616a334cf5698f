import type { ClipLabels, ClipRow } from "@stride/server";

/** What a clip that was made of another is called and where it lies: beside it, with its tags. */
export function labelsLike(clip: Pick<ClipRow, "tags" | "folder"> | null, name: string): ClipLabels {
  return { name, tags: clip?.tags ?? [], folder: clip?.folder ?? "" };
}
