import { emptyWork, makePatch, RECIPE_FORMAT } from "@stride/motion";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import type { ClipFacets, ClipPage } from "./store/clipPages.ts";
import type { ClipRow, LabelChange } from "./store/clips.ts";
import { type DeletedRow, deletionStore, KEPT_DAYS, type Things } from "./store/deletions.ts";
import type { KeptPatches } from "./store/keptPatches.ts";
import type { HistoryRow, WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { ask, upload, clips, works, db } = server;
afterAll(() => server.close());

/** A clip of a content of its own. */
const other = (n: number) => skatingBody().replace("OFFSET 0 0 0", `OFFSET 0 ${n / 1000} 0`);
const found = async (query: string) => (await ask<ClipPage>("GET", `/api/clips?${query}`)).data.clips;

describe("clips that are made for the work", () => {
  it("come in with a name, a folder and tags, and a file that is here already is known by its content", async () => {
    const form = new FormData();
    form.append("name", "Over the rail");
    form.append("folder", " shift 3 / takes /");
    form.append("tags", '["Ina","climb"]');
    form.append("file", new File([other(1)], "take.bvh"));
    const made = await ask<ClipRow>("POST", "/api/clips", form);
    expect(made.status).toBe(201);
    expect(made.data).toMatchObject({ name: "Over the rail", folder: "shift 3/takes", tags: ["Ina", "climb"], fileName: "take.bvh" });
    const again = await ask<ClipRow & { known?: boolean }>("POST", "/api/clips", upFile("renamed.bvh", other(1)));
    expect([again.status, again.data.known, again.data.id]).toEqual([200, true, made.data.id]);
    const wanted = await ask<ClipRow>("POST", "/api/clips?again=yes", upFile("renamed.bvh", other(1)));
    expect(wanted.status).toBe(201);
    expect(wanted.data.id).not.toBe(made.data.id);
    const wrong = upFile("a.bvh", other(2));
    wrong.append("tags", "climb");
    expect((await ask("POST", "/api/clips", wrong)).data.error).toBe("tags: expected a JSON list of words");
  });

  it("are found by folder, fault, rate and length", async () => {
    const { data } = await upload("walk.bvh", other(3));
    clips.relabel([{ id: data.id, folder: "Shift 3/other" }]);
    // Folders inside a folder belong to it, whatever the case.
    expect((await found("folder=shift%203")).map((c) => c.folder).sort()).toEqual(["Shift 3/other", "shift 3/takes"]);
    expect((await found("folder=shift%203/takes")).every((c) => c.folder === "shift 3/takes")).toBe(true);
    expect((await found("folder=")).every((c) => c.folder === "")).toBe(true);
    const { fps, frames, wrong } = data.summary;
    expect(wrong.length).toBeGreaterThan(0);
    expect((await found(`fault=${wrong[0].kind}`)).map((c) => c.id)).toContain(data.id);
    expect(await found("fault=flip")).toEqual([]);
    expect((await found(`fps=${fps.toFixed(2)}`)).length).toBeGreaterThan(0);
    expect(await found(`fps=${fps + 1}`)).toEqual([]);
    const seconds = frames / fps;
    expect((await found(`shortest=${seconds - 0.01}&longest=${seconds + 0.01}`)).map((c) => c.id)).toContain(data.id);
    expect(await found(`shortest=${seconds + 0.01}`)).toEqual([]);
    const facets = (await ask<ClipFacets>("GET", "/api/clips/facets")).data;
    expect(facets.folders.map((f) => f.name)).toContain("Shift 3/other");
    expect(facets.rates).toEqual([{ name: fps, count: clips.count() }]);
    expect(facets.faults.find((f) => f.name === wrong[0].kind)?.count).toBeGreaterThan(0);
  });

  it("are renamed many at once, all or none, and what they were called comes back to undo it", async () => {
    const rows = clips.list();
    const changes = rows.map((c, i): LabelChange => ({ id: c.id, name: `Take ${i + 1}`, tags: ["Ina", "take"] }));
    const { before } = (await ask<{ before: LabelChange[] }>("POST", "/api/clips/labels", { changes })).data;
    expect(clips.list().map((c) => c.name)).toEqual(changes.map((c) => c.name));
    expect((await found("search=take%202")).map((c) => c.name)).toEqual(["Take 2"]);
    const missing = await ask("POST", "/api/clips/labels", {
      changes: [
        { id: rows[0].id, name: "Half done" },
        { id: "nobody", name: "x" },
      ],
    });
    expect(missing.status).toBe(404);
    expect(clips.list()[0].name).toBe("Take 1");
    await ask("POST", "/api/clips/labels", { changes: before });
    expect(clips.list().map(({ name, tags, folder }) => ({ name, tags, folder }))).toEqual(rows.map(({ name, tags, folder }) => ({ name, tags, folder })));
  });

  it("are duplicated with their reading, and each is its own", async () => {
    const [first] = clips.list();
    const copy = (await ask<ClipRow>("POST", `/api/clips/${first.id}/duplicate`, { name: "Its copy" })).data;
    expect(copy).toMatchObject({ name: "Its copy", sha256: first.sha256, summary: first.summary, folder: first.folder });
    expect(clips.bytes(copy.id)).toEqual(clips.bytes(first.id));
    expect((await ask("DELETE", `/api/clips/${copy.id}`)).status).toBe(200);
    expect(clips.get(first.id)).toBeDefined();
  });
});

describe("what is deleted", () => {
  it("goes with the works that stand on it, can be brought back as it was, and is swept away after its time", async () => {
    const clip = (await upload("gone.bvh", other(10))).data;
    const work = (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name: "On it" })).data;
    const gone = (await ask<Things>("POST", "/api/deleted", { clips: [clip.id] })).data;
    expect(gone).toEqual({ clips: [clip.id], works: [work.id], poses: [], patches: [] });
    expect((await ask("GET", `/api/clips/${clip.id}`)).status).toBe(404);
    expect((await ask("GET", `/api/works/${work.id}`)).status).toBe(404);
    expect(works.list().map((w) => w.id)).not.toContain(work.id);
    const listed = (await ask<DeletedRow[]>("GET", "/api/deleted")).data;
    expect(
      listed
        .filter((d) => [clip.id, work.id].includes(d.id))
        .map((d) => d.name)
        .sort(),
    ).toEqual(["On it", "gone"]);
    expect((await ask<{ back: number }>("POST", "/api/deleted/back", gone)).data.back).toBe(2);
    expect((await ask<WorkRow>("GET", `/api/works/${work.id}`)).data).toMatchObject({ name: "On it", clipId: clip.id });

    await ask("POST", "/api/deleted", { clips: [clip.id] });
    // A file that was deleted is a new one when it comes again.
    const again = await ask<ClipRow>("POST", "/api/clips", upFile("gone.bvh", other(10)));
    expect([again.status, again.data.id === clip.id]).toEqual([201, false]);
    const later = (days: number) => deletionStore(db, () => new Date(Date.now() + days * 24 * 3_600_000));
    later(KEPT_DAYS - 1).sweep();
    expect((await ask<{ back: number }>("POST", "/api/deleted/back", gone)).data.back).toBe(2);
    await ask("POST", "/api/deleted", { clips: [clip.id] });
    later(KEPT_DAYS + 1).sweep();
    expect((await ask<{ back: number }>("POST", "/api/deleted/back", gone)).data.back).toBe(0);
    expect(clips.bytes(clip.id)).toBeUndefined();
    expect(db.pragma("foreign_key_check")).toEqual([]);
  });

  it("is refused where other works would do without it, naming them, unless that is meant", async () => {
    const [base, drawn] = [(await upload("base.bvh", other(11))).data, (await upload("drawn.bvh", other(12))).data];
    const work = (await ask<WorkRow>("POST", "/api/works", { clipId: base.id, name: "Draws on" })).data;
    const document = { ...emptyWork(), patches: [makePatch("join", "On", "j", { clip: { name: drawn.fileName, sha256: drawn.sha256 } })] };
    expect((await ask("PUT", `/api/works/${work.id}`, { base: 1, name: "Draws on", document, note: "Joined" })).status).toBe(200);
    const refused = await ask("POST", "/api/deleted", { clips: [drawn.id] });
    expect(refused.status).toBe(409);
    expect(refused.data.error).toBe('"Draws on" would do without what is deleted; nothing was deleted');
    expect(clips.get(drawn.id)).toBeDefined();
    // With the work itself nothing is left that would miss it.
    expect((await ask("POST", "/api/deleted", { clips: [drawn.id], works: [work.id] })).status).toBe(200);
  });
});

