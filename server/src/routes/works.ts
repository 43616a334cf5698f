import { clipKeyOf, clipRef, emptyWork, JOINT_NAMES, type JointNames, WRITE_ENDINGS } from "@stride/motion";
import { Hono } from "hono";
import { z } from "zod";
import type { CopyResult, SwapResult } from "../changes.ts";
import type { ExportResult } from "../export.ts";
import { asked, command, jsonBody, LARGEST_DOCUMENT, limited, missing, title } from "../http.ts";
import type { Library } from "../library.ts";

const id = z.string().max(100);
const document = z.record(z.string(), z.unknown());
// The document itself is checked where it is saved, against its clip.
const saveSchema = z.strictObject({ base: z.int().min(1), name: title, document, note: z.string().max(200) });
const exportSchema = z.strictObject({
  start: z.int().min(0),
  end: z.int().min(0),
  fps: z.number().min(1).max(1000),
  name: title,
  ending: z.enum(WRITE_ENDINGS as [string, ...string[]]).optional(),
  names: z.enum(JOINT_NAMES as [JointNames, ...JointNames[]]).optional(),
  thin: z.strictObject({ degrees: z.number().min(0).max(90), metres: z.number().min(0).max(1) }).optional(),
  points: z.array(z.string().min(1).max(200)).min(1).max(2000).optional(),
});
const startSchema = z.strictObject({ clipId: id, name: title });
/** All works, or those alone that this version cannot read. */
const listSchema = z.object({ unreadable: z.enum(["yes"]).optional() });
const restoreSchema = z.strictObject({ revision: z.int().min(1) });
const versionSchema = z.strictObject({ name: title.nullable() });
const nameSchema = z.strictObject({ name: title });
/** Most works that are changed as one step. */
const MOST_WORKS = 500;
const changesSchema = z.strictObject({
  note: z.string().min(1).max(200),
  changes: z
    .array(z.strictObject({ id, base: z.int().min(1), document, clipId: id.optional() }))
    .min(1, "expected at least one work")
    .max(MOST_WORKS),
});
const takeBackSchema = z.strictObject({
  note: z.string().min(1).max(200),
  works: z
    .array(z.strictObject({ id, revision: z.int().min(2) }))
    .min(1, "expected at least one work")
    .max(MOST_WORKS),
});
const copySchema = z.strictObject({
  from: id,
  revision: z.int().min(1),
  patches: z.array(z.string().max(100)).min(1, "expected at least one patch").max(200),
  ranges: z.enum(["contacts", "same", "whole"]),
});
/** One clip in the place of another. */
const swapSchema = z.strictObject({ from: id, to: id });
/** Documents of many works at once. */
const LARGEST_CHANGES = 64 * 1024 * 1024;

/** Works: saved, gone back, versioned; several changed as one step; their results written. */
export function workRoutes({ works, pool, deletions, clipOr404, workOr404, evaluable }: Library) {
  return new Hono()
    .get("/", asked(listSchema), (c) => c.json(works.list().filter((work) => c.req.valid("query").unreadable === undefined || work.problem !== null)))
    .post("/open", command, jsonBody(startSchema), (c) => {
      const { clipId, name } = c.req.valid("json");
      const clip = clipOr404(clipId);
      return c.json({ id: works.newestOn(clip.id) ?? works.create(clip.id, name, emptyWork()).id });
    })
    .post("/", command, jsonBody(startSchema), (c) => {
      const { clipId, name } = c.req.valid("json");
      return c.json(works.create(clipOr404(clipId).id, name, emptyWork()), 201);
    })
    .post("/save-many", limited(LARGEST_CHANGES, "the change"), jsonBody(changesSchema), (c) => {
      const { changes, note } = c.req.valid("json");
      const result = works.saveMany(changes, note);
      if ("moved" in result) return c.json({ error: "some of the works were saved elsewhere in the meantime; nothing was changed", moved: result.moved }, 409);
      return c.json(result, 200);
    })
    .post("/take-back", command, jsonBody(takeBackSchema), (c) => {
      const { works: list, note } = c.req.valid("json");
      return c.json(works.takeBack(list, note));
    })
    .get("/:id", (c) => c.json(workOr404(c.req.param("id"))))
    .put("/:id", limited(LARGEST_DOCUMENT, "the work"), jsonBody(saveSchema), (c) => {
      const { base, name, document, note } = c.req.valid("json");
      const result = works.save(c.req.param("id"), base, name, document, note);
      if (!result) throw missing("work");
      if ("conflict" in result) return c.json({ error: "the work was saved elsewhere in the meantime", current: result.conflict }, 409);
      return c.json(result.saved, 200);
    })
    .delete("/:id", command, (c) => {
      if (deletions.remove({ works: [c.req.param("id")] }).works.length === 0) throw missing("work");
      return c.json({ ok: true as const });
    })
    .post("/:id/duplicate", command, jsonBody(nameSchema), (c) => {
      const copy = works.duplicate(c.req.param("id"), c.req.valid("json").name);
      if (!copy) throw missing("work");
      return c.json(copy, 201);
    })
    .get("/:id/history", (c) => c.json(works.history(c.req.param("id"))))
    .get("/:id/history/:revision", (c) => {
      const version = works.revision(c.req.param("id"), Number(c.req.param("revision")));
      if (!version) throw missing("revision");
      return c.json(version.document);
    })
    .post("/:id/versions", command, jsonBody(versionSchema), (c) => {
      const version = works.makeVersion(c.req.param("id"), c.req.valid("json").name);
      if (version === undefined) throw missing("work");
      return c.json({ version }, 201);
    })
    .post("/:id/restore", command, jsonBody(restoreSchema), (c) => {
      const row = works.restore(c.req.param("id"), c.req.valid("json").revision);
      if (!row) throw missing("revision");
      return c.json(row);
    })
    .post("/:id/plan-copy", command, jsonBody(copySchema), async (c) => {
      const { from, revision, patches, ranges } = c.req.valid("json");
      const target = workOr404(c.req.param("id"));
      const source = works.revision(from, revision);
      if (!source) throw missing("revision");
      const result = await pool.run<CopyResult>({
        kind: "copy",
        source: evaluable(source.clipId, source.document),
        target: evaluable(target.clipId, target.document),
        patches,
        ranges,
      });
      return c.json({ base: target.revision, ...result });
    })
    .post("/:id/plan-swap", command, jsonBody(swapSchema), async (c) => {
      const { from, to } = c.req.valid("json");
      const work = workOr404(c.req.param("id"));
      const [going, next] = [clipOr404(from), clipOr404(to)];
      const stands = clipKeyOf(clipRef(clipOr404(work.clipId))) === clipKeyOf(clipRef(going));
      const result = await pool.run<SwapResult>({
        kind: "swap",
        work: evaluable(work.clipId, work.document),
        from: clipRef(going),
        to: clipRef(next),
        next: evaluable(next.id, emptyWork()),
        stands,
      });
      return c.json({ base: work.revision, clipId: stands ? next.id : null, ...result });
    })
    .post("/:id/export", command, jsonBody(exportSchema), async (c) => {
      const work = workOr404(c.req.param("id"));
      const result = await pool.run<ExportResult>({ kind: "export", ...evaluable(work.clipId, work.document), ...c.req.valid("json") });
      works.milestone(work.id, work.revision);
      return c.json(result);
    });
}
