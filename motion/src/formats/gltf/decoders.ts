import type { DecoderModule, Mesh } from "draco3d";
import type { FileBytes } from "../format.ts";
import { allBytes } from "./container.ts";

// Compressed data of glTF files: EXT_meshopt_compression (buffer views) and KHR_draco_mesh_compression (meshes). The decoders are WebAssembly, which is made ready
// without waiting for it in no other way than this: a file that needs one is looked at beforehand, reading itself waits for nothing.

const MESHOPT = "EXT_meshopt_compression";
const DRACO = "KHR_draco_mesh_compression";

type MeshoptDecoder = typeof import("meshoptimizer/decoder")["MeshoptDecoder"];

let meshopt: MeshoptDecoder | null = null;
let draco: DecoderModule | null = null;
let dracoBinary: (() => Promise<ArrayBuffer>) | null = null;

/** Says where the Draco decoder's WebAssembly comes from where its package cannot find it beside itself: in a page. */
export function setDracoBinary(fetchBinary: () => Promise<ArrayBuffer>): void {
  dracoBinary = fetchBinary;
}

/** Loads the decoders that a file names, so that it can be read; a file that names none costs a look through its text. */
export async function makeDecodersReady(bytes: FileBytes): Promise<void> {
  const text = new TextDecoder("latin1").decode(documentOf(allBytes(bytes)));
  if (!meshopt && text.includes(MESHOPT)) {
    const { MeshoptDecoder } = await import("meshoptimizer/decoder");
    await MeshoptDecoder.ready;
    meshopt = MeshoptDecoder;
  }
  if (!draco && text.includes(DRACO)) {
    const { createDecoderModule } = (await import("draco3d")).default;
    draco = await createDecoderModule(dracoBinary ? { wasmBinary: await dracoBinary() } : {});
  }
}

const GLB_MAGIC = 0x46546c67;
const LONGEST_LOOK = 128 * 1024 * 1024;

/** The JSON part of a GLB, or the whole of a text. */
function documentOf(all: Uint8Array): Uint8Array {
  const view = new DataView(all.buffer, all.byteOffset, all.byteLength);
  if (all.length < 20 || view.getUint32(0, true) !== GLB_MAGIC) return all.subarray(0, LONGEST_LOOK);
  return all.subarray(20, Math.min(20 + view.getUint32(12, true), 20 + LONGEST_LOOK));
}

/** How a buffer view is compressed, as its extension says. */
export interface MeshoptView {
  readonly count: number;
  readonly byteStride: number;
  readonly mode: "ATTRIBUTES" | "TRIANGLES" | "INDICES";
  readonly filter: "NONE" | "OCTAHEDRAL" | "QUATERNION" | "EXPONENTIAL";
}

/** The bytes of a compressed buffer view, [count][byteStride]. Throws an Error for data that is none. */
export function decodeMeshopt(source: Uint8Array, { count, byteStride, mode, filter }: MeshoptView): Uint8Array {
  if (!meshopt) throw new Error("its decoder has not been made ready");
  const target = new Uint8Array(count * byteStride);
  meshopt.decodeGltfBuffer(target, count, byteStride, source, mode, filter);
  return target;
}

/** A mesh taken out of its compression. */
export interface DracoMesh {
  readonly vertices: number;
  readonly indices: Uint32Array;
  /** Numbers of an attribute by its id, [vertex][components], as stored in a component type of glTF's; null where it has none of this id. */
  attribute(id: number, componentType: number): { readonly values: ArrayLike<number>; readonly size: number } | null;
  free(): void;
}

/** Decodes a mesh; `most` is how many vertices are read. Throws an Error for data that is none, or more. The mesh has to be freed. */
export function decodeDraco(source: Uint8Array, most: number): DracoMesh {
  if (!draco) throw new Error("its decoder has not been made ready");
  const made = draco;
  const decoder = new made.Decoder();
  const buffer = new made.DecoderBuffer();
  const mesh: Mesh = new made.Mesh();
  const free = () => {
    for (const one of [mesh, buffer, decoder]) made.destroy(one);
  };
  try {
    buffer.Init(new Int8Array(source.buffer, source.byteOffset, source.byteLength), source.byteLength);
    if (decoder.GetEncodedGeometryType(buffer) !== made.TRIANGULAR_MESH) throw new Error("it is no mesh of triangles");
    const status = decoder.DecodeBufferToMesh(buffer, mesh);
    if (!status.ok()) throw new Error(status.error_msg());
    const [vertices, faces] = [mesh.num_points(), mesh.num_faces()];
    if (vertices > most || faces > 4 * most) throw new Error(`it holds ${vertices} vertices, more than are read`);
    const taken = <T extends Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Float32Array>(
      kind: { new (buffer: ArrayBufferLike, offset: number, length: number): T },
      length: number,
      bytes: number,
      fill: (byteLength: number, at: number) => void,
    ): T => {
      const at = made._malloc(Math.max(1, length * bytes));
      try {
        fill(length * bytes, at);
        return new kind(made.HEAPU8.buffer, at, length).slice() as T;
      } finally {
        made._free(at);
      }
    };
    const indices = taken(Uint32Array, faces * 3, 4, (bytes, at) => decoder.GetTrianglesUInt32Array(mesh, bytes, at));
    const kinds = {
      5120: [Int8Array, 1, made.DT_INT8],
      5121: [Uint8Array, 1, made.DT_UINT8],
      5122: [Int16Array, 2, made.DT_INT16],
      5123: [Uint16Array, 2, made.DT_UINT16],
      5125: [Uint32Array, 4, made.DT_UINT32],
      5126: [Float32Array, 4, made.DT_FLOAT32],
    } as const;
    return {
      vertices,
      indices,
      attribute(id, componentType) {
        const attribute = decoder.GetAttributeByUniqueId(mesh, id);
        const kind = kinds[componentType as keyof typeof kinds];
        if (!attribute || !kind) return null;
        const size = attribute.num_components();
        const fill = (bytes: number, at: number) => decoder.GetAttributeDataArrayForAllPoints(mesh, attribute, kind[2], bytes, at);
        return { values: taken<Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Float32Array>(kind[0], vertices * size, kind[1], fill), size };
      },
      free,
    };
  } catch (error) {
    // What has run out of memory is not used again.
    if (error instanceof Error && error.name === "RuntimeError") draco = null;
    else free();
    throw error;
  }
}
