import { emptyWork, makePatch, type Patch, type Work } from "@stride/motion";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import type { ExportResult } from "./export.ts";
import type { ClipPage } from "./store/clipPages.ts";
import type { ClipRow } from "./store/clips.ts";
import type { WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { ask, upload } = server;
afterAll(() => server.close());

describe("works that draw on other clips", () => {
  let [walk, other]: ClipRow[] = [];
  const start = async (clip: ClipRow, name: string) => (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name })).data;
  const save = (work: WorkRow, ...patches: Patch[]) =>
    ask<WorkRow & { error: string }>("PUT", `/api/works/${work.id}`, {
      base: work.revision,
      name: work.name,
      document: { ...emptyWork(), patches },
      note: "Joined",
    });
  const join = (clip: ClipRow, work?: number): Patch =>
    makePatch("join", "On", "join", { clip: { name: clip.fileName, sha256: clip.sha256, ...(work !== undefined && { work }) }, overlap: 0.3 });
  beforeAll(async () => {
    walk = (await upload("walk.bvh", skatingBody())).data;
    // The same with its hips a little higher: another content.
    other = (await upload("other.bvh", skatingBody().replace("OFFSET 0 0 0", "OFFSET 0 0.01 0"))).data;
    expect(other.sha256).not.toBe(walk.sha256);
  });

  it("are known to the clips that they draw on, which are not deleted under them without being told", async () => {
    const work = await start(walk, "Walk and on");
    expect((await ask("GET", `/api/clips/${other.id}/used-by`)).data).toEqual({ standing: [], drawing: [] });
    const { data: saved } = await save(work, join(other));
    expect((await ask("GET", `/api/clips/${other.id}/used-by`)).data).toEqual({ standing: [], drawing: [{ id: work.id, name: "Walk and on" }] });
    const listed = (await ask<ClipPage>("GET", "/api/clips?search=other")).data.clips.find((c) => c.id === other.id);
    expect(listed?.drawnOnBy).toEqual(["Walk and on"]);
    const refused = await ask("DELETE", `/api/clips/${other.id}`);
    expect(refused.status).toBe(409);
    expect(refused.data.error).toBe('"other" is drawn on by "Walk and on"; they would do without it');
    // With the patch gone nothing draws on it any more; a twin of the same content serves as well.
    const { data: without } = await save(saved);
    expect((await ask("GET", `/api/clips/${other.id}/used-by`)).data).toEqual({ standing: [], drawing: [] });
    await save(without, join(other));
    const twin = (await upload("twin.bvh", skatingBody().replace("OFFSET 0 0 0", "OFFSET 0 0.01 0"))).data;
    expect((await ask("DELETE", `/api/clips/${twin.id}`)).status).toBe(200);
    const again = (await upload("again.bvh", skatingBody())).data;
    await save(await start(again, "Another"), join(other));
    expect((await ask("DELETE", `/api/clips/${other.id}?anyway=yes`)).status).toBe(200);
    other = (await upload("other.bvh", skatingBody().replace("OFFSET 0 0 0", "OFFSET 0 0.01 0"))).data;
  });

  it("find clips by content, and versions of works on them", async () => {
    expect((await ask<ClipRow>("GET", `/api/sources/${walk.sha256}`)).data.id).toBe(walk.id);
    expect((await ask("GET", `/api/sources/${"0".repeat(64)}`)).status).toBe(404);
    const work = await start(other, "Cleaned");
    await save(work, makePatch("floor", "Floor", "floor"));
    const version = await ask<Work>("GET", `/api/sources/${other.sha256}/works/2`);
    expect(version.data.patches.map((p) => p.kind)).toEqual(["floor"]);
    expect((await ask("GET", `/api/sources/${other.sha256}/works/99`)).status).toBe(404);
  });

  it("cannot draw on themselves, also not round corners: refused with the chain", async () => {
    const a = (await upload("a.bvh", skatingBody().replace("OFFSET 0 0 0", "OFFSET 0 0.02 0"))).data;
    const b = (await upload("b.bvh", skatingBody().replace("OFFSET 0 0 0", "OFFSET 0 0.03 0"))).data;
    const [first, second] = [await start(a, "First"), await start(b, "Second")];
    const own = await save(first, join(a, 1));
    expect(own.status).toBe(422);
    expect(own.data.error).toMatch(/"a\.bvh" cannot be drawn on: the work would draw on itself \(First → First\)/);
    // As it came is another matter.
    const { data: fine } = await save(first, join(a));
    expect((await save(second, join(a, 2))).status).toBe(200);
    const round = await save(fine, join(b, 2));
    expect(round.status).toBe(422);
    expect(round.data.error).toMatch(/First → Second → First/);
  });

  it("are exported with what they draw on, and refused without", async () => {
    const work = await start(walk, "Long");
    const { data: saved } = await save(work, join(other));
    const request = { start: 0, end: 169, fps: 30, name: "long" };
    const made = await ask<ExportResult>("POST", `/api/works/${saved.id}/export`, request);
    expect(made.status).toBe(200);
    expect(made.data.text).toContain("Frames: 170");
    expect(made.data.note.patches).toEqual([{ kind: "join", name: "On", muted: false }]);
    await save(saved, join({ ...other, sha256: "1".repeat(64) }));
    const missing = await ask("POST", `/api/works/${saved.id}/export`, { ...request, end: 89 });
    expect(missing.status).toBe(422);
    expect(missing.data.error).toMatch(/On: clip: the clip "other\.bvh" is not here/);
  });
});
