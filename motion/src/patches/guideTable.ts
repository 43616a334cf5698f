import { PATCH_KINDS } from "./index.ts";

/** The guide's table of patches, in Markdown: a row a kind, in the order of the menus. */
export function guideTable(): string {
  const cell = (text: string) => text.replaceAll("|", "\\|");
  return ["| patch | what it does |", "|---|---|", ...PATCH_KINDS.map((k) => `| ${cell(k.title)} | ${cell(k.description)} |`)].join("\n");
}
