// The programs that run on Node.js, each built into one file: they start in a quarter of the time that loading every module by itself takes.
import { existsSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import { build } from "esbuild";
import { ROOT } from "./ready.mjs";

const BUILT = join(ROOT, ".built");
const ENTRIES = {
  stride: "cli/src/main.ts",
  server: "server/src/main.ts",
  restore: "server/src/restoreMain.ts",
  worker: "server/src/worker.ts",
};
const SOURCES = ["motion/src", "demo/src", "server/src", "cli/src"];

/** Where a program lies once it is built. */
export const programFile = (name) => join(BUILT, `${name}.js`);

/** Builds the programs where a source is newer than they are. */
export async function readyPrograms() {
  const stamp = programFile("stride");
  if (existsSync(stamp) && statSync(stamp).mtimeMs > newestSource()) return;
  await build({
    entryPoints: ENTRIES,
    absWorkingDir: ROOT,
    outdir: BUILT,
    bundle: true,
    splitting: true,
    platform: "node",
    format: "esm",
    target: "node20.19",
    sourcemap: true,
    plugins: [{ name: "our packages only", setup: packagesStayOutside }],
  });
}

/** What is installed stays where it is; what is ours comes in. */
function packagesStayOutside({ onResolve }) {
  onResolve({ filter: /^[^./]/ }, ({ path, kind }) => (kind === "entry-point" || path.startsWith("@stride/") ? undefined : { path, external: true }));
}

function newestSource() {
  const times = SOURCES.flatMap((folder) => readdirSync(join(ROOT, folder), { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile())).map(
    (entry) => statSync(join(entry.parentPath, entry.name)).mtimeMs,
  );
  return Math.max(...times);
}
