import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type RunningServer, startServer } from "../../e2e/harness.ts";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import { clipStore } from "../../server/src/store/clips.ts";
import { openDatabase } from "../../server/src/store/database.ts";
import { manyClips } from "../../server/src/testing/manyClips.ts";
import { p95, row } from "./timing.ts";

const CLIPS = 10_000;
/** Size of each made-up file: a capture of some seconds. */
const BYTES = 100_000;
const IMPORTED = 500;
/** Files that the page sends at once. */
const AT_ONCE = 2;
const TRIES = 30;

/** What ten thousand clips of a hundred kilobytes each cost the server, in a process of its own, beside a library of the demo alone; and an import of five hundred files. */
export async function library(): Promise<void> {
  const few = await startServer();
  const opened = await openingOf(few);
  await few.stop();
  const folder = mkdtempSync(join(tmpdir(), "stride-bench-"));
  const db = openDatabase(join(folder, "stride.db"));
  manyClips(db, clipStore(db), CLIPS, { bytes: BYTES });
  db.close();
  // The demo is loaded once, the first time.
  await (await startServer({ folder })).stop();
  const begun = performance.now();
  const server = await startServer({ folder });
  row(`${CLIPS} clips of ${BYTES / 1000} kB: start`, ms(performance.now() - begun), "2000 ms");
  try {
    // The first copy of the day is being made meanwhile.
    row("  /health, p95 while a copy is made", ms(await asked(server, "/health")), "20 ms");
    await copied(server);
    row("  /health, p95", ms(await asked(server, "/health")), "20 ms");
    row("  first page, p95", ms(await asked(server, "/clips?limit=60")), "300 ms");
    const page = await (await fetch(`${server.url}/api/clips?limit=60`)).text();
    row("  first page, size", `${(page.length / 1000).toFixed(0)} kB`, "300 kB");
    row("  search, p95", ms(await asked(server, "/clips?limit=60&search=harb%20slid")), "100 ms");
    row("  search for one, p95", ms(await asked(server, "/clips?limit=60&search=walk%2000043")), "100 ms");
    row(
      "  filtered by folder, fault, rate and length, p95",
      ms(await asked(server, "/clips?limit=60&folder=shift%201&fault=slide&fps=60&shortest=2&longest=30")),
      "100 ms",
    );
    row("  choices (facets), p95", ms(await asked(server, "/clips/facets")), "300 ms");
    row("  opening a work, against the demo alone", `${((await openingOf(server)) / opened).toFixed(2)} × time`, "1 ×");
    row("  memory", `${memory(server).toFixed(0)} MB`, "400 MB");
    await importing(server);
  } finally {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function importing(server: RunningServer): Promise<void> {
  const files = Array.from({ length: IMPORTED }, (_, i) => {
    const text = skatingBody(120).replace("OFFSET 0 0 0", `OFFSET 0 ${i / 10_000} 0`);
    return new File([i % 10 === 7 ? text.slice(0, 2000) : text], `take ${i}.bvh`);
  });
  const send = async (): Promise<Map<number, number>> => {
    const waiting = [...files];
    const statuses = new Map<number, number>();
    await Promise.all(
      Array.from({ length: AT_ONCE }, async () => {
        for (let file = waiting.shift(); file; file = waiting.shift()) {
          const form = new FormData();
          form.append("file", file);
          const { status } = await fetch(`${server.url}/api/clips`, { method: "POST", body: form });
          statuses.set(status, (statuses.get(status) ?? 0) + 1);
        }
      }),
    );
    return statuses;
  };
  const told = (statuses: Map<number, number>) =>
    [...statuses]
      .sort()
      .map(([status, n]) => `${n} × ${status}`)
      .join(", ");
  let started = performance.now();
  const health: number[] = [];
  let busy = true;
  const watching = (async () => {
    while (busy) health.push(await once(server, "/health"));
  })();
  const first = await send();
  busy = false;
  await watching;
  row(`  ${IMPORTED} files at once (${told(first)})`, `${((performance.now() - started) / 1000).toFixed(1)} s`, "—");
  row("    /health meanwhile, p95", ms(p95(health)), "20 ms");
  row("    memory", `${memory(server).toFixed(0)} MB`, "400 MB");
  started = performance.now();
  const again = await send();
  row(`  the same files again (${told(again)})`, `${((performance.now() - started) / 1000).toFixed(1)} s`, "—");
}

const ms = (value: number) => `${value.toFixed(1)} ms`;

async function once(server: RunningServer, path: string): Promise<number> {
  const started = performance.now();
  await (await fetch(`${server.url}/api${path}`)).arrayBuffer();
  return performance.now() - started;
}

async function asked(server: RunningServer, path: string): Promise<number> {
  const took: number[] = [];
  for (let i = 0; i < TRIES; i++) took.push(await once(server, path));
  return p95(took);
}

/** Milliseconds, at best, to begin a work on a clip of the demo and to read all that the bench asks for. */
async function openingOf(server: RunningServer): Promise<number> {
  const { clips } = (await (await fetch(`${server.url}/api/clips?search=ferry`)).json()) as { clips: { id: string; name: string }[] };
  const { id } = (await (
    await fetch(`${server.url}/api/works`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ clipId: clips[0].id, name: "Ferry" }),
    })
  ).json()) as { id: string };
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < TRIES; i++) {
    const started = performance.now();
    for (const path of [`/works/${id}`, `/clips/${clips[0].id}`, `/clips/${clips[0].id}/source`]) await once(server, path);
    best = Math.min(best, performance.now() - started);
  }
  return best;
}

async function copied(server: RunningServer): Promise<void> {
  for (;;) {
    const { copies } = (await (await fetch(`${server.url}/api/copies`)).json()) as { copies: unknown[] };
    if (copies.length > 0) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

/** What the server's process has resident, MB. */
function memory(server: RunningServer): number {
  return Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${server.process.pid}/status`, "utf8"))?.[1]) / 1024;
}
