// npm start: everything from a fresh checkout to the address to open.
import { nodeVersionOrExit, readyPackages, readyPage, run } from "./ready.mjs";

nodeVersionOrExit();
readyPackages();
readyPage();
// Only once the packages are there is the builder of the programs.
const { programFile, readyPrograms } = await import("./programs.mjs");
await readyPrograms();
run(process.execPath, [programFile("server")]);
