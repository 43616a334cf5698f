import { createReadStream } from "node:fs";
import { Readable } from "node:stream";
import { Hono } from "hono";
import { command, jsonBody, limited, missing } from "../http.ts";
import type { Library } from "../library.ts";
import { mergeLibrary } from "../safety/merge.ts";
import { thingsSchema } from "../store/deletions.ts";
import { takeBody } from "../upload.ts";

/** Ids of thousands of things. */
const LARGEST_LIST = 4 * 1024 * 1024;
/** Largest copy of a library that is taken in, bytes. */
const LARGEST_LIBRARY = 64 * 1024 * 1024 * 1024;

/** What was deleted and can be brought back. */
export function deletedRoutes({ deletions, clips, sources }: Library) {
  return new Hono()
    .get("/", (c) => c.json(deletions.list()))
    .post("/", limited(LARGEST_LIST, "the list"), jsonBody(thingsSchema), (c) => {
      const things = c.req.valid("json");
      // Clips go with the works that stand on them; works that draw on them are told, since they would do without.
      const standing = things.clips.flatMap((id) => deletions.standingOn(id).map((w) => w.id));
      const works = [...new Set([...things.works, ...standing])];
      const using = things.clips.flatMap((id) => {
        const clip = clips.get(id);
        if (!clip || clips.known(clip).some((other) => !things.clips.includes(other.id))) return [];
        return sources.usedBy(clip).filter((w) => !works.includes(w.id));
      });
      if (using.length > 0 && c.req.query("anyway") !== "yes") {
        const names = [...new Set(using.map((w) => `"${w.name}"`))].join(", ");
        return c.json({ error: `${names} would do without what is deleted; nothing was deleted`, usedBy: using }, 409);
      }
      return c.json(deletions.remove({ ...things, works }), 200);
    })
    .post("/back", limited(LARGEST_LIST, "the list"), jsonBody(thingsSchema), (c) => c.json({ back: deletions.back(c.req.valid("json")) }));
}

/** Copies of the whole library: made, listed, taken away, and another's taken in. */
export function copyRoutes({ db, backups, uploads, pool }: Library) {
  return new Hono()
    .get("/", (c) => c.json(backups.state()))
    .post("/", command, async (c) => c.json(await backups.make(), 201))
    .get("/:name", (c) => {
      const file = backups.file(c.req.param("name"));
      if (!file) throw missing("copy");
      return c.body(Readable.toWeb(createReadStream(file.path)) as ReadableStream, 200, {
        "Content-Type": "application/octet-stream",
        "Content-Length": String(file.bytes),
        "Content-Disposition": `attachment; filename="${file.name}"`,
      });
    })
    .post("/merge", async (c) => {
      const taken = await takeBody(c.req.raw, uploads, LARGEST_LIBRARY);
      try {
        await pool.run({ kind: "checkCopy", path: taken.path });
        return c.json(mergeLibrary(db, taken.path));
      } finally {
        await taken.drop();
      }
    });
}
