import { demoClips } from "@stride/demo";
import { emptyWork, makePatch, type Patch, writeFresh } from "@stride/motion";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import type { CopyResult, SwapResult } from "./changes.ts";
import type { ClipRow } from "./store/clips.ts";
import type { HistoryRow, SavedMany, TakenBack, WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { ask, upload } = server;
afterAll(() => server.close());

const start = async (clip: ClipRow, name: string) => (await ask<WorkRow>("POST", "/api/works", { clipId: clip.id, name })).data;
const saved = async (work: WorkRow, ...patches: Patch[]) =>
  (await ask<WorkRow>("PUT", `/api/works/${work.id}`, { base: work.revision, name: work.name, document: { ...emptyWork(), patches }, note: "Repaired" })).data;
const bring = async (id: string) => {
  const found = demoClips().find((c) => c.id === id);
  if (!found) throw new Error(`no clip ${id}`);
  return (await upload(`${id}.bvh`, [...writeFresh(found.truth.character.skeleton, found.clip, 0.01)].join(""))).data;
};
const read = async (id: string) => (await ask<WorkRow>("GET", `/api/works/${id}`)).data;

describe("patches copied to other works", () => {
  let source: WorkRow;
  let [walk, slow]: ClipRow[] = [];
  const touch: Patch = { ...makePatch("handShape", "Flat hands", "hands"), range: { start: 1.1, end: 1.6 }, rampIn: 0.1, rampOut: 0.1 };
  beforeAll(async () => {
    walk = await bring("porter-night-shift-walk");
    slow = await bring("porter-unhurried-walk");
    source = await saved(await start(walk, "Walk"), touch);
  });
  const plan = (work: WorkRow, ranges = "contacts", patches = ["hands"]) =>
    ask<CopyResult & { base: number; error?: string }>("POST", `/api/works/${work.id}/plan-copy`, {
      from: source.id,
      revision: source.revision,
      patches,
      ranges,
    });

  it("are planned one work at a time, with what they do there; nothing is saved by that", async () => {
    const work = await start(slow, "Slow");
    const { status, data } = await plan(work);
    expect(status).toBe(200);
    expect(data.base).toBe(1);
    expect(data.patches).toMatchObject([{ name: "Flat hands", kind: "handShape", said: null }]);
    expect(data.patches[0].footfalls).toBeGreaterThan(3);
    expect(data.document.patches[0].range).toEqual(data.patches[0].range);
    expect(data.outcome.changedFrames).toBeGreaterThan(10);
    expect(data.outcome.changedFrames).toBeLessThan(data.outcome.after.frames / 2);
    expect((await read(work.id)).revision).toBe(1);
    // A patch that cannot lie there says why.
    const late = await saved(await start(walk, "Late"), { ...touch, range: { start: 4.2, end: 4.3 } });
    const short = (await upload("short.bvh", skatingBody())).data;
    const refused = await ask("POST", `/api/works/${(await start(short, "Short")).id}/plan-copy`, {
      from: late.id,
      revision: late.revision,
      patches: ["hands"],
      ranges: "same",
    });
    expect(refused.status).toBe(422);
    expect(refused.data.error).toMatch(/"Flat hands" would lie at 4\.20–4\.30 s, outside this clip of \d/);
  });

  it("are saved to forty works as one step and taken back as one; a work that was changed since stays as it is", async () => {
    const targets = await Promise.all(Array.from({ length: 40 }, (_, i) => start(i % 2 ? walk : slow, `Take ${i}`)));
    const plans = await Promise.all(targets.map(async (work) => ({ id: work.id, ...(await plan(work)).data })));
    const changes = plans.map(({ id, base, document }) => ({ id, base, document }));
    const result = (await ask<Extract<SavedMany, { saved: unknown }>>("POST", "/api/works/save-many", { changes, note: "Copied from Walk" })).data;
    expect(result.saved).toHaveLength(40);
    expect(new Set(result.saved.map((s) => s.revision))).toEqual(new Set([2]));
    const changed = await saved(await read(targets[7].id), touch, makePatch("floor", "Floor", "f"));
    const back = (await ask<TakenBack>("POST", "/api/works/take-back", { works: result.saved, note: "Taken back" })).data;
    expect(back.back).toHaveLength(39);
    expect(back.kept).toEqual([{ id: targets[7].id, name: "Take 7" }]);
    expect((await read(targets[0].id)).document.patches).toEqual([]);
    expect((await read(targets[7].id)).document).toEqual(changed.document);
    const history = (await ask<HistoryRow[]>("GET", `/api/works/${targets[0].id}/history`)).data;
    expect(history.map((h) => h.note)).toEqual(["Taken back", "Copied from Walk", "Started"]);
  });

  it("are saved to none where one has moved on, or one document is wrong, which is named", async () => {
    const [a, b] = [await start(slow, "A"), await start(slow, "B")];
    const document = (await plan(a)).data.document;
    await saved(b, makePatch("floor", "Floor", "f"));
    const moved = await ask<{ moved: string[] }>("POST", "/api/works/save-many", {
      changes: [a, b].map((w) => ({ id: w.id, base: 1, document })),
      note: "Copied",
    });
    expect([moved.status, moved.data.moved]).toEqual([409, [b.id]]);
    const broken = { ...document, patches: [{ ...document.patches[0], kind: "magic" }] };
    const wrong = await ask("POST", "/api/works/save-many", {
      changes: [
        { id: a.id, base: 1, document },
        { id: b.id, base: 2, document: broken },
      ],
      note: "Copied",
    });
    expect([wrong.status, wrong.data.error]).toEqual([422, expect.stringContaining('in "B": patches.0.kind')]);
    expect((await read(a.id)).revision).toBe(1);
  });
});

describe("a clip replaced in works", () => {
  it("is swapped where it is drawn on and where a work stands on it, previewed first, and taken back with its clip", async () => {
    const [walk, slow] = [await bring("porter-night-shift-walk"), await bring("porter-unhurried-walk")];
    const join = makePatch("join", "On", "j", { clip: { name: walk.fileName, sha256: walk.sha256 }, overlap: 0.3 });
    const late: Patch = { ...makePatch("handShape", "Flat hands", "h"), range: { start: 4.8, end: 4.9 } };
    const draws = await saved(await start(slow, "Draws on it"), join);
    const swap = (work: WorkRow, from: ClipRow, to: ClipRow) =>
      ask<SwapResult & { base: number; clipId: string | null }>("POST", `/api/works/${work.id}/plan-swap`, { from: from.id, to: to.id });
    const drawn = (await swap(draws, walk, slow)).data;
    expect([drawn.swapped, drawn.clipId, drawn.dropped]).toEqual([1, null, []]);
    expect(drawn.document.patches[0].settings.clip).toEqual({ name: slow.fileName, sha256: slow.sha256 });
    expect(drawn.outcome.after.frames).toBeGreaterThan(drawn.outcome.before.frames);

    const stands = await saved(await start(slow, "Stands on it"), late);
    const stood = (await swap(stands, slow, walk)).data;
    expect(stood.clipId).toBe(walk.id);
    expect(stood.dropped).toEqual(['"Flat hands" lies behind the clip\'s end and is left out']);
    expect(stood.outcome).toMatchObject({ before: { frames: slow.summary.frames }, after: { frames: walk.summary.frames } });
    const changes = [
      { id: draws.id, base: drawn.base, document: drawn.document },
      { id: stands.id, base: stood.base, document: stood.document, clipId: walk.id },
    ];
    const { saved: done } = (await ask<Extract<SavedMany, { saved: unknown }>>("POST", "/api/works/save-many", { changes, note: "Replaced" })).data;
    expect((await read(stands.id)).clipId).toBe(walk.id);
    // Each can be taken back by itself.
    await ask("POST", "/api/works/take-back", { works: [done[1]], note: "Taken back" });
    expect(await read(stands.id)).toMatchObject({ clipId: slow.id, document: { patches: [{ name: "Flat hands" }] } });
    expect((await read(draws.id)).document.patches[0].settings.clip).toMatchObject({ sha256: slow.sha256 });
    // What its revision 3 stood on is what anyone gets who means that revision.
    expect((await ask("GET", `/api/sources/${walk.sha256}/works/3`)).status).toBe(200);
  });

  it("of another body is told with its joints and what has no partner", async () => {
    const [walk, goat] = [await bring("porter-night-shift-walk"), await bring("goat-down-the-quay")];
    const work = await saved(await start(walk, "Walk"), { ...makePatch("repair", "Left hand", "r"), parts: [{ joint: "Spine2" }, { role: "leftHand" }] });
    const { data } = await ask<SwapResult>("POST", `/api/works/${work.id}/plan-swap`, { from: walk.id, to: goat.id });
    expect([data.outcome.before.plan, data.outcome.after.plan]).toEqual(["biped", "quadruped"]);
    expect(data.outcome.movedCm).toBeNull();
    expect(data.outcome.notes.join()).toMatch(/Left hand: this body has no/);
  });
});
