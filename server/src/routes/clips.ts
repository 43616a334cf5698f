import { characterNotesSchema, clipNameOf, readingOf } from "@stride/motion";
import { Hono } from "hono";
import { z } from "zod";
import { bringIn } from "../bringIn.ts";
import { asked, clipFolder, clipTags, command, jsonBody, LARGEST_CLIP, limited, missing, title } from "../http.ts";
import type { Library } from "../library.ts";
import { clipQuerySchema } from "../store/clipPages.ts";
import type { ClipReading } from "../summary.ts";
import { takeUpload, UploadError } from "../upload.ts";

const readingSchema = z.strictObject({
  name: title.optional(),
  unitScale: z.number().positive().max(1000).nullable().optional(),
  upAxis: z.enum(["y", "z"]).nullable().optional(),
});
/** What is written on a file that is brought in, beside it. */
const labelsSchema = z.strictObject({ name: title.optional(), folder: clipFolder.default(""), tags: clipTags.default([]) });
const labelChangesSchema = z.strictObject({
  changes: z
    .array(z.strictObject({ id: z.string().max(100), name: title.optional(), folder: clipFolder.optional(), tags: clipTags.optional() }))
    .min(1, "expected at least one clip")
    .max(20_000),
});
const notesSchema = z.strictObject({ notes: characterNotesSchema.nullable() });
const nameSchema = z.strictObject({ name: title });
/** Labels of thousands of clips at once. */
const LARGEST_LABELS = 8 * 1024 * 1024;

/** Clips: listed, brought in, read, renamed, deleted. */
export function clipRoutes({ clips, pages, sources, pool, deletions, uploads, clipOr404 }: Library) {
  return new Hono()
    .get("/", asked(clipQuerySchema), (c) => c.json(pages.page(c.req.valid("query"))))
    .get("/facets", (c) => c.json(pages.facets()))
    .post("/", async (c) => {
      const upload = await takeUpload(c.req.raw, uploads, LARGEST_CLIP);
      try {
        const { fields } = upload;
        const labels = labelsSchema.safeParse({ ...fields, ...(fields.tags !== undefined && { tags: tagsOf(fields.tags) }) });
        if (!labels.success) throw new UploadError(`${labels.error.issues[0].path.join(".")}: ${labels.error.issues[0].message}`, 400);
        const brought = await bringIn(upload, labels.data, { clips, pool }, c.req.query("again") === "yes", () => c.req.raw.signal.aborted);
        const { added, unread } = brought;
        const row = brought.clips[added === 0 ? 0 : brought.clips.length - added];
        return c.json({ ...row, known: added === 0, added, unread }, added === 0 ? 200 : 201);
      } finally {
        await upload.drop();
      }
    })
    .post("/labels", limited(LARGEST_LABELS, "the change"), jsonBody(labelChangesSchema), (c) => c.json({ before: clips.relabel(c.req.valid("json").changes) }))
    .get("/:id", (c) => c.json(clipOr404(c.req.param("id"))))
    .get("/:id/source", (c) => {
      const bytes = clips.bytes(c.req.param("id"));
      if (!bytes) throw missing("clip");
      return c.body(new Uint8Array(bytes), 200, { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=31536000, immutable" });
    })
    .get("/:id/used-by", (c) => {
      const clip = clipOr404(c.req.param("id"));
      return c.json({ standing: deletions.standingOn(clip.id), drawing: sources.usedBy(clip) });
    })
    .get("/:id/picture", (c) => {
      const picture = clips.picture(c.req.param("id"));
      if (!picture) throw missing("picture");
      // Asked for with the reading that it shows, so that it never changes under its address.
      return c.json(picture, 200, { "Cache-Control": "private, max-age=31536000, immutable" });
    })
    .post("/:id/duplicate", command, jsonBody(nameSchema), (c) => {
      const copy = clips.duplicate(c.req.param("id"), c.req.valid("json").name);
      if (!copy) throw missing("clip");
      return c.json(copy, 201);
    })
    .post("/:id/body", command, async (c) => {
      const clip = clipOr404(c.req.param("id"));
      const [known] = clips.known({ sha256: clip.sha256, take: "" });
      if (known) return c.json(known, 200);
      const bytes = clips.bytes(clip.id) ?? Buffer.alloc(0);
      const { fileName, sha256, folder, unitScale, upAxis } = clip;
      const reading = await pool.run<ClipReading>({ kind: "summarize", source: { bytes }, ...readingOf({ ...clip, take: "" }) });
      const row = clips.add({ name: clipNameOf(fileName).slice(0, 200), fileName, bytes, sha256, take: "", tags: ["body"], folder, reading });
      if (unitScale !== null || upAxis !== null) clips.setReading(row.id, unitScale, upAxis, reading);
      return c.json(clipOr404(row.id), 201);
    })
    .patch("/:id", command, jsonBody(readingSchema), async (c) => {
      const clip = clipOr404(c.req.param("id"));
      const change = c.req.valid("json");
      if (change.name !== undefined) clips.relabel([{ id: clip.id, name: change.name }]);
      if (change.unitScale !== undefined || change.upAxis !== undefined) {
        const unitScale = change.unitScale === undefined ? clip.unitScale : change.unitScale;
        const upAxis = change.upAxis === undefined ? clip.upAxis : change.upAxis;
        const bytes = clips.bytes(clip.id) ?? new Uint8Array();
        const reading = await pool.run<ClipReading>({
          kind: "summarize",
          source: { bytes },
          ...readingOf({ ...clip, unitScale, upAxis }),
        });
        clips.setReading(clip.id, unitScale, upAxis, reading);
      }
      return c.json(clipOr404(clip.id));
    })
    .put("/:id/notes", command, jsonBody(notesSchema), (c) => {
      const clip = clipOr404(c.req.param("id"));
      clips.setNotes(clip.id, c.req.valid("json").notes);
      return c.json(clipOr404(clip.id));
    })
    .delete("/:id", command, (c) => {
      const clip = clipOr404(c.req.param("id"));
      const others = clips.known(clip).length > 1 ? [] : sources.usedBy(clip);
      if (others.length > 0 && c.req.query("anyway") !== "yes")
        return c.json({ error: `"${clip.name}" is drawn on by ${others.map((w) => `"${w.name}"`).join(", ")}; they would do without it`, usedBy: others }, 409);
      const standing = deletions.standingOn(clip.id);
      if (standing.length > 0)
        return c.json({ error: `"${clip.name}" has works that stand on it; delete those first: ${standing.map((w) => `"${w.name}"`).join(", ")}` }, 409);
      deletions.remove({ clips: [clip.id] });
      return c.json({ ok: true as const });
    });
}

/** Tags as a form sends them: a JSON list. */
function tagsOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new UploadError("tags: expected a JSON list of words", 400);
  }
}
