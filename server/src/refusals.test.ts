import { DEFAULT_RECIPE, emptyWork, makeContactEdit, makePatch, type Work } from "@stride/motion";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import type { PoseRow } from "./store/poses.ts";
import type { WorkListRow, WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

const server = testServer();
const { ask, db } = server;
afterAll(() => server.close());

let work: WorkRow;
beforeAll(async () => {
  const { data } = await server.upload("walk.bvh", skatingBody());
  work = (await ask<WorkRow>("POST", "/api/works", { clipId: data.id, name: "Walk" })).data;
});

/** 90 frames at 30 a second. */
const END = 89 / 30;

const save = (document: unknown) => ask("PUT", `/api/works/${work.id}`, { base: work.revision, name: "Walk", document, note: "" });
const patched = (...patches: unknown[]) => ({ ...emptyWork(), patches });
const layer = (settings: Record<string, unknown>) => makePatch("layer", "L", "l", settings);
const contact = { id: "c", point: "leftToe", kind: "span", start: 0.1, end: 0.5 };

describe("a save", () => {
  const wrong: [what: string, document: unknown, field: RegExp][] = [
    ["a kind that there is not", patched(makePatch("wings", "W", "w")), /^patches\.0\.kind: .*"wings"/],
    ["a setting that the kind has not", patched(makePatch("plant", "P", "p", { wide: 3 })), /^patches\.0\.settings\.wide/],
    ["a setting of another type", patched(makePatch("plant", "P", "p", { travelStrength: "much" })), /^patches\.0\.settings\.travelStrength/],
    ["a setting out of its bounds", patched(makePatch("plant", "P", "p", { landingRamp: 9 })), /^patches\.0\.settings\.landingRamp/],
    [
      "a key that is no number",
      patched(layer({ channels: [{ target: { drives: "turn", part: { joint: "Head" }, axis: "x" }, keys: [{ at: 0.1, value: null, tangent: "flat" }] }] })),
      /^patches\.0\.settings\.channels\.0\.keys\.0\.value/,
    ],
    ["a part of no body", patched({ ...makePatch("repair", "R", "r"), parts: [{ role: "wing" }] }), /^patches\.0\.parts\.0\.role/],
    ["patches of one id", patched(makePatch("floor", "F", "same"), makePatch("plant", "P", "same")), /^patches\.1\.id: "same"/],
    ["contacts of one id", { ...emptyWork(), contacts: [contact, contact] }, /^contacts\.1\.id/],
    ["a range behind the clip", patched({ ...makePatch("plant", "P", "p"), range: { start: 0, end: 30 } }), /^patches\.0\.range\.end: 30 s lies behind/],
    ["a range before the clip", patched({ ...makePatch("plant", "P", "p"), range: { start: -2, end: -1 } }), /^patches\.0\.range\.end: -1 s lies before/],
    ["a contact behind the clip", { ...emptyWork(), contacts: [{ ...contact, start: 8, end: 9 }] }, /^contacts\.0\.start: 8 s lies behind/],
    ["a contact that ends before it starts", { ...emptyWork(), contacts: [{ ...contact, start: 0.5, end: 0.1 }] }, /^contacts\.0\.end/],
    [
      "a rotation of length zero",
      { ...emptyWork(), neutral: { format: "patch-stride.pose/2", rotations: { head: [0, 0, 0, 0] }, heading: 0, place: [0, 1, 0] } },
      /^neutral\.rotations\.head/,
    ],
    ["a field that works have not", { ...emptyWork(), mood: 1 }, /mood/],
    ["another format", { ...emptyWork(), format: "patch-stride.work/9" }, /^format: this version reads/],
    ["no format", { patches: [] }, /^format/],
  ];
  for (const [what, document, field] of wrong)
    it(`with ${what} is refused with the field, and nothing is stored`, async () => {
      const answer = await save(document);
      expect(answer.data.error).toMatch(field);
      expect(answer.status).toBe(422);
      expect((await ask<WorkRow>("GET", `/api/works/${work.id}`)).data.revision).toBe(work.revision);
    });

  it("with numbers or names that JSON can carry and a document cannot is refused", async () => {
    const text = (settings: string) =>
      `{"base":${work.revision},"name":"Walk","note":"","document":{"format":"patch-stride.work/2","patches":[{"id":"p","kind":"plant","name":"P","muted":false,"solo":false,"range":null,"rampIn":0,"rampOut":0,"rampShape":"smooth","parts":null,"weight":1,"settings":${settings}}],"contacts":[],"body":{},"livePlant":true,"neutral":null}}`;
    expect((await ask("PUT", `/api/works/${work.id}`, text('{"hipsMayDropCm":1e999}'))).data.error).toMatch(/hipsMayDropCm/);
    for (const name of ["__proto__", "constructor"]) {
      const answer = await ask("PUT", `/api/works/${work.id}`, text(`{"${name}":{"polluted":1}}`));
      expect(answer.status, name).toBe(name === "__proto__" ? 400 : 422);
      expect(answer.data.error, name).toContain(`patches.0.settings.${name}`);
    }
    expect(({} as Record<string, unknown>).polluted).toBeUndefined();
    const deep = `${"[".repeat(100_000)}${"]".repeat(100_000)}`;
    const nested = await ask("PUT", `/api/works/${work.id}`, `{"base":1,"name":"x","note":"","document":{"format":${deep}}}`);
    expect(nested.status).toBe(400);
    expect(nested.data.error).toMatch(/nested deeper/);
    expect((await ask("PUT", `/api/works/${work.id}`, "{not json")).status).toBe(400);
  });

  it("of megabytes of junk is refused, whatever it hides in", async () => {
    const junk = "x".repeat(7 * 1024 * 1024);
    expect((await save(patched(makePatch("plant", "P", "p", { junk })))).status).toBe(422);
    expect((await save(patched({ ...makePatch("plant", "P", "p"), name: junk }))).status).toBe(422);
    expect((await save(patched(makePatch("plant", "P", "p", { junk: junk + junk })))).status).toBe(413);
  });

  it("of all that works may hold is taken", async () => {
    const document: Work = {
      ...emptyWork(),
      patches: [
        ...DEFAULT_RECIPE.patches,
        { ...makePatch("repair", "R", "r"), parts: [{ role: "head" }, { joint: "Lantern" }], range: { start: 0, end: END } },
      ],
      contacts: [makeContactEdit({ ...contact, kind: "span", on: { role: "rightShin" }, rampOut: 0.2 })],
    };
    const answer = await ask<WorkRow>("PUT", `/api/works/${work.id}`, { base: work.revision, name: "Walk", document, note: "" });
    expect(answer.status).toBe(200);
    expect(answer.data.document).toEqual(document);
    work = answer.data;
  });
});

describe("a range that a patch beneath it has cut away", () => {
  it("is kept", async () => {
    const gone = [
      { ...makePatch("repair", "R", "gone"), range: { start: 1.2, end: 3.1 } },
      { ...makePatch("repair", "R", "before"), range: { start: -0.5, end: -0.1 } },
    ];
    const document = patched(makePatch("trim", "T", "t", { to: 1 }), ...gone);
    const answer = await ask<WorkRow>("PUT", `/api/works/${work.id}`, { base: work.revision, name: "Walk", document, note: "" });
    expect(answer.status).toBe(200);
    expect(answer.data.document.patches.slice(1).map((p) => p.range)).toEqual(gone.map((p) => p.range));
    work = answer.data;
  });
});

describe("lists", () => {
  it("of works show a newer, a damaged and a strange one with what is wrong, and every other as it is", async () => {
    const ids = ["newer", "damaged", "strange"].map((name) => server.works.create(work.clipId, name, emptyWork()).id);
    const put = (id: string, document: string) => db.prepare("UPDATE work SET document = ? WHERE id = ?").run(document, id);
    put(ids[0], JSON.stringify({ ...emptyWork(), format: "patch-stride.work/7" }));
    put(ids[1], '{"format":');
    put(ids[2], JSON.stringify({ ...emptyWork(), patches: [makePatch("wings", "W", "w")] }));
    const list = await ask<WorkListRow[]>("GET", "/api/works");
    expect(list.status).toBe(200);
    const problems = Object.fromEntries(list.data.map((row) => [row.name, row.problem]));
    expect(problems.Walk).toBeNull();
    expect(problems.newer).toMatch(/patch-stride\.work\/7/);
    expect(problems.damaged).toMatch(/damaged/);
    expect(problems.strange).toMatch(/wings/);
    // Asked for by itself it says so too, and is neither lost nor in the way.
    expect((await ask("GET", `/api/works/${ids[0]}`)).status).toBe(422);
    expect((await ask("DELETE", `/api/works/${ids[0]}`)).status).toBe(200);
    expect((await ask("GET", `/api/works/${work.id}`)).status).toBe(200);
  });

  it("of poses leave out none but the damaged", async () => {
    const pose = { format: "patch-stride.pose/2", rotations: { leftHand: [0, 0, 0, 1] }, heading: 0, place: [0, 1, 0] };
    await ask("POST", "/api/poses", { kind: "pose", name: "Good", data: pose, picture: "" });
    const { data: bad } = await ask<PoseRow>("POST", "/api/poses", { kind: "pose", name: "Bad", data: pose, picture: "" });
    db.prepare("UPDATE pose SET data = ? WHERE id = ?").run('{"format":"patch-stride.pose/9"}', bad.id);
    const list = await ask<PoseRow[]>("GET", "/api/poses");
    expect(list.status).toBe(200);
    expect(list.data.map((p) => p.name)).toContain("Good");
  });

  it("of poses refuse a rotation of length zero, saying which", async () => {
    const data = { format: "patch-stride.pose/2", rotations: { leftHand: [0, 0, 0, 0] }, heading: 0, place: [0, 1, 0] };
    const answer = await ask("POST", "/api/poses", { kind: "pose", name: "Nowhere", data, picture: "" });
    expect(answer.status).toBe(400);
    expect(answer.data.error).toMatch(/data\.rotations\.leftHand/);
  });
});

describe("other requests", () => {
  it("to what is not there get 404 as JSON, never the page", async () => {
    for (const [method, path] of [
      ["GET", "/api/nothing"],
      ["GET", "/api/works/x/y/z"],
      ["POST", "/api/clips/none"],
      ["GET", "/api"],
    ]) {
      const answer = await ask(method, path);
      expect(answer.status, path).toBe(404);
      expect(answer.data.error, path).toBe("there is nothing here");
    }
  });

  it("are bounded in size on every route that takes a body", async () => {
    const large = JSON.stringify({ name: "x".repeat(100 * 1024) });
    for (const [method, path] of [
      ["PATCH", `/api/clips/${work.clipId}`],
      ["POST", "/api/works"],
      ["POST", `/api/works/${work.id}/restore`],
      ["POST", `/api/works/${work.id}/export`],
      ["DELETE", `/api/works/${work.id}`],
      ["DELETE", `/api/clips/${work.clipId}`],
      ["DELETE", "/api/poses/none"],
    ])
      expect((await ask(method, path, large)).status, `${method} ${path}`).toBe(413);
    expect((await ask("POST", "/api/poses", JSON.stringify({ x: "y".repeat(2 * 1024 * 1024) }))).status).toBe(413);
    expect((await ask<WorkRow>("GET", `/api/works/${work.id}`)).status).toBe(200);
  });

  it("with a body nested 100,000 deep get 400", async () => {
    const deep = `{"name":${"[".repeat(100_000)}${"]".repeat(100_000)}}`;
    for (const [method, path] of [
      ["POST", "/api/poses"],
      ["PUT", `/api/works/${work.id}`],
    ])
      expect((await ask(method, path, deep)).status, path).toBe(400);
  });

  it("may come from the served page alone", async () => {
    const from = (headers: Record<string, string>, method = "DELETE") => ask(method, "/api/poses/none", undefined, headers).then((a) => a.status);
    // Scripts of this machine send neither; the page itself sends both.
    expect(await from({})).toBe(404);
    expect(await from({ origin: "http://localhost:4173", "sec-fetch-site": "same-origin" })).toBe(404);
    expect(await from({ origin: "http://localhost:5555" })).toBe(403);
    expect(await from({ origin: "http://127.0.0.1:4173" })).toBe(403);
    expect(await from({ origin: "null" })).toBe(403);
    expect(await from({ "sec-fetch-site": "cross-site" })).toBe(403);
    expect(await from({ "sec-fetch-site": "same-site" })).toBe(403);
    expect((await ask("GET", "/api/works", undefined, { "sec-fetch-site": "cross-site" })).status).toBe(403);
    expect((await ask("GET", "/api/works", undefined, { host: "pages.example" })).status).toBe(403);
  });

  it("are answered with a strict content policy and no frames", async () => {
    const { headers } = await server.app.request("http://localhost/api/health", { headers: { host: "localhost" } });
    const policy = headers.get("content-security-policy") ?? "";
    expect(policy).toContain("default-src 'none'");
    expect(policy).toContain("script-src 'self'");
    expect(policy).not.toMatch(/'unsafe-eval'|script-src[^;]*unsafe-inline/);
    expect(policy).toContain("frame-ancestors 'none'");
    expect(headers.get("x-frame-options")).toBe("DENY");
  });
});