describe("numbered versions of a work", () => {
  let work: WorkRow;
  beforeAll(async () => {
    const clip = (await upload("versions.bvh", other(20))).data;
    work = (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name: "Walk" })).data;
  });
  const save = async (name: string) => {
    const document = { ...emptyWork(), patches: [makePatch("plant", name, "p")] };
    work = (await ask<WorkRow>("PUT", `/api/works/${work.id}`, { base: work.revision, name: "Walk", document, note: name })).data;
  };
  const history = async () => (await ask<HistoryRow[]>("GET", `/api/works/${work.id}/history`)).data;

  it("count up, by a name or without, are kept for ever, and are gone back to", async () => {
    await save("Softer");
    const version = (name: string | null) => ask<{ version: number }>("POST", `/api/works/${work.id}/versions`, { name });
    expect((await version(null)).data.version).toBe(1);
    await save("Harder");
    expect((await version("before the director saw it")).data.version).toBe(2);
    // Named once more it is the same version.
    expect((await version("as the director saw it")).data.version).toBe(2);
    await save("Much harder");
    expect((await history()).map((h) => [h.revision, h.version, h.versionName, h.milestone])).toEqual([
      [4, null, null, false],
      [3, 2, "as the director saw it", true],
      [2, 1, null, true],
      [1, null, null, true],
    ]);
    const back = (await ask<WorkRow>("POST", `/api/works/${work.id}/restore`, { revision: 3 })).data;
    expect([back.revision, back.document.patches[0].name]).toEqual([5, "Harder"]);
    expect((await history())[1]).toMatchObject({ revision: 4, note: "Much harder" });
  });

  it("stay with a work, not with its copy", async () => {
    const copy = (await ask<WorkRow>("POST", `/api/works/${work.id}/duplicate`, { name: "Walk, for the stairs" })).data;
    expect(copy).toMatchObject({ name: "Walk, for the stairs", clipId: work.clipId, revision: 1 });
    const past = (await ask<HistoryRow[]>("GET", `/api/works/${copy.id}/history`)).data;
    expect(past.map((h) => [h.version, h.note])).toEqual([[null, "Copy of Walk, revision 5"]]);
  });
});

