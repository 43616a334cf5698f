// npm run dev: server and page, both reloading when a file changes.
import { spawn } from "node:child_process";
import { nodeVersionOrExit, ROOT, readyPackages } from "./ready.mjs";

nodeVersionOrExit();
readyPackages();
const children = [
  spawn(process.execPath, ["--import", "tsx", "--watch", "server/src/main.ts"], { cwd: ROOT, stdio: "inherit" }),
  spawn("npx", ["vite", "--clearScreen=false"], { cwd: `${ROOT}web`, stdio: "inherit" }),
];
console.log("The page with reloading will be at http://localhost:5173");
const stop = () => {
  for (const child of children) child.kill();
};
for (const child of children) child.on("exit", stop);
process.on("SIGINT", stop);
