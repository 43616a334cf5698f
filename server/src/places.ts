import { existsSync } from "node:fs";
import { dirname, join } from "node:path";

/** The project's folder, above this file whether it runs as it was written or inside a program that was built. */
export const ROOT = above(import.meta.dirname);
/** What runs is the source itself, through a loader of TypeScript. */
export const FROM_SOURCE = import.meta.filename.endsWith(".ts");

function above(folder: string): string {
  if (existsSync(join(folder, "package-lock.json"))) return folder;
  const parent = dirname(folder);
  if (parent === folder) throw new Error(`${import.meta.dirname} lies in no folder of the project`);
  return above(parent);
}
