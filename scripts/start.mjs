// npm start: everything from a fresh checkout to the address to open.
import { nodeVersionOrExit, readyPackages, readyPage, run } from "./ready.mjs";

nodeVersionOrExit();
readyPackages();
readyPage();
run(process.execPath, ["--import", "tsx", "server/src/main.ts"]);
