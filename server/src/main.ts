import { existsSync, mkdirSync } from "node:fs";
import { join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import { serve } from "@hono/node-server";
import { serveStatic } from "@hono/node-server/serve-static";
import { createApp } from "./app.ts";
import { loadDemo } from "./demo.ts";
import { JobPool } from "./pool.ts";
import { openDatabase } from "./store/database.ts";

const root = fileURLToPath(new URL("../../", import.meta.url));
const dataFolder = process.env.STRIDE_DATA ?? join(root, ".data");
const port = Number(process.env.PORT ?? 4173);

mkdirSync(dataFolder, { recursive: true });
const db = openDatabase(join(dataFolder, "stride.db"));
const pool = new JobPool();
const { app, clips } = createApp(db, pool, { uploads: join(dataFolder, "uploads") });
const added = loadDemo(db, clips);
if (added > 0) console.log(`Loaded ${added} demo clips of Saltgate Harbour.`);

const page = process.env.STRIDE_PAGE ?? join(root, "web/dist");
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
});

for (const signal of ["SIGINT", "SIGTERM"] as const) {
  process.on(signal, () => {
    server.close();
    void pool.close().then(() => {
      db.close();
      process.exit(0);
    });
  });
}
