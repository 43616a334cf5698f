import { multiplyMatrixFlat, placeMatrix, type Skin, type SkinPart } from "../../character/skin.ts";
import { restWorld } from "../../skeleton/skeleton.ts";
import { MotionFormatError } from "../errors.ts";
import { readAccessor } from "./accessors.ts";
import { meshesSchema } from "./meshes.ts";
import { type Hanging, type MovingWeights, readPart } from "./primitive.ts";
import type { GltfFile } from "./read.ts";
import { valuesAt } from "./samplers.ts";
import { type NodeRest, restOfNode } from "./tree.ts";

/**
 * The surface of the body that a file holds; null where it has none. Meshes without a skin move with the joint that they hang on. Pictures inside the file come along, those outside
 * are never fetched. Throws MotionFormatError for meshes that cannot be read.
 */
export function readSkin(file: GltfFile, fileName: string): Skin | null {
  const { container, tree } = file.layout;
  const parsed = meshesSchema.safeParse(container.json);
  if (!parsed.success) throw new MotionFormatError(`its meshes are not as glTF 2.0 has them (${parsed.error.issues[0].path.join(".")})`, 0, fileName);
  const { doc } = container;
  const globals = globalRests(doc.nodes, file.unitScale);
  const jointOf = new Map(tree.nodes.map((node, joint) => [node, joint]));
  const at = restWorld(file.skeleton);
  const fromWorld = tree.nodes.map((_, joint) => inverseOfPlace(at.positions, at.rotations, joint));
  const joints: number[] = [];
  const binds: number[] = [];
  const parts: SkinPart[] = [];
  const m = new Float64Array(16);
  const addBind = (joint: number, node: number, then: ArrayLike<number> | null) => {
    multiplyMatrixFlat(m, 0, fromWorld[joint], 0, globals[node], 0);
    if (then) multiplyMatrixFlat(m, 0, Float64Array.from(m), 0, then, 0);
    joints.push(joint);
    binds.push(...m);
  };
  const firstBindOf = new Map<number, number>();
  const parent = parentsOf(doc.nodes);
  const faces = facesOf(file, fileName);
  doc.nodes.forEach(({ mesh, skin: skinAt, weights }, node) => {
    if (mesh === undefined) return;
    const own = parsed.data.meshes[mesh];
    if (!own) throw new MotionFormatError(`node ${node} draws mesh ${mesh}, which is not there`, 0, fileName);
    let firstBind = joints.length;
    const rigid = skinAt === undefined;
    if (skinAt !== undefined) {
      const skin = doc.skins[skinAt];
      if (!skin) throw new MotionFormatError(`node ${node} names skin ${skinAt}, which is not there`, 0, fileName);
      const known = firstBindOf.get(skinAt);
      if (known !== undefined) firstBind = known;
      else {
        const inverse = skin.inverseBindMatrices === undefined ? null : readAccessor(container, skin.inverseBindMatrices, fileName);
        if (inverse && (inverse.size !== 16 || inverse.count < skin.joints.length))
          throw new MotionFormatError(`skin ${skinAt} has ${inverse.count} bind matrices for ${skin.joints.length} joints`, 0, fileName);
        firstBindOf.set(skinAt, firstBind);
        skin.joints.forEach((joint, k) => {
          addBind(jointOf.get(joint) as number, joint, inverse ? inverse.values.subarray(k * 16, k * 16 + 16) : null);
        });
      }
    } else {
      let above = node;
      while (above >= 0 && !jointOf.has(above)) above = parent[above];
      if (above < 0) return;
      addBind(jointOf.get(above) as number, node, null);
    }
    const hanging: Hanging = { firstBind, bindCount: rigid ? 1 : doc.skins[skinAt].joints.length, rigid };
    for (const primitive of own.primitives) {
      const part = readPart(container, parsed.data, primitive, hanging, { rest: weights ?? own.weights, moving: faces.get(node) ?? null }, fileName);
      if (part) parts.push(part);
    }
  });
  if (parts.length === 0) return null;
  return { parts, joints: Int32Array.from(joints), binds: Float64Array.from(binds) };
}

/** What weighs the morph targets of each node in the animation that was read, a frame of its clip each. */
function facesOf({ layout: { container, take, begin }, clip }: GltfFile, fileName: string): Map<number, MovingWeights> {
  const out = new Map<number, MovingWeights>();
  const animation = take === null ? null : container.doc.animations[take];
  const moments = Float64Array.from({ length: clip.frameCount }, (_, f) => begin + f / clip.fps);
  for (const { sampler, target } of animation?.channels ?? []) {
    if (target.path !== "weights" || target.node === undefined || !animation?.samplers[sampler]) continue;
    const read = valuesAt(container, animation.samplers[sampler], "weights", moments, fileName);
    if (read) out.set(target.node, { fps: clip.fps, ...read });
  }
  return out;
}

function parentsOf(nodes: GltfFile["layout"]["container"]["doc"]["nodes"]): Int32Array {
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach(({ children = [] }, node) => {
    for (const child of children) parent[child] = node;
  });
  return parent;
}

/** Each node's place at rest in the world as a matrix, its scales in it, in metres. */
function globalRests(nodes: GltfFile["layout"]["container"]["doc"]["nodes"], unitScale: number): Float64Array[] {
  const out: Float64Array[] = [];
  const parent = parentsOf(nodes);
  const scale = Float64Array.of(unitScale, 0, 0, 0, 0, unitScale, 0, 0, 0, 0, unitScale, 0, 0, 0, 0, 1);
  for (const node of nodes.keys()) {
    const chain: number[] = [];
    for (let n = node; n >= 0 && !out[n]; n = parent[n]) chain.push(n);
    for (let n = chain.pop(); n !== undefined; n = chain.pop()) {
      out[n] = new Float64Array(16);
      multiplyMatrixFlat(out[n], 0, parent[n] < 0 ? scale : out[parent[n]], 0, matrixOf(restOfNode(nodes[n])), 0);
    }
  }
  return out;
}

function matrixOf({ translation, rotation, scale }: NodeRest): Float64Array {
  const m = placeMatrix(translation, 0, rotation, 0);
  for (let c = 0; c < 3; c++) for (let r = 0; r < 3; r++) m[c * 4 + r] *= scale[c];
  return m;
}

function inverseOfPlace(positions: ArrayLike<number>, rotations: ArrayLike<number>, joint: number): Float64Array {
  const m = placeMatrix(positions, joint * 3, rotations, joint * 4);
  const [x, y, z] = [m[12], m[13], m[14]];
  const dot = (c: number) => m[c] * x + m[c + 1] * y + m[c + 2] * z;
  return Float64Array.of(m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, -dot(0), -dot(4), -dot(8), 1);
}
