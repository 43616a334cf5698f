import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { emptyWork, makePatch } from "@stride/motion";
import Database from "better-sqlite3";
import { afterAll, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import { checkCopy } from "./safety/checkCopy.ts";
import type { ClipRow } from "./store/clips.ts";
import type { HistoryRow, WorkRow } from "./store/works.ts";
import { emptyLibrary } from "./testing/emptyLibrary.ts";

const root = fileURLToPath(new URL("../..", import.meta.url));
const data = mkdtempSync(join(tmpdir(), "stride-crash-"));
emptyLibrary(data);
const running = new Set<ChildProcess>();
afterAll(() => {
  for (const child of running) child.kill("SIGKILL");
  rmSync(data, { recursive: true, force: true });
});

/** The server is shot at so many moments. */
const MOMENTS = 20;

function start(): Promise<{ url: string; child: ChildProcess }> {
  const child = spawn(process.execPath, [".built/server.js"], {
    cwd: root,
    env: { ...process.env, STRIDE_DATA: data, PORT: "0" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  running.add(child);
  child.once("exit", () => running.delete(child));
  return new Promise((resolve, reject) => {
    child.stdout?.on("data", (chunk: Buffer) => {
      const found = /http:\/\/localhost:\d+/.exec(chunk.toString());
      if (found) resolve({ url: found[0], child });
    });
    child.once("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
}

it(`a server killed at ${MOMENTS} moments of imports, saves, copied patches and library copies loses nothing that it answered`, async () => {
  let { url, child } = await start();
  /** The answer, or null where the server died before it gave one. */
  const ask = async <T>(method: string, path: string, body?: unknown): Promise<T | null> => {
    const form = body instanceof FormData;
    const response = await fetch(`${url}/api${path}`, {
      method,
      headers: form || body === undefined ? {} : { "content-type": "application/json" },
      body: form || body === undefined ? (body as FormData | undefined) : JSON.stringify(body),
    }).catch(() => null);
    if (!response) return null;
    const answer = await response.json().catch(() => null);
    if (answer !== null) expect([response.status, answer], `${method} ${path}`).toEqual([expect.toSatisfy((s: number) => s < 300), expect.anything()]);
    return answer as T | null;
  };
  const clips = new Set<string>();
  const copies = new Set<string>();
  const bring = async (n: number) => {
    const form = new FormData();
    form.append("file", new File([skatingBody().replace("OFFSET 0 0 0", `OFFSET 0 ${n / 10_000} 0`)], `take ${n}.bvh`));
    const row = await ask<ClipRow>("POST", "/clips", form);
    if (row) clips.add(row.id);
    return row;
  };
  const [first] = [await bring(0)];
  if (!first) throw new Error("the first clip was not taken");
  const works = new Map<string, { revision: number; note: string }>();
  for (const name of ["A", "B"]) {
    const work = await ask<WorkRow>("POST", "/works", { clipId: first.id, name });
    if (work) works.set(work.id, { revision: 1, note: "Started" });
  }
  const document = (name: string) => ({ ...emptyWork(), patches: [makePatch("plant", name, "p")] });
  let n = 1;
  for (let moment = 0; moment < MOMENTS; moment++) {
    const ended = new Promise((resolve) => child.once("exit", resolve));
    let alive = true;
    void ended.then(() => {
      alive = false;
    });
    // Things are done as fast as they are answered, until the server is shot in the middle of one: soon after its start, or when files already come in.
    const shoot = (after: number) => setTimeout(() => child.kill("SIGKILL"), after);
    if (moment % 2 === 0) shoot(25 + 31 * moment);
    const saving = async () => {
      while (alive) {
        const [[id, known]] = works;
        const note = `save ${n++}`;
        const saved = await ask<WorkRow>("PUT", `/works/${id}`, { base: known.revision, name: "A", document: document(note), note });
        if (!saved) return;
        works.set(id, { revision: saved.revision, note });
        const note2 = `many ${n++}`;
        const changes = [...works].map(([workId, { revision }]) => ({ id: workId, base: revision, document: document(note2) }));
        const many = await ask<{ saved: { id: string; revision: number }[] }>("POST", "/works/save-many", { changes, note: note2 });
        if (!many) return;
        for (const { id: workId, revision } of many.saved) works.set(workId, { revision, note: note2 });
      }
    };
    const bringing = async () => {
      for (let brought = 0; alive && (await bring(n++)); brought++) if (brought === 0 && moment % 2 === 1) shoot(17 * moment);
    };
    const copying = async () => {
      while (alive) {
        const copy = await ask<{ name: string }>("POST", "/copies");
        if (!copy) return;
        copies.add(copy.name);
      }
    };
    await Promise.all([saving(), bringing(), copying(), ended]);

    ({ url, child } = await start());
    const db = new Database(join(data, "stride.db"), { readonly: true });
    expect(db.pragma("integrity_check", { simple: true })).toBe("ok");
    // A clip is there whole, or not at all.
    expect(
      db.prepare("SELECT count(*) AS n FROM clip WHERE sha256 NOT IN (SELECT sha256 FROM content) OR id NOT IN (SELECT clip_id FROM clip_picture)").get(),
    ).toEqual({ n: 0 });
    const has = db.prepare("SELECT 1 FROM clip WHERE id = ?");
    for (const id of clips) expect(has.get(id)).toBeDefined();
    db.close();
    const steps = new Set<number>();
    for (const [id, known] of works) {
      const row = await ask<WorkRow>("GET", `/works/${id}`);
      const history = await ask<HistoryRow[]>("GET", `/works/${id}/history`);
      if (!row || !history) throw new Error("the server does not answer");
      // The last answered save is there; one that was written but not answered may lie on top.
      steps.add(row.revision - known.revision);
      expect(row.revision - known.revision).toBeGreaterThanOrEqual(0);
      expect(row.revision - known.revision).toBeLessThanOrEqual(1);
      expect(history.find((h) => h.revision === known.revision)?.note).toBe(known.note);
      works.set(id, { revision: row.revision, note: history[0].note });
    }
    for (const name of readdirSync(join(data, "copies")).filter((file) => file.endsWith(".db"))) checkCopy(join(data, "copies", name));
  }
  expect(Math.min(...[...works.values()].map((w) => w.revision))).toBeGreaterThan(10);
  expect(clips.size).toBeGreaterThan(10);
  expect(copies.size).toBeGreaterThan(3);
  child.kill("SIGTERM");
});
