import { readdirSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { NodeIO } from "@gltf-transform/core";
import { describe, expect, it, vi } from "vitest";
import type { MotionFile } from "../../motion/src/formats/format.ts";
import { type GltfFile, readGltf } from "../../motion/src/formats/gltf/read.ts";
import { asGlb, writeIntoOwn } from "../../motion/src/formats/gltf/write.ts";
import { furthest, heightOf, places, played, verdict } from "../../motion/src/testing/gltfChecks.ts";

/** A skinned hand of 25 joints, as it ships with an open package. */
const handModel = (side: string) => createRequire(import.meta.url).resolve(`@webxr-input-profiles/assets/dist/profiles/generic-hand/${side}.glb`);

describe("hand models that others made", () => {
  it.each(["left", "right"])("%s: read to the places that another reader finds, gets a motion, and is else handed on byte for byte", async (side) => {
    const bytes = new Uint8Array(readFileSync(handModel(side)));
    const file: GltfFile = readGltf(bytes, { fileName: "hand.glb" });
    expect(file.clip.frameCount).toBe(1);
    const document = await new NodeIO().readBinary(bytes);
    const nodes = document.getRoot().listNodes();
    const here = places(file);
    const theirs = file.layout.tree.nodes.flatMap((node) => Array.from(nodes[node].getWorldTranslation(), (v) => v * file.unitScale));
    expect(file.skeleton.names.length).toBeGreaterThan(20);
    expect(furthest(here, Float64Array.from(theirs)) / heightOf(here)).toBeLessThan(1e-5);

    // A motion of its own: every joint bent a little, more with every frame.
    const moved = bent(file, 12);
    const { bin, json } = writeIntoOwn(file.skeleton, moved, file.layout, file.unitScale);
    const out = asGlb({ bin, json });
    const before = await verdict(bytes);
    const after = await verdict(out);
    expect(after.errors).toBeLessThanOrEqual(before.errors);
    expect(after.warnings).toBeLessThanOrEqual(before.warnings);
    const old = file.layout.container;
    expect(Buffer.from(bin[0].subarray(0, old.buffers[0]?.length)).equals(Buffer.from(old.buffers[0] ?? []))).toBe(true);
    const { buffers: _b, bufferViews: _v, accessors: _a, animations: _n, ...rest } = json;
    const { buffers: _ob, bufferViews: _ov, accessors: _oa, animations: _on, ...kept } = old.json;
    expect(rest).toEqual(kept);
    expect((json.accessors as unknown[]).slice(0, (_oa as unknown[]).length)).toEqual(_oa);
    const back = readGltf(out, { fileName: "hand.glb" });
    expect(furthest(places({ skeleton: file.skeleton, clip: moved }), places(back)) / heightOf(here)).toBeLessThan(1e-5);
    const again = await new NodeIO().readBinary(out);
    expect(again.getRoot().listMeshes().length).toBe(document.getRoot().listMeshes().length);
    expect(again.getRoot().listAnimations().length).toBe(1);
  });
});

/** Every model that the open packages ship, and the demo's own bodies. */
const profiles = join(dirname(createRequire(import.meta.url).resolve("@webxr-input-profiles/assets/package.json")), "dist/profiles");
const models = [
  ...readdirSync(profiles, { recursive: true, encoding: "utf8" })
    .filter((name) => name.endsWith(".glb"))
    .map((name) => join(profiles, name)),
  ...["ina", "osk", "pim"].map((id) => join(import.meta.dirname, `../../demo/bodies/${id}.glb`)),
];

describe("every model that is there", () => {
  it("read, given a motion and written into its own file, comes back to the same places; the validator finds nothing that was not there before; three.js plays it so", async () => {
    expect(models.length).toBeGreaterThan(80);
    let playedToo = 0;
    // Pictures cannot be loaded without a page: that reader tells of it, its places are not touched.
    vi.spyOn(console, "error").mockImplementation(() => undefined);
    for (const path of models) {
      const bytes = new Uint8Array(readFileSync(path));
      const file = readGltf(bytes, { fileName: path });
      const moved = bent(file, 6);
      const out = asGlb(writeIntoOwn(file.skeleton, moved, file.layout, file.unitScale));
      const here = places({ skeleton: file.skeleton, clip: moved });
      const back = readGltf(out, { fileName: path, unitScale: file.unitScale });
      expect(furthest(here, places(back)) / heightOf(here), path).toBeLessThan(1e-5);
      const [before, after] = [await verdict(bytes), await verdict(out)];
      expect([after.errors, after.warnings <= before.warnings], path).toEqual([before.errors, true]);
      // That reader finds joints by their names: where each has one of its own.
      const names = file.skeleton.names;
      // What hangs under a joint that is scaled unevenly is placed as if evenly (and told so from a thousandth on).
      if (file.layout.tree.rest.some(({ scale }) => Math.max(...scale) - Math.min(...scale) > 1e-6)) continue;
      const given = (file.layout.container.json.nodes as { name?: string }[]).flatMap(({ name }) => (name === undefined ? [] : [name]));
      if (file.unitScale !== 1 || new Set(given).size !== given.length || !names.every((name) => given.includes(name) && /^\w+$/.test(name))) continue;
      playedToo++;
      expect(furthest(here, await played(out, names, 6, 24)) / heightOf(here), path).toBeLessThan(1e-5);
    }
    expect(playedToo).toBeGreaterThan(10);
  });
});

/** A clip of so many frames in which every joint of a body turns on. */
function bent({ skeleton, clip }: MotionFile, frames: number): MotionFile["clip"] {
  const draft = Array.from({ length: skeleton.names.length }, (_, j) => [
    Float32Array.from({ length: frames * 4 }, (_, i) => {
      const [f, c] = [Math.floor(i / 4), i % 4];
      const [x, y, z, w] = skeleton.restRotations.subarray(j * 4, j * 4 + 4);
      const half = (0.02 * f * ((j % 5) + 1)) / 2;
      const [s, k] = [Math.sin(half), Math.cos(half)];
      // rest · turn about x
      return [w * s + x * k, y * k + z * s, z * k - y * s, w * k - x * s][c];
    }),
  ]);
  const positions = Array.from(clip.positions, (track) => [
    Float32Array.from({ length: frames * 3 }, (_, i) => track[0][i % 3] + (i % 3 === 1 ? 0.001 * Math.floor(i / 3) : 0)),
  ]);
  return { ...clip, name: "bent", fps: 24, frameCount: frames, rotations: draft, positions };
}
