import type { ClipRow } from "@stride/server";
import { fillTemplate } from "../../naming/nameTemplate.ts";

/** What a name is made of. */
export interface Renaming {
  readonly prefix: string;
  /** may hold {name}, {n}, {character}, {folder}, {fps} */
  readonly template: string;
  readonly suffix: string;
  /** the first number */
  readonly from: number;
}

/** Longest name of a clip. */
export const LONGEST_NAME = 200;

/** The names that clips would get, in their order; numbers are as long as the last one, so that lists sort by them. */
export function renamed(
  clips: readonly Pick<ClipRow, "id" | "name" | "tags" | "folder" | "summary">[],
  { prefix, template, suffix, from }: Renaming,
): { id: string; name: string }[] {
  const digits = String(from + clips.length - 1).length;
  return clips.map((clip, i) => ({
    id: clip.id,
    name: fillTemplate(`${prefix}${template}${suffix}`, {
      name: clip.name,
      n: String(from + i).padStart(digits, "0"),
      character: clip.tags[0] ?? "",
      folder: clip.folder.split("/").at(-1) ?? "",
      fps: String(Math.round(clip.summary.fps)),
    }),
  }));
}

/** Why these names cannot be given; null where they can. */
export function renamingProblem(names: readonly { readonly name: string }[]): string | null {
  const long = names.find(({ name }) => name.length > LONGEST_NAME);
  if (long) return `“${long.name.slice(0, 40)}…” is longer than ${LONGEST_NAME} characters`;
  const twin = names.find(({ name }, i) => names.findIndex((other) => other.name === name) !== i);
  return twin ? `“${twin.name}” would be there twice; put {n} or {name} in` : null;
}

/** Tags with some added and some taken off, each once. */
export function retagged(tags: readonly string[], add: readonly string[], off: readonly string[]): string[] {
  return [...new Set([...tags.filter((t) => !off.includes(t)), ...add])];
}

/** Words between commas. */
export function tagsIn(text: string): string[] {
  return [...new Set(text.split(",").map((tag) => tag.trim()))].filter((tag) => tag !== "");
}
