import { Document, NodeIO } from "@gltf-transform/core";
import { restWorld } from "@stride/motion";
import type { Character } from "../characters.ts";
import type { Colour, Shell } from "./surface.ts";
import { fieldNormals, surfaceOf } from "./surface.ts";
import { weightsOf } from "./weights.ts";

/**
 * A body as a GLB: a node a joint in its rest pose (soles on the floor, +Y up, facing +Z, metres), ends of chains as nodes that no skin names, one skinned mesh whose shells are
 * its primitives, their colours on the vertices.
 */
export async function bodyFile({ name, skeleton }: Character, shells: readonly Shell[]): Promise<{ bytes: Uint8Array; vertices: number; triangles: number }> {
  const doc = new Document();
  doc.getRoot().getAsset().generator = "Patch Stride";
  const buffer = doc.createBuffer();
  const scene = doc.createScene(name);
  doc.getRoot().setDefaultScene(scene);
  const built = [];
  for (const shell of shells) {
    const surface = await surfaceOf(shell);
    built.push({ shell, surface, normals: fieldNormals(shell, surface), weights: weightsOf(skeleton, surface, shell.joints) });
  }
  const lowest = Math.min(...built.map(({ surface }) => surface.positions.reduce((least, v, i) => (i % 3 === 1 ? Math.min(least, v) : least), 0)));
  const { positions } = restWorld(skeleton);
  const nodes = skeleton.names.map((joint, j) => {
    const node = doc.createNode(joint);
    const offset = [...skeleton.offsets.subarray(j * 3, j * 3 + 3)];
    if (skeleton.parents[j] < 0) offset[1] -= lowest;
    return node.setTranslation(offset as [number, number, number]);
  });
  nodes.forEach((node, j) => {
    if (skeleton.parents[j] < 0) scene.addChild(node);
    else nodes[skeleton.parents[j]].addChild(node);
  });
  for (const { joint, offset } of skeleton.tips)
    nodes[joint].addChild(doc.createNode(`${skeleton.names[joint]}End`).setTranslation([offset[0], offset[1], offset[2]]));
  const skin = doc.createSkin(name).setSkeleton(nodes[0]);
  for (const node of nodes) skin.addJoint(node);
  const binds = new Float32Array(nodes.length * 16);
  nodes.forEach((_, j) => {
    binds.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -positions[j * 3], lowest - positions[j * 3 + 1], -positions[j * 3 + 2], 1], j * 16);
  });
  skin.setInverseBindMatrices(doc.createAccessor().setType("MAT4").setArray(binds).setBuffer(buffer));
  const mesh = doc.createMesh(name);
  let [vertices, triangles] = [0, 0];
  for (const { shell, surface, normals, weights } of built) {
    const placed = surface.positions.map((v, i) => (i % 3 === 1 ? v - lowest : v));
    const count = placed.length / 3;
    vertices += count;
    triangles += surface.indices.length / 3;
    const colours = new Uint8Array(count * 4);
    for (let v = 0; v < count; v++) {
      const c = shell.colour(surface.positions[v * 3], surface.positions[v * 3 + 1], surface.positions[v * 3 + 2]);
      colours.set([...linear(c).map((x) => Math.round(x * 255)), 255], v * 4);
    }
    const { joints, shares } = bytesOf(weights.joints, weights.shares);
    const accessor = (type: "VEC3" | "VEC4" | "SCALAR", array: Float32Array | Uint8Array | Uint16Array, normalized = false) =>
      doc.createAccessor().setType(type).setArray(array).setNormalized(normalized).setBuffer(buffer);
    mesh.addPrimitive(
      doc
        .createPrimitive()
        .setAttribute("POSITION", accessor("VEC3", placed))
        .setAttribute("NORMAL", accessor("VEC3", normals))
        .setAttribute("COLOR_0", accessor("VEC4", colours, true))
        .setAttribute("JOINTS_0", accessor("VEC4", joints))
        .setAttribute("WEIGHTS_0", accessor("VEC4", shares, true))
        .setIndices(accessor("SCALAR", Uint16Array.from(surface.indices)))
        .setMaterial(doc.createMaterial(shell.name).setRoughnessFactor(0.9).setMetallicFactor(0)),
    );
  }
  scene.addChild(doc.createNode(`${name} body`).setMesh(mesh).setSkin(skin));
  return { bytes: await new NodeIO().writeBinary(doc), vertices, triangles };
}

/** sRGB to linear light (IEC 61966-2-1). */
function linear(colour: Colour): number[] {
  return colour.map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4));
}

/** Joints and shares in a byte each; a vertex's shares sum to 255. */
function bytesOf(joints: Uint16Array, shares: Float32Array): { joints: Uint8Array; shares: Uint8Array } {
  const out = shares.map((v) => Math.round(v * 255));
  for (let v = 0; v < out.length; v += 4) out[v] += 255 - (out[v] + out[v + 1] + out[v + 2] + out[v + 3]);
  return { joints: Uint8Array.from(joints, (j, i) => (out[i] > 0 ? j : 0)), shares: Uint8Array.from(out) };
}
