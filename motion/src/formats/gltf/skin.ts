import { z } from "zod";
import { multiplyMatrixFlat, placeMatrix, type Skin, type SkinMaterial, type SkinPart } from "../../character/skin.ts";
import { restWorld } from "../../skeleton/skeleton.ts";
import { MotionFormatError } from "../errors.ts";
import { type AccessorData, readAccessor } from "./accessors.ts";
import type { GltfContainer } from "./container.ts";
import type { GltfFile } from "./read.ts";
import { type NodeRest, restOfNode } from "./tree.ts";

// What of a document's meshes a skin is read from (glTF 2.0, "Meshes", "Skins", "Materials").
const index = z.int().min(0);
const primitiveSchema = z.object({
  attributes: z.record(z.string(), index),
  indices: index.optional(),
  material: index.optional(),
  mode: z.int().min(0).max(6).default(4),
  extensions: z.record(z.string(), z.unknown()).optional(),
});
const textureSchema = z.object({ index, texCoord: index.optional() });
const materialSchema = z.object({
  name: z.string().default(""),
  pbrMetallicRoughness: z
    .object({ baseColorFactor: z.array(z.number()).length(4).optional(), baseColorTexture: textureSchema.optional(), roughnessFactor: z.number().optional() })
    .optional(),
  doubleSided: z.boolean().default(false),
});
const meshesSchema = z.object({
  meshes: z.array(z.object({ name: z.string().optional(), primitives: z.array(primitiveSchema) })).default([]),
  materials: z.array(materialSchema).default([]),
  textures: z.array(z.object({ source: index.optional() })).default([]),
  images: z.array(z.object({ mimeType: z.string().optional(), bufferView: index.optional(), uri: z.string().optional() })).default([]),
});
type Meshes = z.infer<typeof meshesSchema>;
type Primitive = z.infer<typeof primitiveSchema>;

/** Most vertices of one body that are read. */
const MOST_VERTICES = 4_000_000;

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
  doc.nodes.forEach(({ mesh, skin: skinAt }, node) => {
    if (mesh === undefined) return;
    const own = parsed.data.meshes[mesh];
    if (!own) throw new MotionFormatError(`node ${node} draws mesh ${mesh}, which is not there`, 0, fileName);
    let firstBind = joints.length;
    let rigid = false;
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
      rigid = true;
      addBind(jointOf.get(above) as number, node, null);
    }
    for (const primitive of own.primitives) {
      const part = readPart(container, parsed.data, primitive, firstBind, rigid ? 1 : (doc.skins[skinAt as number]?.joints.length ?? 1), rigid, fileName);
      if (part) parts.push(part);
    }
  });
  if (parts.length === 0) return null;
  return { parts, joints: Int32Array.from(joints), binds: Float64Array.from(binds) };
}

function readPart(
  container: GltfContainer,
  meshes: Meshes,
  { attributes, indices, material, mode, extensions }: Primitive,
  firstBind: number,
  bindCount: number,
  rigid: boolean,
  fileName: string,
): SkinPart | null {
  if (mode < 4) return null;
  if (extensions?.KHR_draco_mesh_compression)
    throw new MotionFormatError("its mesh is compressed (KHR_draco_mesh_compression); save the file without that for its body to be shown", 0, fileName);
  const read = (name: string) => (attributes[name] === undefined ? null : readAccessor(container, attributes[name], fileName));
  const places = read("POSITION");
  if (!places || places.size !== 3) return null;
  const { count } = places;
  if (count > MOST_VERTICES) throw new MotionFormatError(`it has a mesh of ${count} vertices, more than are read`, 0, fileName);
  const fits = (data: AccessorData | null, size: number) => {
    if (data && (data.count < count || data.size < size))
      throw new MotionFormatError(`a mesh has ${count} vertices and ${data.count} of what belongs to them`, 0, fileName);
    return data;
  };
  const corners = indices === undefined ? null : readAccessor(container, indices, fileName);
  if (corners && corners.size !== 1) throw new MotionFormatError(`accessor ${indices} is no list of a mesh's vertices`, 0, fileName);
  const triangles = trianglesOf(corners && corners.values, count, mode);
  if (triangles.some((i) => i >= count)) throw new MotionFormatError(`a mesh of ${count} vertices has a triangle with one behind the last`, 0, fileName);
  const positions = Float32Array.from(places.values);
  const normals = fits(read("NORMAL"), 3);
  const { binds, weights } = rigid
    ? { binds: new Uint16Array(count * 4).fill(firstBind), weights: Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 === 0 ? 1 : 0)) }
    : heaviest(
        [0, 1].map((set) => [fits(read(`JOINTS_${set}`), 4), fits(read(`WEIGHTS_${set}`), 4)] as const),
        count,
        firstBind,
        bindCount,
        fileName,
      );
  const colours = fits(read("COLOR_0"), 3);
  const uvs = fits(read("TEXCOORD_0"), 2);
  return {
    positions,
    normals: normals ? Float32Array.from(normals.values.subarray(0, count * 3)) : normalsOf(positions, triangles),
    indices: triangles,
    binds,
    weights,
    colours: colours && Float32Array.from({ length: count * 3 }, (_, i) => colours.values[Math.floor(i / 3) * colours.size + (i % 3)]),
    uvs: uvs && Float32Array.from(uvs.values.subarray(0, count * 2)),
    material: materialOf(container, meshes, material),
  };
}

