import { ClipDraft, emptyNotes, formatToWrite } from "@stride/motion";
import { beforeAll, describe, expect, it } from "vitest";
import { stick } from "../../../motion/src/testing/patched.ts";
import { skatingBody } from "../../../motion/src/testing/skatingBody.ts";
import { type BodyFile, BodyWorker } from "./bodyWorker.ts";

let body: BodyFile;
const clip: BodyFile = { bytes: new TextEncoder().encode(skatingBody(60)), reading: { fileName: "walk.bvh" } };
beforeAll(() => {
  // The stick at rest, as a body without a motion.
  const { skeleton } = stick;
  const draft = ClipDraft.make("stick", 30, 1, skeleton.names.length, Int16Array.of(0));
  skeleton.names.forEach((_, j) => draft.setRotation(j, 0, [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)]));
  draft.setPosition(0, 0, [0, 0.95, 0]);
  const pieces = [
    ...(formatToWrite("stick.glb")?.write({ ...skeleton, offsets: skeleton.offsets.map((v, i) => (i === 1 ? 0.95 : v)) }, draft.done(), null) ?? []),
  ] as Uint8Array[];
  body = { bytes: pieces[0], reading: { fileName: "stick.glb" } };
});
const worker = new BodyWorker();

describe("the thread of the characters screen", () => {
  it("reads a character with what is said of it: its map, its points, how it rests", async () => {
    const plain = await worker.read(body, null);
    expect(plain.skeleton.names).toEqual(stick.skeleton.names);
    expect(plain.character.body.plan).toBe("biped");
    expect([plain.skin, plain.soles]).toEqual([null, {}]);
    expect(plain.view.frameCount).toBe(1);
    const told = await worker.read(body, { ...emptyNotes(), body: { neck: null }, points: { leftHeel: [0.01, -0.08, -0.05] } });
    expect(told.character.body.roles.neck).toBeUndefined();
    expect(told.character.points.find((p) => p.id === "leftHeel")).toMatchObject({ local: [0.01, -0.08, -0.05], clearance: 0, placed: true });
    await expect(worker.read({ ...body, bytes: body.bytes.subarray(0, 50) }, null)).rejects.toThrow(/stick\.glb: .*cut off/);
  });

  it("measures limits off clips of the same joints, and leaves others out", async () => {
    const other = { ...clip, bytes: new TextEncoder().encode(skatingBody(60).replaceAll(/(JOINT|ROOT) /g, "$1 Other")) };
    const { limits, used } = await worker.limits(body, null, [clip, other]);
    expect(used).toBe(1);
    expect(Object.keys(limits).length).toBeGreaterThan(10);
    for (const range of Object.values(limits))
      for (const [low, high] of [range.bend, range.side, range.twist]) {
        expect(low).toBeLessThanOrEqual(0);
        expect(high).toBeGreaterThanOrEqual(0);
      }
    // Its knees bend in that walk, its spine hardly moves.
    const reach = (name: string) => Math.max(...limits[name].bend.map(Math.abs));
    expect(reach("LeftLeg")).toBeGreaterThan(reach("Spine") + 5);
    expect((await worker.limits(body, null, [])).used).toBe(0);
  });
});
