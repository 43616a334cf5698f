import { demoClips } from "@stride/demo";
import { DEFAULT_RECIPE, emptyWork, formatToWrite, readMotion } from "@stride/motion";
import { afterAll, expect, it } from "vitest";
import { verdict } from "../../motion/src/testing/gltfChecks.ts";
import type { ExportResult } from "./export.ts";
import type { ClipRow } from "./store/clips.ts";
import type { WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { ask } = server;
afterAll(() => server.close());

it("a GLB comes in like any clip, is grounded, and is written into its own file again", async () => {
  const walk = demoClips().find((c) => c.id === "porter-night-shift-walk");
  const format = formatToWrite("walk.glb");
  if (!walk || !format) throw new Error("there is no walk, or no GLB is written");
  const pieces = [...format.write(walk.truth.character.skeleton, walk.clip, null)] as Uint8Array[];
  const form = new FormData();
  form.append("file", new File([Buffer.concat(pieces)], "walk.glb"));
  const clip = (await ask<ClipRow>("POST", "/api/clips", form)).data;
  expect(clip).toMatchObject({ name: "walk", fileName: "walk.glb", summary: { frames: 133, fps: 30, joints: 52, plan: "biped", unitScale: 1 } });
  expect(clip.summary.slideWorstCm).toBeGreaterThan(3);
  const work = (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name: "Walk" })).data;
  await ask("PUT", `/api/works/${work.id}`, { base: 1, name: "Walk", document: { ...emptyWork(), patches: DEFAULT_RECIPE.patches }, note: "Grounded" });
  const made = (await ask<ExportResult>("POST", `/api/works/${work.id}/export`, { start: 20, end: 79, fps: 30, name: "Walk" })).data;
  expect([made.ending, made.base64]).toEqual([".glb", true]);
  const bytes = new Uint8Array(Buffer.from(made.text, "base64"));
  expect(await verdict(bytes)).toEqual({ errors: 0, warnings: 0, said: [] });
  const back = readMotion(bytes, { fileName: "out.glb" });
  expect(back.clip).toMatchObject({ fps: 30, frameCount: 60 });
  expect(back.skeleton.names).toEqual(walk.truth.character.skeleton.names);
  expect(made.note.after.slideWorstCm).toBeLessThan(0.2);
  // What is no GLB is refused from its beginning.
  const wrong = new FormData();
  wrong.append("file", new File(["HIERARCHY"], "walk.glb"));
  expect((await ask("POST", "/api/clips", wrong)).data.error).toMatch(/this is no GLB file: it does not begin like one/);
});