describe("a clip that is opened", () => {
  it("goes on with the work on it that was saved last, and begins one where there is none", async () => {
    const clip = (await upload("opened.bvh", other(30))).data;
    const open = async () => (await ask<{ id: string }>("POST", "/api/works/open", { clipId: clip.id, name: "Opened" })).data.id;
    const first = await open();
    expect(await open()).toBe(first);
    const second = (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name: "Another" })).data;
    await ask("PUT", `/api/works/${second.id}`, { base: 1, name: "Another", document: emptyWork(), note: "Saved" });
    expect(await open()).toBe(second.id);
    await ask("DELETE", `/api/works/${second.id}`);
    expect(await open()).toBe(first);
    // Lists tell of works as they are, also when they were asked for before; those that cannot be read by themselves.
    const rows = async (query = "") => (await ask<{ id: string; name: string; patches: number; problem: string | null }[]>("GET", `/api/works${query}`)).data;
    expect((await rows()).find((w) => w.id === first)).toMatchObject({ name: "Opened", patches: 0 });
    const document = { ...emptyWork(), patches: [makePatch("plant", "Plant", "p")] };
    await ask("PUT", `/api/works/${first}`, { base: 1, name: "Renamed", document, note: "Planted" });
    expect((await rows()).find((w) => w.id === first)).toMatchObject({ name: "Renamed", patches: 1 });
    expect(await rows("?unreadable=yes")).toEqual([]);
    db.prepare("UPDATE work SET document = '{}', revision = 3 WHERE id = ?").run(first);
    expect((await rows("?unreadable=yes")).map((w) => w.id)).toEqual([first]);
  });
});

describe("kept patches", () => {
  it("lie on the shelf as a recipe, are refused where they are none, and can be deleted and brought back", async () => {
    const data = { format: RECIPE_FORMAT, name: "Soft knees", patches: [makePatch("repair", "Knees", "k", {})] };
    const kept = await ask<KeptPatches>("POST", "/api/patches", { name: "Soft knees", data });
    expect(kept.status).toBe(201);
    expect(kept.data.recipe?.patches.map((p) => [p.kind, p.name])).toEqual([["repair", "Knees"]]);
    const wrong = await ask("POST", "/api/patches", { name: "x", data: { ...data, patches: [{ kind: "magic" }] } });
    expect([wrong.status, wrong.data.error]).toEqual([422, expect.stringContaining('there is no kind of patch called "magic"')]);
    await ask("DELETE", `/api/patches/${kept.data.id}`);
    expect((await ask<KeptPatches[]>("GET", "/api/patches")).data).toEqual([]);
    await ask("POST", "/api/deleted/back", { patches: [kept.data.id] });
    expect((await ask<KeptPatches[]>("GET", "/api/patches")).data.map((p) => p.name)).toEqual(["Soft knees"]);
  });
});

function upFile(name: string, text: string): FormData {
  const form = new FormData();
  form.append("file", new File([text], name));
  return form;
}
