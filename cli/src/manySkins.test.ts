import { type Accessor, Document, NodeIO } from "@gltf-transform/core";
import { type Mesh, Quaternion, Vector3 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { describe, expect, it } from "vitest";
import { skinnedVertices } from "../../motion/src/character/skin.ts";
import { ClipDraft } from "../../motion/src/clip/clip.ts";
import { readGltf } from "../../motion/src/formats/gltf/read.ts";
import { readSkin } from "../../motion/src/formats/gltf/skin.ts";
import { clipWorld } from "../../motion/src/kinematics/forward.ts";

/** A body of two skins, a rigid box on a joint, one on a node between joints, morph targets with weights of the mesh and of the node, under a scaled and turned armature. */
async function madeUp(): Promise<Uint8Array> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const list = (type: "SCALAR" | "VEC3" | "VEC4" | "MAT4", values: Float32Array | Uint16Array): Accessor =>
    doc.createAccessor().setType(type).setArray(values).setBuffer(buffer);
  const cloud = (seed: number, count = 12) => Float32Array.from({ length: count * 3 }, (_, i) => 30 * Math.sin(seed + i * 1.7));
  const joint = (name: string, at: [number, number, number]) =>
    doc
      .createNode(name)
      .setTranslation(at)
      .setRotation([0, Math.sin(0.2), 0, Math.cos(0.2)]);
  const hips = joint("hips", [0, 90, 0]);
  const spine = joint("spine", [2, 15, 0]);
  const between = doc.createNode("rack").setTranslation([0, 5, 1]).setScale([1.2, 1.2, 1.2]);
  const head = joint("head", [0, 30, 4]);
  hips.addChild(spine);
  spine.addChild(between);
  between.addChild(head);
  const mesh = (seed: number, bones: number, targets: number) => {
    const primitive = doc
      .createPrimitive()
      .setAttribute("POSITION", list("VEC3", cloud(seed)))
      .setAttribute(
        "NORMAL",
        list(
          "VEC3",
          Float32Array.from({ length: 36 }, (_, i) => (i % 3 === seed % 3 ? 1 : 0)),
        ),
      )
      .setIndices(
        list(
          "SCALAR",
          Uint16Array.from({ length: 12 }, (_, i) => (i * 5) % 12),
        ),
      );
    if (bones > 0) {
      primitive.setAttribute(
        "JOINTS_0",
        list(
          "VEC4",
          Uint16Array.from({ length: 48 }, (_, i) => (i % 4 < 2 ? (i + seed) % bones : 0)),
        ),
      );
      primitive.setAttribute(
        "WEIGHTS_0",
        list(
          "VEC4",
          Float32Array.from({ length: 48 }, (_, i) => [0.75, 0.25, 0, 0][i % 4]),
        ),
      );
    }
    for (let t = 0; t < targets; t++)
      primitive.addTarget(
        doc
          .createPrimitiveTarget()
          .setAttribute("POSITION", list("VEC3", cloud(seed + 3 * t + 1)))
          .setAttribute(
            "NORMAL",
            list(
              "VEC3",
              Float32Array.from({ length: 36 }, (_, i) => 0.1 * Math.cos(i)),
            ),
          ),
      );
    return doc.createMesh().addPrimitive(primitive);
  };
  const skin = (joints: readonly (typeof hips)[], seed: number) => {
    const binds = Float32Array.from({ length: joints.length * 16 }, (_, i) => (i % 16 === 15 || i % 5 === 0 ? 1 : 0));
    // Each with a place and a scale of its own.
    joints.forEach((_, k) => {
      for (const c of [0, 5, 10]) binds[k * 16 + c] = 1 + 0.1 * k;
      for (const c of [12, 13, 14]) binds[k * 16 + c] = seed * (c - 13) - 3 * k;
    });
    const made = doc.createSkin().setInverseBindMatrices(list("MAT4", binds));
    for (const one of joints) made.addJoint(one);
    return made;
  };
  const armature = doc.createNode("armature").setScale([0.01, 0.01, 0.01]).setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
  armature.addChild(hips);
  const coat = doc
    .createNode("coat")
    .setMesh(mesh(1, 3, 2).setWeights([0.4, 0]))
    .setSkin(skin([hips, spine, head], 4))
    .setWeights([0.25, -0.5]);
  const body = doc
    .createNode("body")
    .setMesh(mesh(2, 2, 1).setWeights([0.6]))
    .setSkin(skin([spine, hips], 7));
  between.setMesh(mesh(4, 0, 0));
  const hat = doc
    .createNode("hat")
    .setMesh(mesh(5, 0, 1).setWeights([1]))
    .setTranslation([0, 12, 0])
    .setRotation([0, 0, Math.sin(0.3), Math.cos(0.3)])
    .setScale([2, 2, 2]);
  head.addChild(hat);
  const scene = doc.createScene();
  for (const node of [armature, coat, body]) scene.addChild(node);
  return new NodeIO().writeBinary(doc);
}

describe("a body of several skins", () => {
  it("with rigid pieces on its joints and morph targets stands where three.js has it, bent any way", async () => {
    const bytes = await madeUp();
    const file = readGltf(bytes, { fileName: "made-up.glb" });
    const skin = readSkin(file, "made-up.glb");
    if (!skin) throw new Error("no skin");
    expect(skin.parts).toHaveLength(4);
    const { skeleton, clip } = file;
    const draft = ClipDraft.make("bent", 30, 1, skeleton.names.length, clip.positionJoints);
    const { scene } = await new GLTFLoader().parseAsync(bytes.slice().buffer, "");
    skeleton.names.forEach((name, j) => {
      const [x, y, z, w] = skeleton.restRotations.subarray(j * 4, j * 4 + 4);
      const turns = ["hips", "spine", "head"].includes(name) ? 0.7 * Math.sin(j + 1) : 0;
      const q = new Quaternion(x, y, z, w).multiply(new Quaternion().setFromAxisAngle(new Vector3(1, 2, 3).normalize(), turns));
      draft.setRotation(j, 0, [q.x, q.y, q.z, q.w]);
      scene.getObjectByName(name)?.quaternion.copy(q);
    });
    Array.from(clip.positionJoints).forEach((joint, slot) => {
      draft.setPosition(slot, 0, [...skeleton.offsets.subarray(joint * 3, joint * 3 + 3)]);
    });
    scene.updateMatrixWorld(true);
    const world = clipWorld(skeleton, draft.done());
    const expected: number[][] = [];
    scene.traverse((object) => {
      if (!("isMesh" in object)) return;
      const mesh = object as Mesh;
      const v = new Vector3();
      const all: number[] = [];
      for (let i = 0; i < mesh.geometry.attributes.position.count; i++) all.push(...mesh.getVertexPosition(i, v).applyMatrix4(mesh.matrixWorld).toArray());
      expected.push(all);
    });
    const ours = skin.parts.map((part) => [...skinnedVertices(skin, part, world.positions, world.rotations)]);
    expect(expected).toHaveLength(ours.length);
    // In whatever order either lists its meshes: each has exactly one that agrees.
    for (const places of ours) {
      const agree = expected.filter((theirs) => theirs.every((v, i) => Math.abs(v - places[i]) < 1e-5));
      expect(agree).toHaveLength(1);
    }
    for (const part of skin.parts) for (let o = 0; o < part.normals.length; o += 3) expect(Math.hypot(...part.normals.subarray(o, o + 3))).toBeCloseTo(1, 5);
  });
});
