import { mkdirSync, readdirSync, rmSync, statfsSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { emptyWork, makePatch } from "@stride/motion";
import { expect, it } from "vitest";
import { skatingBody } from "../../../motion/src/testing/skatingBody.ts";
import { JobPool } from "../pool.ts";
import type { ClipRow } from "../store/clips.ts";
import type { WorkRow } from "../store/works.ts";
import { smallDisk } from "../testing/smallDisk.ts";
import { testServer } from "../testing/testServer.ts";
import { checkCopy } from "./checkCopy.ts";

/** Disks that are full at so many different moments. */
const MOMENTS = 20;
const DISK_MB = 8;

/** A library on a disk that holds little: a mounted one where that may be, else SQLite's own limit of pages. */
async function runUntilFull(moment: number, threads: JobPool): Promise<{ refused: Set<string>; kept: number }> {
  const disk = smallDisk(DISK_MB);
  const server = testServer(disk?.folder, threads);
  try {
    const { ask, db, folder } = server;
    const first = (await server.upload("first.bvh", skatingBody())).data;
    let work = (await ask<WorkRow>("POST", "/api/works", { clipId: first.id, name: "Walk" })).data;
    // What is left: from next to nothing to two megabytes, so that another step is the one that fails.
    const free = 20_000 + Math.round((2_000_000 * moment) / MOMENTS);
    if (disk) {
      mkdirSync(join(folder, "ballast"));
      const { bavail, bsize } = statfsSync(folder);
      writeFileSync(join(folder, "ballast", "weight"), Buffer.alloc(Math.max(0, bavail * bsize - free)));
    } else {
      const pages = db.pragma("page_count", { simple: true }) as number;
      db.pragma(`max_page_count = ${pages + Math.round(free / 4096)}`);
    }
    const clips = new Set([first.id]);
    const refused = new Set<string>();
    const problems: string[] = [];
    const full = (step: string, status: number, error: string | undefined) => {
      expect([status, error], step).toEqual([507, expect.stringContaining("the disk is full; nothing was changed")]);
      refused.add(step);
      problems.push(step);
    };
    for (let n = 0; problems.length < 5 && n < 60; n++) {
      const made = await server.upload(`take ${n}.bvh`, skatingBody().replace("OFFSET 0 0 0", `OFFSET 0 ${n / 1000} 0`));
      if (made.status === 201) clips.add(made.data.id);
      else full("import", made.status, made.data.error);
      const document = { ...emptyWork(), patches: Array.from({ length: 150 }, (_, i) => makePatch("plant", `Plant ${n} ${"x".repeat(80)}`, `p${i}`)) };
      const saved = await ask<WorkRow & { error: string }>("PUT", `/api/works/${work.id}`, { base: work.revision, name: "Walk", document, note: `save ${n}` });
      if (saved.status === 200) work = saved.data;
      else full("save", saved.status, saved.data.error);
      const many = await ask<{ saved: { revision: number }[]; error: string }>("POST", "/api/works/save-many", {
        changes: [{ id: work.id, base: work.revision, document: { ...document, contacts: [] } }],
        note: `many ${n}`,
      });
      if (many.status === 200) work = (await ask<WorkRow>("GET", `/api/works/${work.id}`)).data;
      else full("save of many", many.status, many.data.error);
      if (n % 3 === 0) {
        const copy = await ask<{ name: string; error: string }>("POST", "/api/copies");
        if (copy.status === 201) expect(checkCopy(join(folder, "copies", copy.data.name)).works).toBe(1);
        else full("copy", copy.status, copy.data.error);
      }
    }
    // Nothing half done lies about, and everything that was answered is there.
    if (disk) expect(readdirSync(join(folder, "uploads"))).toEqual([]);
    expect(readdirSync(folder).includes("copies") ? readdirSync(join(folder, "copies")).filter((name) => !name.endsWith(".db")) : []).toEqual([]);
    expect(db.pragma("integrity_check", { simple: true })).toBe("ok");
    for (const id of clips) expect((await ask<ClipRow>("GET", `/api/clips/${id}`)).status).toBe(200);
    expect((await ask<WorkRow>("GET", `/api/works/${work.id}`)).data).toEqual(work);
    // With room again it goes on as if nothing had been.
    if (disk) rmSync(join(folder, "ballast"), { recursive: true });
    else db.pragma("max_page_count = 1000000");
    expect((await server.upload("after.bvh", skatingBody())).status).toBe(201);
    return { refused, kept: clips.size };
  } finally {
    await server.close();
    disk?.remove();
  }
}

it(`a disk that is full at ${MOMENTS} different moments of imports, saves and copies is told at once, and nothing that was answered is lost`, async () => {
  const threads = new JobPool();
  const refused = new Set<string>();
  const kept = new Set<number>();
  for (let moment = 0; moment < MOMENTS; moment++) {
    const run = await runUntilFull(moment, threads);
    for (const step of run.refused) refused.add(step);
    kept.add(run.kept);
  }
  await threads.close();
  // Each of them was the one that found the disk full.
  expect([...refused].sort()).toEqual(["copy", "import", "save", "save of many"]);
  expect(kept.size).toBeGreaterThan(3);
});
