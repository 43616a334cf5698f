import { spawnSync } from "node:child_process";
import { existsSync, readFileSync, statSync } from "node:fs";
import { fileURLToPath } from "node:url";

export const ROOT = fileURLToPath(new URL("..", import.meta.url));

/** Runs a command in the project's root with its output on screen; ends the process when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: ROOT, stdio: "inherit", ...options });
  if (result.status !== 0) {
    console.error(`\n${command} ${args.join(" ")} failed${result.error ? `: ${result.error.message}` : ""}`);
    process.exit(result.status ?? 1);
  }
}

/** Installs the npm packages where they are missing or older than the lock file. */
export function readyPackages() {
  const stamp = `${ROOT}node_modules/.package-lock.json`;
  const fresh = existsSync(stamp) && statSync(stamp).mtimeMs >= statSync(`${ROOT}package-lock.json`).mtimeMs && canOpenDatabase();
  if (fresh) return;
  console.log("Installing packages. The database module may be compiled here, which takes two to five minutes the first time; please wait.");
  // Not `npm ci`: it refuses a lock file in which packages for other platforms are missing, as some registries leave it.
  run("npm", ["install", "--no-audit", "--no-fund"]);
  if (!canOpenDatabase()) {
    console.log("Compiling the database module…");
    run("npm", ["rebuild", "better-sqlite3"]);
  }
}

function canOpenDatabase() {
  return spawnSync(process.execPath, ["-e", "new (require('better-sqlite3'))(':memory:')"], { cwd: ROOT }).status === 0;
}

/** Builds the page, which takes a few seconds. */
export function readyPage() {
  console.log("Building the page…");
  run("npm", ["run", "-s", "build"]);
}

export const CAPTURES = "/usr/share/assimp/models/BVH";

/** Debian's Chromium and the open capture files, installed when they are not there. */
export function readyDebian() {
  const wanted = [];
  if (!existsSync("/usr/bin/chromium")) wanted.push("chromium");
  if (!existsSync(`${CAPTURES}/01_01.bvh`)) wanted.push("assimp-testmodels");
  if (wanted.length === 0) return;
  console.log(`Installing from Debian: ${wanted.join(", ")}…`);
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  const sudo = process.getuid?.() === 0 ? [] : ["sudo"];
  const apt = (...args) => run([...sudo, "apt-get"][0], [...sudo, "apt-get", ...args].slice(1), { env });
  apt("update", "-qq");
  apt("install", "-y", "-qq", ...wanted);
}

export function nodeVersionOrExit() {
  const [major, minor] = process.versions.node.split(".").map(Number);
  const { engines } = JSON.parse(readFileSync(`${ROOT}package.json`, "utf8"));
  if (major > 20 || (major === 20 && minor >= 19)) return;
  console.error(`Node.js ${engines.node} is needed; this is ${process.versions.node}.`);
  process.exit(1);
}
