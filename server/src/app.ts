import { zValidator } from "@hono/zod-validator";
import { emptyWork, workSchema } from "@stride/motion";
import { Hono } from "hono";
import { bodyLimit } from "hono/body-limit";
import { HTTPException } from "hono/http-exception";
import { z } from "zod";
import type { ExportResult } from "./export.ts";
import { localOnly } from "./guard.ts";
import { JobError, type JobPool } from "./pool.ts";
import { type ClipRow, clipStore } from "./store/clips.ts";
import type { Db } from "./store/database.ts";
import { newPoseSchema, poseStore } from "./store/poses.ts";
import { workStore } from "./store/works.ts";
import type { ClipSummary } from "./summary.ts";

/** Largest clip file and largest document that are taken, bytes. */
export const LARGEST_CLIP = 256 * 1024 * 1024;
export const LARGEST_DOCUMENT = 8 * 1024 * 1024;
export const LARGEST_POSE = 1024 * 1024;

const name = z.string().trim().min(1, "a name is needed").max(200, "a name has at most 200 characters");
const saveSchema = z.strictObject({ base: z.int().min(1), name, document: workSchema, note: z.string().max(200) });
const exportSchema = z.strictObject({ start: z.int().min(0), end: z.int().min(0), fps: z.number().min(1).max(1000), name });
const readingSchema = z.strictObject({
  name: name.optional(),
  unitScale: z.number().positive().max(1000).nullable().optional(),
  upAxis: z.enum(["y", "z"]).nullable().optional(),
});

/** JSON bodies that are checked against a schema; the first problem is told with its field. */
function body<T extends z.ZodType>(schema: T) {
  return zValidator("json", schema, (result, c) => {
    if (result.success) return undefined;
    const issue = result.error.issues[0];
    return c.json({ error: `${issue.path.join(".") || "request"}: ${issue.message}` }, 400);
  });
}