/** Of all that move a vertex the four that do most, summing to 1. */
function heaviest(
  sets: readonly (readonly [AccessorData | null, AccessorData | null])[],
  count: number,
  firstBind: number,
  bindCount: number,
  fileName: string,
): { binds: Uint16Array; weights: Float32Array } {
  const binds = new Uint16Array(count * 4).fill(firstBind);
  const weights = new Float32Array(count * 4);
  for (let v = 0; v < count; v++) {
    const all: { bind: number; weight: number }[] = [];
    for (const [joints, shares] of sets)
      for (let k = 0; joints && shares && k < 4; k++) {
        const [bind, weight] = [joints.values[v * 4 + k], shares.values[v * 4 + k]];
        if (!(weight > 0)) continue;
        if (bind >= bindCount) throw new MotionFormatError(`vertex ${v} hangs on joint ${bind} of a skin with ${bindCount}`, 0, fileName);
        all.push({ bind, weight });
      }
    if (all.length > 4) all.sort((a, b) => b.weight - a.weight).splice(4);
    const sum = all.reduce((total, { weight }) => total + weight, 0);
    all.forEach(({ bind, weight }, k) => {
      binds[v * 4 + k] = firstBind + bind;
      weights[v * 4 + k] = weight / sum;
    });
    if (sum === 0) weights[v * 4] = 1;
  }
  return { binds, weights };
}

/** Triangles, strips and fans as triangles (glTF 2.0, "Meshes": topology). */
function trianglesOf(indices: ArrayLike<number> | null, count: number, mode: number): Uint32Array {
  const list = indices ? Uint32Array.from(indices) : Uint32Array.from({ length: count }, (_, i) => i);
  if (mode === 4) return list.subarray(0, list.length - (list.length % 3));
  const out: number[] = [];
  for (let i = 0; i + 2 < list.length; i++) {
    if (mode === 6) out.push(list[0], list[i + 1], list[i + 2]);
    else if (i % 2 === 0) out.push(list[i], list[i + 1], list[i + 2]);
    else out.push(list[i + 1], list[i], list[i + 2]);
  }
  return Uint32Array.from(out);
}

/** Normals of a surface that says none: of the triangles around each vertex, by their areas. */
export function normalsOf(positions: Float32Array, indices: Uint32Array): Float32Array {
  const normals = new Float32Array(positions.length);
  for (let t = 0; t + 2 < indices.length; t += 3) {
    const [a, b, c] = [indices[t] * 3, indices[t + 1] * 3, indices[t + 2] * 3];
    const u = [0, 1, 2].map((i) => positions[b + i] - positions[a + i]);
    const v = [0, 1, 2].map((i) => positions[c + i] - positions[a + i]);
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    for (const o of [a, b, c]) for (let i = 0; i < 3; i++) normals[o + i] += n[i];
  }
  for (let o = 0; o < normals.length; o += 3) {
    const length = Math.hypot(normals[o], normals[o + 1], normals[o + 2]) || 1;
    for (let i = 0; i < 3; i++) normals[o + i] /= length;
  }
  return normals;
}

const PICTURES = /^image\/(png|jpeg|webp)$/;

function materialOf(container: GltfContainer, { materials, textures, images }: Meshes, at: number | undefined): SkinMaterial {
  const material = at === undefined ? undefined : materials[at];
  const pbr = material?.pbrMetallicRoughness;
  const [r, g, b, a] = pbr?.baseColorFactor ?? [1, 1, 1, 1];
  const image = pbr?.baseColorTexture && images[textures[pbr.baseColorTexture.index]?.source ?? -1];
  return {
    name: material?.name ?? "",
    colour: [r, g, b, a],
    doubleSided: material?.doubleSided ?? false,
    roughness: pbr?.roughnessFactor ?? 1,
    picture: image ? pictureOf(container, image) : null,
  };
}

function pictureOf({ doc, buffers }: GltfContainer, image: Meshes["images"][number]): SkinMaterial["picture"] {
  if (image.bufferView === undefined || !image.mimeType || !PICTURES.test(image.mimeType)) return null;
  const view = doc.bufferViews[image.bufferView];
  const buffer = view && buffers[view.buffer];
  if (!buffer || view.byteOffset + view.byteLength > buffer.length) return null;
  return { mime: image.mimeType, bytes: buffer.slice(view.byteOffset, view.byteOffset + view.byteLength) };
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
