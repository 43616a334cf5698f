import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { DEFAULT_RECIPE, Evaluator, emptyWork, measure, oneSource, readMotion, totalsOf, type Work } from "@stride/motion";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import { loadDemo } from "./demo.ts";
import type { ExportResult } from "./export.ts";
import type { ClipRow } from "./store/clips.ts";
import { LATEST_SCHEMA, openDatabase } from "./store/database.ts";
import type { HistoryRow, WorkRow } from "./store/works.ts";
import type { ChronoPicture } from "./summary.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { app, ask, clips, db, upload, deletions, works } = server;
afterAll(() => server.close());

describe("the library", () => {
  let clip: ClipRow;
  beforeAll(async () => {
    const answer = await upload("Skating <b>walk</b>.bvh", skatingBody());
    expect(answer.status).toBe(201);
    clip = answer.data;
  });

  it("keeps the bytes as they came, with their SHA-256 and what was measured", async () => {
    expect(clip.name).toBe("Skating <b>walk</b>");
    expect(clip.summary).toMatchObject({ fps: 30, frames: 90, plan: "biped", unitScale: 0.01, upAxis: "y" });
    expect(clip.summary.worst?.kind).toBe("travel");
    expect((await ask<ChronoPicture>("GET", `/api/clips/${clip.id}/picture`)).data.poses).toHaveLength(25);
    expect((await ask("GET", "/api/clips/none/picture")).status).toBe(404);
    const response = await app.request(`http://localhost/api/clips/${clip.id}/source`, { headers: { host: "localhost" } });
    expect(await response.text()).toBe(skatingBody());
    const { createHash } = await import("node:crypto");
    expect(clip.sha256).toBe(createHash("sha256").update(skatingBody()).digest("hex"));
  });

  it("refuses what it cannot read with the file, the line and the reason, and keeps nothing of it", async () => {
    const count = clips.list().length;
    const bad = await upload("broken.bvh", skatingBody().replace("Frame Time: 0.0333333", "Frame Time: soon"));
    expect(bad.status).toBe(422);
    expect(bad.data.error).toMatch(/broken\.bvh:\d+: expected the frame time in seconds, got "soon"/);
    expect((await upload("notes.txt", "x")).data.error).toMatch(/expected a .bvh, .glb, .gltf, .vrma or .vrm file/);
    expect(clips.list()).toHaveLength(count);
  });

  it("reads a clip anew in another unit", async () => {
    const { status, data } = await ask<ClipRow>("PATCH", `/api/clips/${clip.id}`, { unitScale: 0.02 });
    expect(status).toBe(200);
    expect(data.unitScale).toBe(0.02);
    expect(data.summary.unitScale).toBe(0.02);
    expect((await ask<ClipRow>("PATCH", `/api/clips/${clip.id}`, { unitScale: null })).data.summary.unitScale).toBe(0.01);
  });

  it("loads the demo once", () => {
    expect(loadDemo(db, clips)).toBe(16);
    expect(loadDemo(db, clips)).toBe(0);
    const demo = clips.list().filter((c) => c.tags.includes("Ina") || c.tags.includes("Osk") || c.tags.includes("Pim"));
    expect(demo.filter((c) => c.tags.includes("walk")).every((c) => c.summary.findings > 0)).toBe(true);
  });
});

