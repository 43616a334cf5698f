import { existsSync, mkdirSync } from "node:fs";
import { join, relative } from "node:path";
import { serve } from "@hono/node-server";
import { serveStatic } from "@hono/node-server/serve-static";
import { createApp } from "./app.ts";
import { loadDemo, loadDemoBodies } from "./demo.ts";
import { ROOT } from "./places.ts";
import { JobPool } from "./pool.ts";
import { COPIES_FOLDER } from "./safety/backups.ts";
import { diskProblem } from "./safety/disk.ts";
import { type Db, openDatabase } from "./store/database.ts";

const dataFolder = process.env.STRIDE_DATA ?? join(ROOT, ".data");
const port = Number(process.env.PORT ?? 4173);

/** What cannot be used is said in one line, and left as it is. */
function openedOrExit(): Db {
  const path = join(dataFolder, "stride.db");
  try {
    mkdirSync(dataFolder, { recursive: true });
    return openDatabase(path);
  } catch (error) {
    console.error(`${path}: ${diskProblem(error)?.message ?? (error instanceof Error ? error.message : String(error))}`);
    process.exit(1);
  }
}

const db = openedOrExit();
const pool = new JobPool();
const { app, clips, deletions, backups } = createApp(db, pool, { uploads: join(dataFolder, "uploads"), copies: join(dataFolder, COPIES_FOLDER) });
try {
  const [added, bodies] = [loadDemo(db, clips), loadDemoBodies(db, clips)];
  if (added > 0) console.log(`Loaded ${added} demo clips of Saltgate Harbour.`);
  if (bodies > 0) console.log(`Loaded ${bodies} characters of Saltgate Harbour.`);
  deletions.sweep();
} catch (error) {
  const problem = diskProblem(error);
  if (!problem) throw error;
  console.error(`${dataFolder}: ${problem.message}`);
}

const page = process.env.STRIDE_PAGE ?? join(ROOT, "web/dist");
if (existsSync(page)) {
  const folder = relative(process.cwd(), page) || ".";
  app.use("/assets/*", async (c, next) => {
    await next();
    c.header("Cache-Control", "public, max-age=31536000, immutable");
  });
  app.use("*", serveStatic({ root: folder }));
  app.get("*", serveStatic({ root: folder, path: "index.html" }));
}

const server = serve({ fetch: app.fetch, port, hostname: "127.0.0.1" }, (address) => {
  console.log(`Patch Stride is at http://localhost:${address.port}`);
  backups.keepDaily();
});

for (const signal of ["SIGINT", "SIGTERM"] as const) {
  process.on(signal, () => {
    backups.stop();
    server.close();
    void pool.close().then(() => {
      db.close();
      process.exit(0);
    });
  });
}
