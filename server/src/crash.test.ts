import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { emptyWork, makePatch } from "@stride/motion";
import { afterAll, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import type { ClipRow } from "./store/clips.ts";
import type { HistoryRow, WorkRow } from "./store/works.ts";

const root = fileURLToPath(new URL("../..", import.meta.url));
const data = mkdtempSync(join(tmpdir(), "stride-crash-"));
afterAll(() => rmSync(data, { recursive: true, force: true }));

function start(): Promise<{ url: string; child: ChildProcess }> {
  const child = spawn(process.execPath, ["--import", "tsx", "server/src/main.ts"], {
    cwd: root,
    env: { ...process.env, STRIDE_DATA: data, PORT: "0" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  return new Promise((resolve, reject) => {
    child.stdout?.on("data", (chunk: Buffer) => {
      const found = /http:\/\/localhost:\d+/.exec(chunk.toString());
      if (found) resolve({ url: found[0], child });
    });
    child.once("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
}

it("a server killed at any moment loses no acknowledged save", async () => {
  let { url, child } = await start();
  const form = new FormData();
  form.append("file", new File([skatingBody()], "walk.bvh"));
  const clip = (await (await fetch(`${url}/api/clips`, { method: "POST", body: form })).json()) as ClipRow;
  const json = { "content-type": "application/json" };
  const work = (await (
    await fetch(`${url}/api/works`, { method: "POST", headers: json, body: JSON.stringify({ clipId: clip.id, name: "Walk" }) })
  ).json()) as WorkRow;
  let acknowledged = 1;
  let label = "";
  for (let round = 0; round < 6; round++) {
    const ended = new Promise((resolve) => child.once("exit", resolve));
    // Saves as fast as they are answered, until the server is shot in the middle of one.
    setTimeout(() => child.kill("SIGKILL"), 40 + 37 * round);
    for (;;) {
      const name = `round ${round} save ${acknowledged}`;
      const document = { ...emptyWork(), patches: [makePatch("plant", name, "p")] };
      const answer = await fetch(`${url}/api/works/${work.id}`, {
        method: "PUT",
        headers: json,
        body: JSON.stringify({ base: acknowledged, name: "Walk", document, note: name }),
      }).catch(() => null);
      if (!answer) break;
      expect(answer.status).toBe(200);
      const saved = await answer.json().catch(() => null);
      if (!saved) break;
      acknowledged = (saved as WorkRow).revision;
      label = name;
    }
    await ended;
    ({ url, child } = await start());
    const row = (await (await fetch(`${url}/api/works/${work.id}`)).json()) as WorkRow;
    // The last answered save is there; one that was written but not answered may lie on top.
    expect(row.revision).toBeGreaterThanOrEqual(acknowledged);
    expect(row.revision).toBeLessThanOrEqual(acknowledged + 1);
    const history = (await (await fetch(`${url}/api/works/${work.id}/history`)).json()) as HistoryRow[];
    expect(history).toHaveLength(row.revision);
    if (label) expect(history.find((h) => h.revision === acknowledged)?.note).toBe(label);
    acknowledged = row.revision;
    label = history[0].note;
  }
  expect(acknowledged).toBeGreaterThan(12);
  child.kill("SIGTERM");
});
