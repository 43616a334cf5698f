import { readFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { clipNameOf, DocumentError, emptyWork, MotionFormatError, type Work } from "@stride/motion";
import { Hono } from "hono";
import { HTTPException } from "hono/http-exception";
import { z } from "zod";
import type { ExportResult, SuppliedBytes } from "./export.ts";
import { localOnly } from "./guard.ts";
import { asked, jsonBody, LARGEST_CLIP, LARGEST_COMMAND, LARGEST_DOCUMENT, LARGEST_POSE, limited } from "./http.ts";
import { JobError, type JobPool } from "./pool.ts";
import { CursorError, clipPages, clipQuerySchema } from "./store/clipPages.ts";
import { type ClipRow, clipStore } from "./store/clips.ts";
import type { Db } from "./store/database.ts";
import { newPoseSchema, poseStore } from "./store/poses.ts";
import { inputsOf, sourceStore } from "./store/sources.ts";
import { workStore } from "./store/works.ts";
import type { ClipReading } from "./summary.ts";
import { takeUpload, UploadError } from "./upload.ts";

const name = z.string().trim().min(1, "a name is needed").max(200, "a name has at most 200 characters");
// The document itself is checked where it is saved, against its clip.
const saveSchema = z.strictObject({ base: z.int().min(1), name, document: z.record(z.string(), z.unknown()), note: z.string().max(200) });
const exportSchema = z.strictObject({ start: z.int().min(0), end: z.int().min(0), fps: z.number().min(1).max(1000), name });
const readingSchema = z.strictObject({
  name: name.optional(),
  unitScale: z.number().positive().max(1000).nullable().optional(),
  upAxis: z.enum(["y", "z"]).nullable().optional(),
});
const startSchema = z.strictObject({ clipId: z.string().max(100), name });
const restoreSchema = z.strictObject({ revision: z.int().min(1) });

const command = limited(LARGEST_COMMAND, "the request");
const missing = (what: string) => new HTTPException(404, { message: `there is no such ${what}` });

export interface AppOptions {
  /** where files lie while they are brought in */
  readonly uploads?: string;
}

/** The whole server as Request → Response, on an open database. */
export function createApp(db: Db, pool: JobPool, options: AppOptions = {}) {
  const clips = clipStore(db);
  const pages = clipPages(db);
  const works = workStore(db);
  const poses = poseStore(db);
  const sources = sourceStore(db);
  const uploads = options.uploads ?? join(tmpdir(), "stride-uploads");
  const clipOr404 = (id: string): ClipRow => {
    const clip = clips.get(id);
    if (!clip) throw missing("clip");
    return clip;
  };
  const workOr404 = (id: string) => {
    const work = works.get(id);
    if (!work) throw missing("work");
    return work;
  };
  const othersOf = (document: Work, known: Map<string, SuppliedBytes> = new Map()): SuppliedBytes[] => {
    for (const ref of inputsOf(document)) {
      const key = `${ref.sha256}@${ref.work ?? 0}`;
      const [clip] = clips.ofContent(ref.sha256);
      if (!clip || known.has(key)) continue;
      const work = ref.work === undefined ? null : workAt(ref.sha256, ref.work);
      // Its result is asked for, and there is none: it is told as missing where it is drawn on.
      if (work === undefined) continue;
      known.set(key, { ref, bytes: clips.bytes(clip.id) ?? new Uint8Array(), ...reading(clip), work });
      if (work) othersOf(work, known);
    }
    return [...known.values()];
  };
  const workAt = (sha256: string, revision: number): Work | undefined => {
    const id = sources.workAt(sha256, revision);
    return id === undefined ? undefined : works.version(id, revision);
  };
  const reading = (clip: ClipRow) => ({ fileName: clip.fileName, unitScale: clip.unitScale ?? undefined, upAxis: clip.upAxis ?? undefined });

  const api = new Hono()
    .get("/health", (c) => c.json({ ok: true as const, clips: clips.count() }))
    .get("/clips", asked(clipQuerySchema), (c) => c.json(pages.page(c.req.valid("query"))))
    .get("/clips/facets", (c) => c.json(pages.facets()))
    .post("/clips", async (c) => {
      const upload = await takeUpload(c.req.raw, uploads, LARGEST_CLIP);
      try {
        const { fileName, sha256, path } = upload;
        const reading = await pool.run<ClipReading>({ kind: "summarize", source: { path }, fileName });
        const title = clipNameOf(fileName).slice(0, 200) || "clip";
        const bytes = await readFile(path);
        return c.json(clips.add({ name: title, fileName: fileName.slice(-255), bytes, sha256, tags: ["brought in"], reading }), 201);
      } finally {
        await upload.drop();
      }
    })
    .get("/clips/:id", (c) => c.json(clipOr404(c.req.param("id"))))
    .get("/clips/:id/source", (c) => {
      const bytes = clips.bytes(c.req.param("id"));
      if (!bytes) throw missing("clip");
      return c.body(new Uint8Array(bytes), 200, { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=31536000, immutable" });
    })
    .get("/clips/:id/used-by", (c) => c.json(sources.usedBy(clipOr404(c.req.param("id")).sha256)))
    .get("/sources/:sha256", (c) => {
      const [clip] = clips.ofContent(c.req.param("sha256"));
      if (!clip) throw missing("clip");
      return c.json(clip);
    })
    .get("/sources/:sha256/works/:revision", (c) => {
      const document = workAt(c.req.param("sha256"), Number(c.req.param("revision")));
      if (!document) throw missing("version of a work on that clip");
      return c.json(document);
    })
    .get("/clips/:id/picture", (c) => {
      const picture = clips.picture(c.req.param("id"));
      if (!picture) throw missing("picture");
      // Asked for with the reading that it shows, so that it never changes under its address.
      return c.json(picture, 200, { "Cache-Control": "private, max-age=31536000, immutable" });
    })
    .patch("/clips/:id", command, jsonBody(readingSchema), async (c) => {
      const clip = clipOr404(c.req.param("id"));
      const change = c.req.valid("json");
      if (change.name !== undefined) clips.rename(clip.id, change.name);
      if (change.unitScale !== undefined || change.upAxis !== undefined) {
        const unitScale = change.unitScale === undefined ? clip.unitScale : change.unitScale;
        const upAxis = change.upAxis === undefined ? clip.upAxis : change.upAxis;
        const bytes = clips.bytes(clip.id) ?? new Uint8Array();
        const reading = await pool.run<ClipReading>({
          kind: "summarize",
          source: { bytes },
          fileName: clip.fileName,
          unitScale: unitScale ?? undefined,
          upAxis: upAxis ?? undefined,
        });
        clips.setReading(clip.id, unitScale, upAxis, reading);
      }
      return c.json(clipOr404(clip.id));
    })
    .delete("/clips/:id", command, (c) => {
      const clip = clipOr404(c.req.param("id"));
      const others = clips.ofContent(clip.sha256).length > 1 ? [] : sources.usedBy(clip.sha256);
      if (others.length > 0 && c.req.query("anyway") !== "yes")
        return c.json({ error: `"${clip.name}" is drawn on by ${others.map((w) => `"${w.name}"`).join(", ")}; they would do without it`, usedBy: others }, 409);
      if (!clips.remove(clip.id)) return c.json({ error: `"${clip.name}" has works that stand on it; delete those first` }, 409);
      return c.json({ ok: true as const });
    })
    .get("/poses", (c) => c.json(poses.list()))
    .post("/poses", limited(LARGEST_POSE, "the pose"), jsonBody(newPoseSchema), (c) => c.json(poses.add(c.req.valid("json")), 201))
    .delete("/poses/:id", command, (c) => {
      if (!poses.remove(c.req.param("id"))) throw missing("pose");
      return c.json({ ok: true as const });
    })
    .get("/works", (c) => c.json(works.list()))
    .post("/works", command, jsonBody(startSchema), (c) => {
      const { clipId, name } = c.req.valid("json");
      return c.json(works.create(clipOr404(clipId).id, name, emptyWork()), 201);
    })
    .get("/works/:id", (c) => c.json(workOr404(c.req.param("id"))))
    .put("/works/:id", limited(LARGEST_DOCUMENT, "the work"), jsonBody(saveSchema), (c) => {
      const { base, name, document, note } = c.req.valid("json");
      const result = works.save(c.req.param("id"), base, name, document, note);
      if (!result) throw missing("work");
      if ("conflict" in result) return c.json({ error: "the work was saved elsewhere in the meantime", current: result.conflict }, 409);
      return c.json(result.saved, 200);
    })
    .delete("/works/:id", command, (c) => {
      if (!works.remove(c.req.param("id"))) throw missing("work");
      return c.json({ ok: true as const });
    })
    .get("/works/:id/history", (c) => c.json(works.history(c.req.param("id"))))
    .get("/works/:id/history/:revision", (c) => {
      const document = works.version(c.req.param("id"), Number(c.req.param("revision")));
      if (!document) throw missing("revision");
      return c.json(document);
    })
    .post("/works/:id/restore", command, jsonBody(restoreSchema), (c) => {
      const row = works.restore(c.req.param("id"), c.req.valid("json").revision);
      if (!row) throw missing("revision");
      return c.json(row);
    })
    .post("/works/:id/export", command, jsonBody(exportSchema), async (c) => {
      const work = workOr404(c.req.param("id"));
      const clip = clipOr404(work.clipId);
      const bytes = clips.bytes(clip.id) ?? new Uint8Array();
      const result = await pool.run<ExportResult>({
        kind: "export",
        bytes,
        ...reading(clip),
        document: work.document,
        others: othersOf(work.document),
        ...c.req.valid("json"),
      });
      works.milestone(work.id, work.revision);
      return c.json(result);
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
    if (error instanceof DocumentError || error instanceof MotionFormatError) return c.json({ error: error.message }, 422);
    if (error instanceof UploadError) return c.json({ error: error.message }, error.status);
    if (error instanceof JobError && error.expected) return c.json({ error: error.message }, 422);
    console.error(error);
    return c.json({ error: "the server made an error of its own; nothing was changed" }, 500);
  });
  return { app, api, clips, works, poses };
}

/** For the page's typed client. */
export type Api = ReturnType<typeof createApp>["api"];
