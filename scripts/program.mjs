// npm run stride, npm run restore: builds the programs where they are older than their sources, then runs the one that is named, if one is.
import { pathToFileURL } from "node:url";
import { programFile, readyPrograms } from "./programs.mjs";

const [name] = process.argv.splice(2, 1);
await readyPrograms();
if (name !== undefined) await import(pathToFileURL(programFile(name)).href);