describe("poses", () => {
  const shape = { thumb: 5, index: 6, middle: 7, ring: 8, little: 9, spread: 3, thumbAcross: 10, single: {} };

  it("keeps, lists and deletes named poses and hand shapes", async () => {
    const pose = { format: "patch-stride.pose/2", rotations: { leftHand: [0, 0, 0, 1] }, heading: 0, place: [0, 1, 0] };
    const made = await ask<{ id: string }>("POST", "/api/poses", { kind: "pose", name: "At rest", data: pose, picture: "M0 0L1 1" });
    expect(made.status).toBe(201);
    await ask("POST", "/api/poses", { kind: "hand", name: "Easy", data: shape, picture: "" });
    const list = await ask<{ name: string; kind: string; data: unknown }[]>("GET", "/api/poses");
    expect(list.data.map((p) => [p.name, p.kind])).toEqual([
      ["At rest", "pose"],
      ["Easy", "hand"],
    ]);
    expect(list.data[1].data).toEqual(shape);
    expect((await ask("DELETE", `/api/poses/${made.data.id}`)).status).toBe(200);
    expect((await ask("DELETE", `/api/poses/${made.data.id}`)).status).toBe(404);
  });

  it("refuses what is none, saying which field", async () => {
    const wrong = await ask<{ error: string }>("POST", "/api/poses", { kind: "hand", name: "X", data: { ...shape, index: 400 }, picture: "" });
    expect(wrong.status).toBe(400);
    expect(wrong.data.error).toMatch(/data.index/);
    const script = await ask<{ error: string }>("POST", "/api/poses", { kind: "hand", name: "X", data: shape, picture: "<script>" });
    expect(script.data.error).toMatch(/picture/);
  });
});

