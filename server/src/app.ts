import { DocumentError, MotionFormatError } from "@stride/motion";
import { Hono } from "hono";
import { HTTPException } from "hono/http-exception";
import { z } from "zod";
import { localOnly } from "./guard.ts";
import { asked, missing } from "./http.ts";
import { type LibraryOptions, openLibrary } from "./library.ts";
import { JobError, type JobPool } from "./pool.ts";
import { clipRoutes } from "./routes/clips.ts";
import { copyRoutes, deletedRoutes } from "./routes/keeping.ts";
import { patchRoutes, poseRoutes } from "./routes/shelf.ts";
import { workRoutes } from "./routes/works.ts";
import { diskProblem } from "./safety/disk.ts";
import { CursorError } from "./store/clipPages.ts";
import { MissingClip } from "./store/clips.ts";
import type { Db } from "./store/database.ts";
import { UploadError } from "./upload.ts";

/** Which of a file's animations is meant; the first where absent. */
const takeSchema = z.object({ take: z.string().max(300).optional() });

/** The whole server as Request → Response, on an open database. */
export function createApp(db: Db, pool: JobPool, options: LibraryOptions = {}) {
  const library = openLibrary(db, pool, options);
  const { clips, workAt } = library;
  const api = new Hono()
    .get("/health", (c) => c.json({ ok: true as const, clips: clips.count() }))
    .route("/clips", clipRoutes(library))
    .get("/characters", (c) => c.json(clips.characters()))
    .route("/works", workRoutes(library))
    .route("/poses", poseRoutes(library))
    .route("/patches", patchRoutes(library))
    .route("/deleted", deletedRoutes(library))
    .route("/copies", copyRoutes(library))
    .get("/sources/:sha256", asked(takeSchema), (c) => {
      const [clip] = clips.known({ sha256: c.req.param("sha256"), take: c.req.valid("query").take });
      if (!clip) throw missing("clip");
      return c.json(clip);
    })
    .get("/sources/:sha256/works/:revision", asked(takeSchema), (c) => {
      const document = workAt({ sha256: c.req.param("sha256"), take: c.req.valid("query").take }, Number(c.req.param("revision")));
      if (!document) throw missing("version of a work on that clip");
      return c.json(document);
    });

  const app = new Hono();
  app.use(localOnly);
  app.route("/api", api);
  // Nothing under /api is a page.
  app.all("/api/*", (c) => c.json({ error: "there is nothing here" }, 404));
  app.notFound((c) => c.json({ error: "there is nothing here" }, 404));
  app.onError((error, c) => {
    if (error instanceof HTTPException) return c.json({ error: error.message }, error.status);
    if (error instanceof CursorError) return c.json({ error: error.message }, 400);
    if (error instanceof MissingClip) return c.json({ error: error.message }, 404);
    if (error instanceof DocumentError || error instanceof MotionFormatError) return c.json({ error: error.message }, 422);
    if (error instanceof UploadError) return c.json({ error: error.message }, error.status);
    if (error instanceof JobError && error.expected) return c.json({ error: error.message }, 422);
    const disk = diskProblem(error);
    if (disk) return c.json({ error: disk.message }, disk.status);
    console.error(error);
    return c.json({ error: "the server made an error of its own; nothing was changed" }, 500);
  });
  return { app, api, ...library };
}

/** For the page's typed client. */
export type Api = ReturnType<typeof createApp>["api"];