/** The whole server as Request → Response, on an open database. */
export function createApp(db: Db, pool: JobPool) {
  const clips = clipStore(db);
  const works = workStore(db);
  const poses = poseStore(db);
  const clipOr404 = (id: string): ClipRow => {
    const clip = clips.get(id);
    if (!clip) throw new HTTPException(404, { message: "there is no such clip" });
    return clip;
  };
  const reading = (clip: ClipRow) => ({ fileName: clip.fileName, unitScale: clip.unitScale ?? undefined, upAxis: clip.upAxis ?? undefined });

  const api = new Hono()
    .get("/health", (c) => c.json({ ok: true as const, clips: clips.list().length }))
    .get("/clips", (c) => c.json(clips.list()))
    .post("/clips", bodyLimit({ maxSize: LARGEST_CLIP, onError: (c) => c.json({ error: "the file is larger than 256 MB" }, 413) }), async (c) => {
      const form = await c.req.parseBody();
      const file = form.file;
      if (!(file instanceof File)) return c.json({ error: "file: expected one file" }, 400);
      if (!/\.bvh$/i.test(file.name)) return c.json({ error: `${file.name}: expected a .bvh file; other formats are not read yet` }, 422);
      const bytes = Buffer.from(await file.arrayBuffer());
      const summary = await pool.run<ClipSummary>({ kind: "summarize", bytes, fileName: file.name });
      const title = file.name.replace(/\.bvh$/i, "").slice(0, 200) || "clip";
      return c.json(clips.add({ name: title, fileName: file.name.slice(0, 255), bytes, tags: ["brought in"], summary }), 201);
    })
    .get("/clips/:id", (c) => c.json(clipOr404(c.req.param("id"))))
    .get("/clips/:id/source", (c) => {
      const bytes = clips.bytes(c.req.param("id"));
      if (!bytes) throw new HTTPException(404, { message: "there is no such clip" });
      return c.body(new Uint8Array(bytes), 200, { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=31536000, immutable" });
    })
    .patch("/clips/:id", body(readingSchema), async (c) => {
      const clip = clipOr404(c.req.param("id"));
      const change = c.req.valid("json");
      if (change.name !== undefined) clips.rename(clip.id, change.name);
      if (change.unitScale !== undefined || change.upAxis !== undefined) {
        const unitScale = change.unitScale === undefined ? clip.unitScale : change.unitScale;
        const upAxis = change.upAxis === undefined ? clip.upAxis : change.upAxis;
        const bytes = clips.bytes(clip.id) ?? new Uint8Array();
        const summary = await pool.run<ClipSummary>({
          kind: "summarize",
          bytes,
          fileName: clip.fileName,
          unitScale: unitScale ?? undefined,
          upAxis: upAxis ?? undefined,
        });
        clips.setReading(clip.id, unitScale, upAxis, summary);
      }
      return c.json(clipOr404(clip.id));
    })
    .delete("/clips/:id", (c) => {
      const clip = clipOr404(c.req.param("id"));
      if (!clips.remove(clip.id)) return c.json({ error: `"${clip.name}" has works that stand on it; delete those first` }, 409);
      return c.json({ ok: true as const });
    })
    .get("/poses", (c) => c.json(poses.list()))
    .post("/poses", bodyLimit({ maxSize: LARGEST_POSE, onError: (c) => c.json({ error: "the pose is larger than 1 MB" }, 413) }), body(newPoseSchema), (c) =>
      c.json(poses.add(c.req.valid("json")), 201),
    )
    .delete("/poses/:id", (c) => {
      if (!poses.remove(c.req.param("id"))) throw new HTTPException(404, { message: "there is no such pose" });
      return c.json({ ok: true as const });
    })
    .get("/works", (c) => c.json(works.list().map(({ document, ...row }) => ({ ...row, patches: document.patches.length }))))
    .post("/works", body(z.strictObject({ clipId: z.string(), name })), (c) => {
      const { clipId, name } = c.req.valid("json");
      return c.json(works.create(clipOr404(clipId).id, name, emptyWork()), 201);
    })
    .get("/works/:id", (c) => {
      const work = works.get(c.req.param("id"));
      if (!work) throw new HTTPException(404, { message: "there is no such work" });
      return c.json(work);
    })
    .put(
      "/works/:id",
      bodyLimit({ maxSize: LARGEST_DOCUMENT, onError: (c) => c.json({ error: "the work is larger than 8 MB" }, 413) }),
      body(saveSchema),
      (c) => {
        const { base, name, document, note } = c.req.valid("json");
        const result = works.save(c.req.param("id"), base, name, document, note);
        if (!result) throw new HTTPException(404, { message: "there is no such work" });
        if ("conflict" in result) return c.json({ error: "the work was saved elsewhere in the meantime", current: result.conflict }, 409);
        return c.json(result.saved, 200);
      },
    )
    .delete("/works/:id", (c) => {
      works.remove(c.req.param("id"));
      return c.json({ ok: true as const });
    })
    .get("/works/:id/history", (c) => c.json(works.history(c.req.param("id"))))
    .get("/works/:id/history/:revision", (c) => {
      const document = works.version(c.req.param("id"), Number(c.req.param("revision")));
      if (!document) throw new HTTPException(404, { message: "there is no such revision" });
      return c.json(document);
    })
    .post("/works/:id/restore", body(z.strictObject({ revision: z.int().min(1) })), (c) => {
      const row = works.restore(c.req.param("id"), c.req.valid("json").revision);
      if (!row) throw new HTTPException(404, { message: "there is no such revision" });
      return c.json(row);
    })
    .post("/works/:id/export", body(exportSchema), async (c) => {
      const work = works.get(c.req.param("id"));
      if (!work) throw new HTTPException(404, { message: "there is no such work" });
      const clip = clipOr404(work.clipId);
      const bytes = clips.bytes(clip.id) ?? new Uint8Array();
      return c.json(await pool.run<ExportResult>({ kind: "export", bytes, ...reading(clip), document: work.document, ...c.req.valid("json") }));
    });

  const app = new Hono();
  app.use(localOnly);
  app.route("/api", api);
  app.notFound((c) => c.json({ error: "there is nothing here" }, 404));
  app.onError((error, c) => {
    if (error instanceof HTTPException) return c.json({ error: error.message }, error.status);
    if (error instanceof JobError && error.expected) return c.json({ error: error.message }, 422);
    console.error(error);
    return c.json({ error: "the server made an error of its own; nothing was changed" }, 500);
  });
  return { app, api, clips, works };
}

/** For the page's typed client. */
export type Api = ReturnType<typeof createApp>["api"];
