import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { Quaternion, type SkinnedMesh, Vector3 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { describe, expect, it } from "vitest";
import { skinnedVertices } from "../../motion/src/character/skin.ts";
import { wornJoints } from "../../motion/src/character/worn.ts";
import { ClipDraft } from "../../motion/src/clip/clip.ts";
import { MotionFormatError } from "../../motion/src/formats/errors.ts";
import { normalsOf } from "../../motion/src/formats/gltf/primitive.ts";
import { type GltfFile, readGltf } from "../../motion/src/formats/gltf/read.ts";
import { readSkin } from "../../motion/src/formats/gltf/skin.ts";
import { clipWorld } from "../../motion/src/kinematics/forward.ts";

const hands = join(dirname(createRequire(import.meta.url).resolve("@webxr-input-profiles/assets/package.json")), "dist/profiles/generic-hand");
const bodies = join(import.meta.dirname, "../../demo/bodies");
const bytesOf = (path: string) => new Uint8Array(readFileSync(path));
const skinOf = (file: GltfFile) => {
  const skin = readSkin(file, "body.glb");
  if (!skin) throw new Error("no skin");
  return skin;
};

/** Turns for each joint that a seed gives, local to its rest. */
function bent(file: GltfFile, seed: number): { world: ReturnType<typeof clipWorld>; turns: Quaternion[] } {
  const { skeleton, clip } = file;
  const draft = ClipDraft.make("bent", 30, 1, skeleton.names.length, clip.positionJoints);
  const turns = skeleton.names.map((_, j) => {
    const axis = new Vector3(Math.sin(seed + j), Math.cos(2 * seed + j), Math.sin(3 * j + 1)).normalize();
    const rest = skeleton.restRotations.subarray(j * 4, j * 4 + 4);
    const q = new Quaternion(...rest).multiply(new Quaternion().setFromAxisAngle(axis, 0.5 * Math.sin(seed * j + 1)));
    draft.setRotation(j, 0, [q.x, q.y, q.z, q.w]);
    return q;
  });
  Array.from(clip.positionJoints).forEach((joint, slot) => {
    draft.setPosition(slot, 0, [...skeleton.offsets.subarray(joint * 3, joint * 3 + 3)]);
  });
  return { world: clipWorld(skeleton, draft.done()), turns };
}

describe("a body's skin", () => {
  it.each([
    ["the hands of the WebXR input profiles, left", join(hands, "left.glb")],
    ["and right", join(hands, "right.glb")],
    ["Ina", join(bodies, "ina.glb")],
    ["Osk", join(bodies, "osk.glb")],
    ["Pim", join(bodies, "pim.glb")],
  ])("stands where three.js has it, bent any way: %s", async (_, path) => {
    const bytes = bytesOf(path);
    const file = readGltf(bytes, { fileName: "body.glb" });
    const skin = skinOf(file);
    const { world, turns } = bent(file, 0.7);
    const { scene } = await new GLTFLoader().parseAsync(bytes.slice().buffer, "");
    file.skeleton.names.forEach((name, j) => {
      // Names with spaces are changed by that reader.
      scene.getObjectByName(name.replace(/\s/g, "_").replace(/[[\].:/]/g, ""))?.quaternion.copy(turns[j]);
    });
    scene.updateMatrixWorld(true);
    const meshes: SkinnedMesh[] = [];
    scene.traverse((object) => {
      if ("isSkinnedMesh" in object) meshes.push(object as SkinnedMesh);
    });
    expect(meshes.length).toBe(skin.parts.length);
    const height = Math.max(...skin.parts.map((part) => part.positions.reduce((most, v) => Math.max(most, Math.abs(v)), 0)));
    let seen = 0;
    skin.parts.forEach((part, i) => {
      const ours = skinnedVertices(skin, part, world.positions, world.rotations);
      const mesh = meshes[i];
      mesh.skeleton.update();
      const v = new Vector3();
      for (let k = 0; k * 3 < ours.length; k += 37) {
        mesh.getVertexPosition(k, v).applyMatrix4(mesh.matrixWorld);
        for (let c = 0; c < 3; c++) expect(Math.abs(ours[k * 3 + c] - v.getComponent(c))).toBeLessThan(1e-5 * Math.max(1, height));
        seen++;
      }
    });
    expect(seen).toBeGreaterThan(30);
  });

  it("of the demo stands on the floor, upright, with shares that sum to one and normals that point out of it", () => {
    for (const [id, tall] of [
      ["ina", 1.72],
      ["osk", 1.95],
      ["pim", 1.25],
    ] as const) {
      const file = readGltf(bytesOf(join(bodies, `${id}.glb`)), { fileName: `${id}.glb` });
      const skin = skinOf(file);
      const { positions, rotations } = clipWorld(file.skeleton, file.clip);
      let [low, high] = [1, 0];
      for (const part of skin.parts) {
        const stands = skinnedVertices(skin, part, positions, rotations);
        for (let o = 1; o < stands.length; o += 3) [low, high] = [Math.min(low, stands[o]), Math.max(high, stands[o])];
        for (let o = 0; o < part.weights.length; o += 4)
          expect(part.weights[o] + part.weights[o + 1] + part.weights[o + 2] + part.weights[o + 3]).toBeCloseTo(1, 5);
        // Most normals agree with those of the triangles around.
        const flat = normalsOf(part.positions, part.indices);
        let agree = 0;
        for (let o = 0; o < flat.length; o += 3)
          if (flat[o] * part.normals[o] + flat[o + 1] * part.normals[o + 1] + flat[o + 2] * part.normals[o + 2] > 0.3) agree++;
        expect(agree / (flat.length / 3)).toBeGreaterThan(0.95);
      }
      expect(Math.abs(low)).toBeLessThan(1e-4);
      expect(high).toBeGreaterThan(tall * 0.97);
      expect(high).toBeLessThan(tall * 1.2);
    }
  });

  it("fits another file's skeleton of the same bones, by names, and no other one", () => {
    const ina = readGltf(bytesOf(join(bodies, "ina.glb")), { fileName: "ina.glb" });
    const osk = readGltf(bytesOf(join(bodies, "osk.glb")), { fileName: "osk.glb" });
    const skin = skinOf(ina);
    const { skeleton } = ina;
    // Its root stands elsewhere.
    const moved = { ...skeleton, offsets: skeleton.offsets.map((v, i) => (i < 3 ? v + 5 : v)) };
    expect(wornJoints(skin, skeleton, moved)).toEqual(skin.joints);
    expect(wornJoints(skin, skeleton, osk.skeleton)).toBeNull();
    expect(wornJoints(skinOf(osk), osk.skeleton, skeleton)).toBeNull();
    const longer = { ...skeleton, offsets: skeleton.offsets.map((v, i) => (skeleton.names[Math.floor(i / 3)] === "LeftShin" ? v * 1.05 : v)) };
    expect(wornJoints(skin, skeleton, longer)).toBeNull();
  });

  it("that names vertices, joints or data that are not there is refused in a line; a file without one has none", () => {
    const bytes = bytesOf(join(bodies, "pim.glb"));
    const file = readGltf(bytes, { fileName: "pim.glb" });
    interface Meshes {
      meshes: { primitives: { attributes: Record<string, number>; indices: number }[] }[];
    }
    const broken = (change: (json: Meshes) => unknown) => {
      const json = structuredClone(file.layout.container.json);
      change(json as unknown as Meshes);
      return () => readSkin({ ...file, layout: { ...file.layout, container: { ...file.layout.container, json } } }, "pim.glb");
    };
    expect(broken((j) => (j.meshes[0].primitives[0].attributes.POSITION = 9999))).toThrow(MotionFormatError);
    expect(broken((j) => (j.meshes[0].primitives[0].indices = j.meshes[0].primitives[0].attributes.POSITION))).toThrow(MotionFormatError);
    expect(broken((j) => (j.meshes[0].primitives[0].attributes.JOINTS_0 = j.meshes[0].primitives[0].indices))).toThrow(/vertices/);
    expect(broken((j) => (j.meshes = [{ primitives: "none" as never }]))).toThrow(/meshes/);
    expect(broken((j) => (j.meshes[0].primitives = []))()).toBeNull();
  });
});
