import type { SkinPart } from "../../character/skin.ts";
import { MotionFormatError } from "../errors.ts";
import { type AccessorData, decodedNumber, readAccessor } from "./accessors.ts";
import type { GltfContainer } from "./container.ts";
import { type DracoMesh, decodeDraco } from "./decoders.ts";
import { materialOf } from "./material.ts";
import type { Meshes, Primitive } from "./meshes.ts";

/** Most places of morph targets of one part that are shown moving. */
const MOST_FACE = 8_000_000;
/** Most vertices of one body that are read. */
const MOST_VERTICES = 4_000_000;

/** What moves the vertices of a mesh: the binds of its skin, or the one joint that it hangs on. */
export interface Hanging {
  readonly firstBind: number;
  readonly bindCount: number;
  readonly rigid: boolean;
}

/** What weighs morph targets in a motion: [frame][target], `size` of them. */
export interface MovingWeights {
  readonly fps: number;
  readonly values: Float32Array;
  readonly size: number;
}

/** What weighs the morph targets of a mesh at rest ([target], 0 where it says nothing), and in the motion that was read. */
export interface Morphs {
  readonly rest: readonly number[];
  readonly moving: MovingWeights | null;
}

/**
 * A primitive of a mesh as a part of a skin; null for points and lines. Morph targets are laid on as they weigh at rest; those that move come along. Throws
 * MotionFormatError.
 */
export function readPart(
  container: GltfContainer,
  meshes: Meshes,
  primitive: Primitive,
  { firstBind, bindCount, rigid }: Hanging,
  { rest, moving }: Morphs,
  fileName: string,
): SkinPart | null {
  const { material, mode, targets } = primitive;
  if (mode < 4) return null;
  const draco = dracoOf(container, primitive, fileName);
  try {
    const read = (name: string) => attributeOf(container, primitive, draco, name, fileName);
    const places = read("POSITION");
    if (!places || places.size !== 3) return null;
    const { count } = places;
    if (count > MOST_VERTICES) throw new MotionFormatError(`it has a mesh of ${count} vertices, more than are read`, 0, fileName);
    const fits = (data: AccessorData | null, size: number) => {
      if (data && (data.count < count || data.size < size))
        throw new MotionFormatError(`a mesh has ${count} vertices and ${data.count} of what belongs to them`, 0, fileName);
      return data;
    };
    const triangles = trianglesOf(cornersOf(container, primitive, draco, fileName), count, draco ? 4 : mode);
    if (triangles.some((i) => i >= count)) throw new MotionFormatError(`a mesh of ${count} vertices has a triangle with one behind the last`, 0, fileName);
    const positions = Float32Array.from(places.values);
    const normals = fits(read("NORMAL"), 3);
    const own = normals ? Float32Array.from(normals.values.subarray(0, count * 3)) : null;
    targets.forEach((target, i) => {
      const weight = rest[i] ?? 0;
      if (weight === 0) return;
      const moved = (name: string) => (target[name] === undefined ? null : fits(readAccessor(container, target[name], fileName), 3));
      moved("POSITION")?.values.forEach((v, k) => {
        positions[k] += weight * v;
      });
      if (own) moved("NORMAL")?.values.forEach((v, k) => (own[k] += weight * v));
    });
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
      normals: own ? ofUnitLength(own) : normalsOf(positions, triangles),
      indices: triangles,
      binds,
      weights,
      colours: colours && Float32Array.from({ length: count * 3 }, (_, i) => colours.values[Math.floor(i / 3) * colours.size + (i % 3)]),
      uvs: uvs && Float32Array.from(uvs.values.subarray(0, count * 2)),
      material: materialOf(container, meshes, material),
      face:
        moving && moving.size === targets.length && targets.length * count <= MOST_FACE
          ? {
              targets: targets.map((target) => {
                const moved = (name: string) => {
                  const data = target[name] === undefined ? null : fits(readAccessor(container, target[name], fileName), 3);
                  return data && Float32Array.from(data.values.subarray(0, count * 3));
                };
                return { positions: moved("POSITION") ?? new Float32Array(count * 3), normals: own && moved("NORMAL") };
              }),
              rest: Float32Array.from(targets, (_, i) => rest[i] ?? 0),
              fps: moving.fps,
              weights: moving.values,
            }
          : null,
    };
  } finally {
    draco?.free();
  }
}

/** The mesh behind a primitive's compression; null where it has none. */
function dracoOf(container: GltfContainer, { attributes, extensions }: Primitive, fileName: string): DracoMesh | null {
  const compressed = extensions?.KHR_draco_mesh_compression;
  if (!compressed) return null;
  const fail = (problem: string) => new MotionFormatError(`its mesh is compressed (KHR_draco_mesh_compression) and cannot be read: ${problem}`, 0, fileName);
  const view = container.doc.bufferViews[compressed.bufferView];
  const buffer = view && container.buffers[view.buffer];
  if (!buffer || view.byteOffset + view.byteLength > buffer.length) throw fail(`buffer view ${compressed.bufferView} is not in the file`);
  const said = container.doc.accessors[attributes.POSITION ?? -1]?.count;
  if (said === undefined || said > MOST_VERTICES) throw fail(`it says that it has ${said ?? "no"} vertices`);
  let mesh: DracoMesh;
  try {
    mesh = decodeDraco(buffer.subarray(view.byteOffset, view.byteOffset + view.byteLength), MOST_VERTICES);
  } catch (error) {
    throw fail(error instanceof Error ? error.message : String(error));
  }
  if (mesh.vertices === said) return mesh;
  mesh.free();
  throw fail(`it holds ${mesh.vertices} vertices, where ${said} are said`);
}

function attributeOf(container: GltfContainer, primitive: Primitive, draco: DracoMesh | null, name: string, fileName: string): AccessorData | null {
  const at = primitive.attributes[name];
  if (at === undefined) return null;
  const id = primitive.extensions?.KHR_draco_mesh_compression?.attributes[name];
  if (!draco || id === undefined) return readAccessor(container, at, fileName);
  const accessor = container.doc.accessors[at];
  const stored = accessor && draco.attribute(id, accessor.componentType);
  if (!stored) throw new MotionFormatError(`its compressed mesh holds no ${name} as accessor ${at} has it`, 0, fileName);
  const values = Float64Array.from(stored.values, (v) => decodedNumber(accessor, v));
  if (!values.every(Number.isFinite)) throw new MotionFormatError(`its compressed mesh holds a number that is none in its ${name}`, 0, fileName);
  return { values, size: stored.size, count: draco.vertices };
}

function cornersOf(container: GltfContainer, { indices }: Primitive, draco: DracoMesh | null, fileName: string): ArrayLike<number> | null {
  if (draco) return draco.indices;
  if (indices === undefined) return null;
  const corners = readAccessor(container, indices, fileName);
  if (corners.size !== 1) throw new MotionFormatError(`accessor ${indices} is no list of a mesh's vertices`, 0, fileName);
  return corners.values;
}

function ofUnitLength(normals: Float32Array): Float32Array {
  for (let o = 0; o < normals.length; o += 3) {
    const length = Math.hypot(normals[o], normals[o + 1], normals[o + 2]) || 1;
    for (let i = 0; i < 3; i++) normals[o + i] /= length;
  }
  return normals;
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
  return ofUnitLength(normals);
}
