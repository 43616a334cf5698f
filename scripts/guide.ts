import { readFileSync, writeFileSync } from "node:fs";
import { guideTable } from "@stride/motion";

// npm run guide: writes the guide's table of patches anew from the kinds there are.

const path = new URL("../docs/guide.md", import.meta.url);
const text = readFileSync(path, "utf8");
const table = /\| patch \| what it does \|\n(\|.*\n)+/;
if (!table.test(text)) throw new Error("docs/guide.md has no table of patches any more");
writeFileSync(
  path,
  text.replace(table, () => `${guideTable()}\n`),
);
