import { emptyWork, makePatch, readMotion, readRotation } from "@stride/motion";
import { afterAll, expect, it } from "vitest";
import { severalTakes } from "../../motion/src/testing/severalTakes.ts";
import type { SwapResult } from "./changes.ts";
import type { ExportResult } from "./export.ts";
import type { ListedClip } from "./store/clipPages.ts";
import type { ClipRow } from "./store/clips.ts";
import type { WorkRow } from "./store/works.ts";
import { testServer } from "./testing/testServer.ts";

type Brought = ClipRow & { known: boolean; added: number; unread: { take: string; problem: string }[]; error?: string };

const server = testServer();
const { ask, db } = server;
afterAll(() => server.close());

const kit = await severalTakes([
  { name: "Idle", seconds: 1, degrees: 30 },
  { name: "Look", seconds: 2, degrees: 80 },
  { name: "Torn", seconds: 1, degrees: 10, broken: true },
  { seconds: 3, degrees: 90 },
]);
const send = async (bytes: Uint8Array<ArrayBuffer>, name: string, query = "") => {
  const form = new FormData();
  form.append("file", new File([bytes], name));
  return ask<Brought>("POST", `/api/clips${query}`, form);
};
const listed = async () => (await ask<{ clips: ListedClip[] }>("GET", "/api/clips?order=length&down=no")).data.clips;

it("each animation of a file becomes a clip; one that cannot be read is told, and the file's bytes are kept once", async () => {
  const { status, data } = await send(kit, "kit.glb");
  expect([status, data.known, data.added, data.take, data.name]).toEqual([201, false, 3, null, "kit · Idle"]);
  expect(data.unread).toEqual([{ take: "Torn", problem: expect.stringContaining("its times do not grow at key 1") }]);
  expect((await listed()).map((c) => [c.name, c.take, c.summary.frames])).toEqual([
    ["kit · Idle", null, 11],
    ["kit · Look", "Look", 21],
    ["kit · animation 4", "animation 4", 31],
  ]);
  expect(db.prepare("SELECT count(*) AS n FROM content").get()).toEqual({ n: 1 });
  // Once more: nothing is new, but one that was deleted.
  expect((await send(kit, "kit.glb")).data).toMatchObject({ added: 0, known: true, name: "kit · Idle" });
  const [, look] = await listed();
  await ask("DELETE", `/api/clips/${look.id}`);
  expect((await send(kit, "kit.glb")).data).toMatchObject({ added: 1, known: false, name: "kit · Look" });
  expect((await listed()).length).toBe(3);
});

it("a work stands on one animation and draws on another of the same file; each is told apart wherever it is meant", async () => {
  const [idle, look, third] = await listed();
  const work = (await ask<WorkRow>("POST", "/api/works", { clipId: idle.id, name: "Looks about" })).data;
  const mix = makePatch("mix", "Mix", "m", { clip: { name: "kit.glb", sha256: look.sha256, take: "Look" } });
  await ask("PUT", `/api/works/${work.id}`, { base: 1, name: "Looks about", document: { ...emptyWork(), patches: [mix] }, note: "Mixed" });
  const uses = (await listed()).map((c) => [c.take, c.works, c.drawnOnBy]);
  expect(uses).toEqual([
    [null, 1, []],
    ["Look", 0, ["Looks about"]],
    ["animation 4", 0, []],
  ]);
  const source = await ask<ClipRow>("GET", `/api/sources/${look.sha256}?take=Look`);
  expect(source.data.id).toBe(look.id);
  expect((await ask<ClipRow>("GET", `/api/sources/${look.sha256}`)).data.id).toBe(idle.id);
  expect((await ask("GET", `/api/sources/${look.sha256}?take=Run`)).status).toBe(404);
  const refused = await ask("DELETE", `/api/clips/${look.id}`);
  expect([refused.status, refused.data.error]).toEqual([409, expect.stringContaining('drawn on by "Looks about"')]);
  // What it comes to: the other animation's turn, written in this one's place.
  const written = async () => {
    const { data } = await ask<ExportResult>("POST", `/api/works/${work.id}/export`, { start: 0, end: 10, fps: 10, name: "out" });
    const bytes = new Uint8Array(Buffer.from(data.text, "base64"));
    return [undefined, "Look", "animation 4"].map((take) => headTurn(bytes, take));
  };
  expect(await written()).toEqual([
    [11, 40],
    [21, 80],
    [31, 90],
  ]);
  // Another of them in the place of the one that it draws on, then of the one that it stands on.
  const swap = async (from: ClipRow, to: ClipRow) => (await ask<SwapResult>("POST", `/api/works/${work.id}/plan-swap`, { from: from.id, to: to.id })).data;
  expect((await swap(look, third)).document.patches[0].settings.clip).toEqual({ name: "kit.glb", sha256: idle.sha256, take: "animation 4" });
  expect((await swap(third, look)).swapped).toBe(0);
  expect(await swap(idle, third)).toMatchObject({ clipId: third.id, swapped: 0 });
});

it("the body of an animated file is made a character on request, once, and a motion is cast onto it", async () => {
  const [idle, look] = await listed();
  const body = await ask<ClipRow>("POST", `/api/clips/${look.id}/body`);
  expect([body.status, body.data.name, body.data.take, body.data.summary.character, body.data.summary.frames]).toEqual([201, "kit", "", true, 1]);
  expect((await ask<ClipRow>("POST", `/api/clips/${idle.id}/body`)).data.id).toBe(body.data.id);
  expect((await ask<ClipRow[]>("GET", "/api/characters")).data.map((c) => c.id)).toEqual([body.data.id]);
  expect((await listed()).length).toBe(3);
  expect((await ask<ClipRow>("GET", `/api/sources/${idle.sha256}?take=`)).data.id).toBe(body.data.id);
});

it("a file whose first animation cannot be read comes in with the others; one of which none can is refused with what is wrong", async () => {
  const torn = { name: "Torn", seconds: 1, degrees: 10, broken: true };
  const some = await send(await severalTakes([torn, { name: "Nod", seconds: 1.5, degrees: 20 }]), "some.glb");
  expect(some.data).toMatchObject({ name: "some · Nod", take: "Nod", added: 1, unread: [{ take: "Torn" }] });
  const none = await send(await severalTakes([torn, { ...torn, name: "Also" }]), "none.glb");
  expect([none.status, none.data.error]).toEqual([400, expect.stringMatching(/none\.glb: none of its animations can be read: .*its times do not grow/)]);
  const one = await send(await severalTakes([torn]), "one.glb");
  expect([one.status, one.data.error]).toEqual([422, expect.stringContaining("its times do not grow")]);
});

/** Frames of an animation of a file, and degrees that the head is turned by at its end. */
function headTurn(bytes: Uint8Array, take: string | undefined): [number, number] {
  const { skeleton, clip } = readMotion(bytes, { fileName: "out.glb", take });
  const turn = new Float64Array(4);
  readRotation(clip, skeleton.names.indexOf("Head"), clip.frameCount - 1, turn, 0);
  return [clip.frameCount, Math.round((2 * Math.acos(Math.min(1, Math.abs(turn[3]))) * 180) / Math.PI)];
}
