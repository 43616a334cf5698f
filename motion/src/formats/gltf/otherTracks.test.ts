import { WebIO } from "@gltf-transform/core";
import { describe, expect, it } from "vitest";
import { emptyWork } from "../../documents/work.ts";
import { Evaluator } from "../../evaluate.ts";
import { oneSource } from "../../sources.ts";
import { verdict } from "../../testing/gltfChecks.ts";
import { patch } from "../../testing/patched.ts";
import { face } from "../../testing/talkingFace.ts";
import { cropWarp } from "../../time/warp.ts";
import { readGltf } from "./read.ts";
import { asGlb, writeIntoOwn } from "./write.ts";

/** The keys of a track as another reader has them. */
async function keys(bytes: Uint8Array, path: string): Promise<{ times: number[]; values: number[] }> {
  const channels = (await new WebIO().readBinary(bytes)).getRoot().listAnimations()[0].listChannels();
  const sampler = channels.find((c) => c.getTargetPath() === path)?.getSampler();
  return { times: [...(sampler?.getInput()?.getArray() ?? [])], values: [...(sampler?.getOutput()?.getArray() ?? [])] };
}

describe("what an animation has beside joints", () => {
  it("keeps its own keys where time is as it was", async () => {
    const bytes = await face(0);
    const file = readGltf(bytes, { fileName: "face.glb", fps: 10, unitScale: 1 });
    const out = asGlb(writeIntoOwn(file.skeleton, file.clip, file.layout, 1));
    expect(await keys(out, "weights")).toEqual(await keys(bytes, "weights"));
    expect((await keys(out, "scale")).times).toEqual([0, 1, 2]);
  });

  it("goes along where the motion is trimmed or retimed: as big, and as open, as it was at the moment that is shown", async () => {
    const bytes = await face(0);
    const file = readGltf(bytes, { fileName: "face.glb", fps: 10, unitScale: 1 });
    const evaluator = new Evaluator(oneSource(file.skeleton, file.clip));
    const work = {
      ...emptyWork(),
      patches: [patch("retime", { beats: [], speed: 0.5, between: "even" })],
    };
    const { result } = evaluator.evaluate(work);
    const slow = asGlb(writeIntoOwn(file.skeleton, result.clip, file.layout, 1, { time: result.time }));
    expect(await verdict(slow)).toEqual({ errors: 0, warnings: 0, said: [] });
    const weights = await keys(slow, "weights");
    expect(weights.times.length).toBe(result.clip.frameCount);
    const at = (second: number) => weights.values.slice(Math.round(second * 10) * 4, Math.round(second * 10) * 4 + 4);
    // Half the first way up after a second of four, all the way after two. Four targets are no rotation.
    for (const [second, share] of [
      [0, 0],
      [1, 0.5],
      [2, 1],
      [3, 0.5],
    ] as const) {
      const got = at(second);
      [1, 0.5, 0.25, 0.1].forEach((target, i) => {
        expect(got[i]).toBeCloseTo(share * target, 2);
      });
    }
    const trimmed = asGlb(writeIntoOwn(file.skeleton, file.clip, file.layout, 1, { time: cropWarp(1, 2) }));
    expect((await keys(trimmed, "scale")).values.slice(0, 3)).toEqual([2, 2, 2]);
  });

  it("begins with the motion, though its file begins later; steps stay steps", async () => {
    const file = readGltf(await face(0.5), { fileName: "face.glb", fps: 10, unitScale: 1 });
    const out = asGlb(writeIntoOwn(file.skeleton, file.clip, file.layout, 1));
    const { times, values } = await keys(out, "scale");
    expect([times[0], values[0], values[10 * 3], values[20 * 3]]).toEqual([0, 1, 2, 1]);
    expect(await verdict(out)).toEqual({ errors: 0, warnings: 0, said: [] });
    const stepped = readGltf(await face(0.5, "STEP"), { fileName: "face.glb", fps: 10, unitScale: 1 });
    const steps = await keys(asGlb(writeIntoOwn(stepped.skeleton, stepped.clip, stepped.layout, 1)), "scale");
    expect([steps.values[9 * 3], steps.values[10 * 3]]).toEqual([1, 2]);
  });
});