describe("works", () => {
  it("opens works saved before layers and touch-ups were there", () => {
    const old = {
      format: "patch-stride.work/1",
      patches: [{ id: "p", kind: "plant", name: "Plant feet", settings: {} }],
      contacts: [],
      body: {},
      livePlant: true,
    };
    const id = works.create(clips.list()[0].id, "Old", emptyWork()).id;
    db.prepare("UPDATE work SET document = ? WHERE id = ?").run(JSON.stringify(old), id);
    expect(works.get(id)?.document.patches[0]).toMatchObject({ kind: "plant", rampShape: "smooth", weight: 1 });
    expect(works.get(id)?.document.neutral).toBeNull();
    deletions.remove({ works: [id] });
  });

  const grounded: Work = { ...emptyWork(), patches: DEFAULT_RECIPE.patches };
  let work: WorkRow;
  beforeAll(async () => {
    const { data: clip } = await upload("walk.bvh", skatingBody());
    work = (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name: "Walk" })).data;
  });

  it("are saved on the revision they were based on; a stale save gets 409 and the newer version, and changes nothing", async () => {
    expect(work.revision).toBe(1);
    const save = (base: number, document: Work) =>
      ask<WorkRow & { current?: WorkRow }>("PUT", `/api/works/${work.id}`, { base, name: "Walk", document, note: "Ground" });
    const first = await save(1, grounded);
    expect(first.status).toBe(200);
    expect(first.data.revision).toBe(2);
    const stale = await save(1, emptyWork());
    expect(stale.status).toBe(409);
    expect(stale.data.current?.document.patches).toHaveLength(2);
    expect((await ask<WorkRow>("GET", `/api/works/${work.id}`)).data).toMatchObject({ revision: 2, document: grounded });
  });

  it("keep every save, and any of them can be put back on top", async () => {
    const restored = await ask<WorkRow>("POST", `/api/works/${work.id}/restore`, { revision: 1 });
    expect(restored.data).toMatchObject({ revision: 3, document: emptyWork() });
    const { data: history } = await ask<HistoryRow[]>("GET", `/api/works/${work.id}/history`);
    expect(history.map((h) => h.revision)).toEqual([3, 2, 1]);
    expect(history[0].note).toBe("Restored revision 1");
    expect((await ask<Work>("GET", `/api/works/${work.id}/history/2`)).data).toEqual(grounded);
  });

  it("are refused where a document is wrong, naming the field", async () => {
    const answer = await ask<{ error: string }>("PUT", `/api/works/${work.id}`, {
      base: 3,
      name: "Walk",
      note: "",
      document: { ...grounded, patches: [{ id: "x", kind: "plant", name: "" }] },
    });
    expect(answer.status).toBe(422);
    expect(answer.data.error).toMatch(/^patches\.0\.name/);
    expect((await ask("GET", "/api/works/none")).status).toBe(404);
    expect((await ask("POST", "/api/works", { clipId: "none", name: "x" })).status).toBe(404);
  });

  it("export what they make, cropped and resampled, with a note of what was measured", async () => {
    await ask("PUT", `/api/works/${work.id}`, { base: 3, name: "Walk", document: grounded, note: "Ground" });
    const { status, data } = await ask<ExportResult>("POST", `/api/works/${work.id}/export`, { start: 10, end: 69, fps: 60, name: "out" });
    expect(status).toBe(200);
    expect(data.text).toContain("Frames: 119");
    expect(data.text).toContain("Frame Time: 0.01666667");
    expect(data.note.before.slideWorstCm).toBeGreaterThan(4);
    expect(data.note.after.slideWorstCm).toBeLessThan(0.1);
    expect(data.note.patches.map((p) => p.kind)).toEqual(["floor", "plant"]);
    expect((await ask("POST", `/api/works/${work.id}/export`, { start: 10, end: 500, fps: 30, name: "out" })).status).toBe(422);
  });

  it("export with a note that tells what the file itself measures, at its own rate", async () => {
    const clip = clips.list().find((c) => c.name === "Porter, night shift walk");
    const { data: made } = await ask<WorkRow>("POST", "/api/works", { clipId: clip?.id, name: "Night" });
    await ask("PUT", `/api/works/${made.id}`, { base: 1, name: "Night", document: grounded, note: "" });
    const at = async (fps: number) => (await ask<ExportResult>("POST", `/api/works/${made.id}/export`, { start: 0, end: 132, fps, name: "out" })).data;
    const { text, note } = await at(24);
    const file = readMotion(new TextEncoder().encode(text), { fileName: "out.bvh" });
    expect(file.clip.fps).toBeCloseTo(24, 3);
    const read = totalsOf(measure(new Evaluator(oneSource(file.skeleton, file.clip)).evaluate(emptyWork()).base));
    expect(note.reread.contacts).toBe(read.contacts);
    for (const key of ["slideWorstCm", "slideP95Cm", "heightWorstCm", "travelErrorPercent"] as const) expect(note.reread[key]).toBeCloseTo(read[key], 1);
    // Between the source's frames two poses are mixed: a planted foot is not quite as still as at the source's own rate.
    const own = (await at(30)).note;
    expect(own.after.slideWorstCm).toBeLessThan(0.001);
    expect(note.after.slideWorstCm).toBeGreaterThan(0.01);
    expect(note.written).toEqual({ frames: 106, fps: 24, range: [0, 132] });
  });

  it("hold their clip: it cannot be deleted under them", async () => {
    const answer = await ask<{ error: string }>("DELETE", `/api/clips/${work.clipId}`);
    expect(answer.status).toBe(409);
    expect(answer.data.error).toMatch(/works that stand on it/);
  });
});

describe("the door", () => {
  it("is open to this machine's own pages only", async () => {
    expect((await ask("GET", "/api/health")).status).toBe(200);
    expect((await ask("GET", "/api/health", undefined, { host: "evil.example" })).status).toBe(403);
    expect((await ask("GET", "/api/health", undefined, { origin: "http://evil.example" })).status).toBe(403);
    expect((await ask("GET", "/api/health", undefined, { origin: "http://localhost:4173" })).status).toBe(200);
  });

  it("refuses a database of a newer version and migrates none twice", () => {
    const folder = mkdtempSync(join(tmpdir(), "stride-db-"));
    const path = join(folder, "newer.db");
    const newer = openDatabase(path);
    expect(newer.pragma("user_version", { simple: true })).toBe(LATEST_SCHEMA);
    newer.pragma("user_version = 99");
    newer.close();
    expect(() => openDatabase(path)).toThrow(/newer version/);
    expect(readFileSync(path).length).toBeGreaterThan(0);
    rmSync(folder, { recursive: true, force: true });
  });
});
