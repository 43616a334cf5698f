import { readFileSync } from "node:fs";
import { join } from "node:path";
import { emptyNotes, emptyWork, makePatch, quatAngleFlat, readMotion } from "@stride/motion";
import { afterAll, beforeAll, expect, it } from "vitest";
import { verdict } from "../../motion/src/testing/gltfChecks.ts";
import { loadDemo, loadDemoBodies } from "./demo.ts";
import type { ExportResult } from "./export.ts";
import type { ClipPage } from "./store/clipPages.ts";
import type { ClipRow } from "./store/clips.ts";
import type { WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { ask, db, clips } = server;
beforeAll(() => {
  loadDemo(db, clips);
  expect(loadDemoBodies(db, clips)).toBe(3);
  expect(loadDemoBodies(db, clips)).toBe(0);
});
afterAll(() => server.close());

const bodyBytes = (id: string) => readFileSync(join(import.meta.dirname, "../../demo/bodies", `${id}.glb`));
const characters = async () => (await ask<ClipRow[]>("GET", "/api/characters")).data;

it("bodies without a motion lie beside the clips: lists of clips, their counts and choices leave them out", async () => {
  const rows = await characters();
  expect(rows.map((r) => [r.name, r.summary.character, r.summary.plan, r.summary.skin?.problem])).toEqual([
    ["Ina", true, "biped", null],
    ["Osk", true, "biped", null],
    ["Pim", true, "quadruped", null],
  ]);
  expect(rows[0].summary.skin?.bones).toContain("LeftThigh");
  expect(rows[0].summary.height).toBeCloseTo(1.72, 2);
  const page = (await ask<ClipPage>("GET", "/api/clips?limit=200")).data;
  expect(page.total).toBe(16);
  expect(page.clips.some((c) => c.fileName.endsWith(".glb"))).toBe(false);
  expect((await ask<ClipPage>("GET", "/api/clips?search=ina.glb")).data.total).toBe(0);
  const facets = (await ask<{ total: number; characters: { name: string; count: number }[] }>("GET", "/api/clips/facets")).data;
  expect(facets.total).toBe(16);
  expect(facets.characters.find((c) => c.name === "Pim")?.count).toBe(2);
});

it("one that is dropped again is recognised; a clip with a motion of its own is no character", async () => {
  const form = new FormData();
  form.append("file", new File([bodyBytes("osk")], "again.glb"));
  const { status, data } = await ask<ClipRow & { known?: boolean }>("POST", "/api/clips", form);
  expect([status, data.known, data.name]).toEqual([200, true, "Osk"]);
  expect((await characters()).length).toBe(3);
});

it("a work that casts is written as the character's own file: its meshes untouched, a motion in it; or as any other kind that is asked for", async () => {
  const osk = (await characters())[1];
  const walk = clips.list().find((c) => c.fileName.startsWith("porter-night-shift"));
  if (!walk) throw new Error("no walk");
  const work = (await ask<WorkRow>("POST", "/api/works", { clipId: walk.id, name: "Cast walk" })).data;
  const cast = makePatch("cast", "Cast", "c", { onto: { name: osk.fileName, sha256: osk.sha256 } });
  const document = { ...emptyWork(), patches: [makePatch("floor", "floor", "f"), makePatch("plant", "plant", "p"), cast] };
  await ask("PUT", `/api/works/${work.id}`, { base: 1, name: "Cast walk", document, note: "Cast" });
  const asked = { start: 0, end: 60, fps: 30, name: "Handed over" };
  const made = (await ask<ExportResult>("POST", `/api/works/${work.id}/export`, asked)).data;
  expect([made.ending, made.base64]).toEqual([".glb", true]);
  const bytes = new Uint8Array(Buffer.from(made.text, "base64"));
  expect(await verdict(bytes)).toMatchObject({ errors: 0, warnings: 0 });
  const [back, own] = [bytes, new Uint8Array(bodyBytes("osk"))].map((b) => readMotion(b, { fileName: "osk.glb" }));
  expect(back.skeleton.names).toEqual(own.skeleton.names);
  expect(back.clip).toMatchObject({ frameCount: 61, fps: 30 });
  const json = (b: Uint8Array) =>
    JSON.parse(new TextDecoder().decode(b.subarray(20, 20 + new DataView(b.buffer, b.byteOffset).getUint32(12, true)))) as Record<string, unknown[]>;
  const [is, was] = [json(bytes), json(new Uint8Array(bodyBytes("osk")))];
  for (const part of ["meshes", "materials", "skins", "nodes"]) expect(is[part]).toEqual(was[part]);
  expect((is.animations as { name: string }[]).map((a) => a.name)).toEqual(["Handed over"]);
  expect(made.note.after.slideWorstCm).toBeLessThan(0.25);
  expect(made.note.reread.slideWorstCm).toBeLessThan(0.5);

  const text = (await ask<ExportResult>("POST", `/api/works/${work.id}/export`, { ...asked, ending: ".bvh" })).data;
  expect([text.ending, text.base64]).toEqual([".bvh", false]);
  const bvh = readMotion(new TextEncoder().encode(text.text), { fileName: "out.bvh" });
  expect(bvh.skeleton.names).toEqual(own.skeleton.names);
  expect((await ask("POST", `/api/works/${work.id}/export`, { ...asked, ending: ".exe" })).status).toBe(400);
  // Who is cast onto is known to be used.
  expect((await ask<{ drawing: { name: string }[] }>("GET", `/api/clips/${osk.id}/used-by`)).data.drawing.map((w) => w.name)).toEqual(["Cast walk"]);
});

it("what a person says of a body is kept with it, checked, handed on to whatever is cast onto it, and taken back", async () => {
  const osk = (await characters())[1];
  expect(osk.notes).toBeNull();
  const notes = { ...emptyNotes(), rest: { Head: [-30, 0, 0] as [number, number, number] } };
  const put = await ask<ClipRow>("PUT", `/api/clips/${osk.id}/notes`, { notes });
  expect([put.status, put.data.notes]).toEqual([200, notes]);
  expect((await characters())[1].notes).toEqual(notes);
  const wrong = await ask<{ error: string }>("PUT", `/api/clips/${osk.id}/notes`, { notes: { ...notes, rest: { Head: [900, 0, 0] } } });
  expect([wrong.status, wrong.data.error]).toEqual([400, expect.stringMatching(/rest\.Head\.0/)]);
  expect((await ask("PUT", "/api/clips/none/notes", { notes })).status).toBe(404);
  expect((await ask<ClipRow>("POST", `/api/clips/${osk.id}/duplicate`, { name: "Osk again" })).data.notes).toEqual(notes);

  const walk = clips.list().find((c) => c.fileName.startsWith("porter-night-shift"));
  const work = (await ask<WorkRow>("POST", "/api/works", { clipId: walk?.id, name: "Head askew" })).data;
  const cast = makePatch("cast", "Cast", "c", { onto: { name: osk.fileName, sha256: osk.sha256 } });
  await ask("PUT", `/api/works/${work.id}`, { base: 1, name: "Head askew", document: { ...emptyWork(), patches: [cast] }, note: "Cast" });
  const head = async () => {
    const made = (await ask<ExportResult>("POST", `/api/works/${work.id}/export`, { start: 0, end: 3, fps: 30, name: "x", names: "vrm" })).data;
    const file = readMotion(new Uint8Array(Buffer.from(made.text, "base64")), { fileName: "x.glb" });
    // Asked for by its part's name, as VRM has it.
    const joint = file.skeleton.names.indexOf("head");
    return { q: file.clip.rotations[joint][0].slice(0, 4), names: file.skeleton.names };
  };
  const tilted = await head();
  expect(tilted.names).toContain("leftUpperLeg");
  expect((await ask<ClipRow>("PUT", `/api/clips/${osk.id}/notes`, { notes: null })).data.notes).toBeNull();
  const plain = await head();
  expect((quatAngleFlat(tilted.q, 0, plain.q, 0) * 180) / Math.PI).toBeCloseTo(30, 1);
});

it("a result is written as it is asked for: fewer keys, places of chosen points; what its body has not is told", async () => {
  const walk = clips.list().find((c) => c.fileName.startsWith("porter-night-shift"));
  const work = (await ask<WorkRow>("POST", "/api/works", { clipId: walk?.id, name: "Written" })).data;
  const write = (more: object) =>
    ask<ExportResult & { error: string }>("POST", `/api/works/${work.id}/export`, { start: 0, end: 100, fps: 30, name: "Written", ...more });
  const [all, thin] = [(await write({ ending: ".glb" })).data, (await write({ ending: ".glb", thin: { degrees: 1, metres: 0.002 } })).data];
  expect(thin.text.length).toBeLessThan(0.7 * all.text.length);
  const csv = (await write({ ending: ".csv", points: ["leftHeel", "Hips"] })).data;
  expect(csv.text.split("\r\n")[0]).toBe("frame,seconds,leftHeel.x,leftHeel.y,leftHeel.z,Hips.x,Hips.y,Hips.z");
  const missing = await write({ ending: ".csv", points: ["wing"] });
  expect([missing.status, missing.data.error]).toEqual([422, expect.stringMatching(/no joint, part or contact point "wing"/)]);
  const goat = clips.list().find((c) => c.fileName.startsWith("goat-standing"));
  const animal = (await ask<WorkRow>("POST", "/api/works", { clipId: goat?.id, name: "Goat" })).data;
  const vrma = await ask<{ error: string }>("POST", `/api/works/${animal.id}/export`, { start: 0, end: 10, fps: 30, name: "Goat", ending: ".vrma" });
  expect([vrma.status, vrma.data.error]).toEqual([422, expect.stringMatching(/on two legs/)]);
});
