import { Hono } from "hono";
import { command, jsonBody, LARGEST_DOCUMENT, LARGEST_POSE, limited, missing } from "../http.ts";
import type { Library } from "../library.ts";
import { newPatchesSchema } from "../store/keptPatches.ts";
import { newPoseSchema } from "../store/poses.ts";

/** Kept poses and hand shapes. */
export function poseRoutes({ poses, deletions }: Library) {
  return new Hono()
    .get("/", (c) => c.json(poses.list()))
    .post("/", limited(LARGEST_POSE, "the pose"), jsonBody(newPoseSchema), (c) => c.json(poses.add(c.req.valid("json")), 201))
    .delete("/:id", command, (c) => {
      if (deletions.remove({ poses: [c.req.param("id")] }).poses.length === 0) throw missing("pose");
      return c.json({ ok: true as const });
    });
}

/** Kept patches. */
export function patchRoutes({ keptPatches, deletions }: Library) {
  return new Hono()
    .get("/", (c) => c.json(keptPatches.list()))
    .post("/", limited(LARGEST_DOCUMENT, "the patches"), jsonBody(newPatchesSchema), (c) => {
      const { name, data } = c.req.valid("json");
      return c.json(keptPatches.add(name, data), 201);
    })
    .delete("/:id", command, (c) => {
      if (deletions.remove({ patches: [c.req.param("id")] }).patches.length === 0) throw missing("piece");
      return c.json({ ok: true as const });
    });
}
