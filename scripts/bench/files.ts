import { spawnSync } from "node:child_process";
import { closeSync, openSync, rmSync, statSync, writeSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { LONG_WALK_FPS as FPS, skatingWalk } from "@stride/demo";
import { writeFresh } from "@stride/motion";
import { withJoints } from "./bodies.ts";
import { row } from "./timing.ts";

const CENTIMETRES = 0.01;
/** Joints of the hour's body. */
const JOINTS = 38;
/** Frames of the piece that a long file repeats. */
const PIECE = 7200;

/** `check` on ten minutes, in a process of its own. */
export function tenMinutes(): void {
  const path = walkFile(600, false);
  const { megabytes, seconds, status } = stride("check", path);
  row(`check on ${600 * FPS} frames: most resident memory (exit ${status})`, `${megabytes.toFixed(0)} MB`, "under 500 MB");
  row("  seconds", `${seconds.toFixed(1)} s`, "—");
  rmSync(path);
}

/** `clean` on half an hour and an hour of capture with 38 joints, each in a process of its own. */
export function hour(): void {
  const took = [1800, 3600].map((length) => {
    const path = walkFile(length, true);
    const out = `${path}.out.bvh`;
    const { megabytes, seconds, status } = stride("clean", path, "-o", out);
    row(
      `clean on ${length / 60} minutes, ${(statSync(path).size / 2 ** 20).toFixed(0)} MB: most resident memory (exit ${status})`,
      `${megabytes.toFixed(0)} MB`,
      "under 1024 MB",
    );
    row("  seconds", `${seconds.toFixed(1)} s`, "120 s an hour, aim 60");
    rmSync(path);
    rmSync(out, { force: true });
    return seconds;
  });
  row("  an hour against half of one", `${(took[1] / took[0]).toFixed(2)} × time`, "2 ×");
}

/** A walk as a file of so many seconds: a minute that is repeated, each time a little on, so that making it costs little. */
function walkFile(seconds: number, fingers: boolean): string {
  const path = join(tmpdir(), `stride-bench-${seconds}.bvh`);
  const { skeleton, clip } = fingers ? withJoints(skatingWalk(PIECE, { fingers }), JOINTS) : skatingWalk(PIECE, { fingers });
  const text = [...writeFresh(skeleton, clip, CENTIMETRES)].join("");
  const frames = seconds * FPS;
  const head = text.slice(0, text.indexOf("Frame Time:")).replace(/Frames: \d+/, `Frames: ${frames}`);
  const rest = text.slice(text.indexOf("Frame Time:"));
  const time = rest.slice(0, rest.indexOf("\n") + 1);
  const lines = rest
    .slice(rest.indexOf("\n") + 1)
    .trimEnd()
    .split("\n");
  const handle = openSync(path, "w");
  writeSync(handle, head + time);
  for (let k = 0; k * PIECE < frames; k++) writeSync(handle, `${lines.slice(0, Math.min(PIECE, frames - k * PIECE)).join("\n")}\n`);
  closeSync(handle);
  return path;
}

function stride(...args: string[]): { megabytes: number; seconds: number; status: number | null } {
  const probe = `process.on("exit", () => process.stderr.write("MAXRSS " + process.resourceUsage().maxRSS))`;
  const started = performance.now();
  const { stderr, status } = spawnSync(process.execPath, ["--import", `data:text/javascript,${encodeURIComponent(probe)}`, ".built/stride.js", ...args], {
    encoding: "utf8",
    maxBuffer: 1 << 28,
  });
  const seconds = (performance.now() - started) / 1000;
  if (status !== 0) console.error(stderr.slice(0, 400));
  return { megabytes: Number(/MAXRSS (\d+)/.exec(stderr)?.[1] ?? Number.NaN) / 1024, seconds, status };
}
