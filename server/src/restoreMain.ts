import { join } from "node:path";
import { ROOT } from "./places.ts";
import { COPIES_FOLDER, newestCopy } from "./safety/backups.ts";
import { CopyProblem } from "./safety/checkCopy.ts";
import { diskProblem } from "./safety/disk.ts";
import { restoreCopy } from "./safety/restore.ts";

// npm run restore [-- FILE]: puts a copy of the library back in its place; without a file the newest one that was made.
const dataFolder = process.env.STRIDE_DATA ?? join(ROOT, ".data");
const copy = process.argv[2] ?? newestCopy(join(dataFolder, COPIES_FOLDER));

if (copy === undefined) {
  console.error(`${join(dataFolder, COPIES_FOLDER)}: there is no copy to put back; name one: npm run restore -- FILE`);
  process.exit(1);
}
try {
  const { clips, works, aside } = restoreCopy(copy, dataFolder);
  console.log(`Put back ${copy}: ${clips} clips, ${works} works.`);
  if (aside) console.log(`The library that was there lies at ${aside}.`);
} catch (error) {
  const said = error instanceof CopyProblem ? error.message : (diskProblem(error)?.message ?? (error instanceof Error ? error.message : String(error)));
  console.error(`${copy}: ${said}`);
  process.exit(1);
}
