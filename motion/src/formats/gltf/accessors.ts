import { MotionFormatError } from "../errors.ts";
import type { GltfContainer } from "./container.ts";
import { decodeMeshopt } from "./decoders.ts";
import { type GltfAccessor, meshoptViewSchema } from "./document.ts";

const SIZES: Readonly<Record<GltfAccessor["type"], number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
const BYTES: Readonly<Record<GltfAccessor["componentType"], number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
/** Whole numbers that stand for shares of one are divided by so much (glTF 2.0, "Animations" and "Accessors": normalized integers). */
const FULL: Readonly<Record<number, number>> = { 5120: 127, 5121: 255, 5122: 32767, 5123: 65535 };
/** Most numbers of one accessor that are read. */
const MOST_NUMBERS = 200_000_000;

/** Numbers of an accessor, [element][component], shares decoded, sparse values put in. */
export interface AccessorData {
  readonly values: Float64Array;
  readonly size: number;
  readonly count: number;
}

/** Reads an accessor whole, every byte of it inside the file. Throws MotionFormatError naming the accessor for what is not, for numbers that are none, and for compression that is not read. */
export function readAccessor(container: GltfContainer, at: number, fileName: string): AccessorData {
  const fail = (problem: string) => new MotionFormatError(`accessor ${at}: ${problem}`, 0, fileName);
  const accessor = container.doc.accessors[at];
  if (!accessor) throw fail("there is none of this number");
  const size = SIZES[accessor.type];
  const { count, componentType } = accessor;
  if (count * size > MOST_NUMBERS) throw fail(`it says that it holds ${count} elements, more than are read`);
  const bytes = BYTES[componentType];
  const numberAt = (view: DataView, o: number) => {
    const value = rawNumber(view, o, componentType);
    if (!Number.isFinite(value)) throw fail("it holds a number that is none (NaN or infinite)");
    return decodedNumber(accessor, value);
  };
  let values: Float64Array;
  if (accessor.bufferView === undefined) {
    // All zeros, before sparse values are put in; what claims more than the file could say is refused.
    if (accessor.sparse === undefined) throw fail("it names no data");
    values = new Float64Array(count * size);
  } else {
    const { view, stride } = viewOf(container, accessor.bufferView, accessor.byteOffset, bytes * size, count, fail);
    values = new Float64Array(count * size);
    for (let i = 0; i < count; i++) for (let k = 0; k < size; k++) values[i * size + k] = numberAt(view, i * stride + k * bytes);
  }
  const { sparse } = accessor;
  if (sparse) {
    const indexBytes = BYTES[sparse.indices.componentType];
    const where = viewOf(container, sparse.indices.bufferView, sparse.indices.byteOffset, indexBytes, sparse.count, fail);
    const what = viewOf(container, sparse.values.bufferView, sparse.values.byteOffset, bytes * size, sparse.count, fail);
    for (let i = 0; i < sparse.count; i++) {
      const to = rawNumber(where.view, i * where.stride, sparse.indices.componentType);
      if (to >= count) throw fail(`it puts a value at ${to}, behind its end at ${count}`);
      for (let k = 0; k < size; k++) values[to * size + k] = numberAt(what.view, i * what.stride + k * bytes);
    }
  }
  return { values, size, count };
}

/** A whole number that stands for a share of one as that share; other numbers as they are. */
export function decodedNumber({ normalized, componentType }: Pick<GltfAccessor, "normalized" | "componentType">, value: number): number {
  const full = normalized ? FULL[componentType] : undefined;
  return full === undefined ? value : Math.max(-1, value / full);
}

function rawNumber(view: DataView, o: number, componentType: number): number {
  switch (componentType) {
    case 5120:
      return view.getInt8(o);
    case 5121:
      return view.getUint8(o);
    case 5122:
      return view.getInt16(o, true);
    case 5123:
      return view.getUint16(o, true);
    case 5125:
      return view.getUint32(o, true);
    default:
      return view.getFloat32(o, true);
  }
}

/** The bytes of so many elements in a buffer view, all of them inside it. */
function viewOf(
  container: GltfContainer,
  at: number,
  byteOffset: number,
  elementBytes: number,
  count: number,
  fail: (problem: string) => MotionFormatError,
): { view: DataView; stride: number } {
  const view = container.doc.bufferViews[at];
  if (!view) throw fail(`it lies in buffer view ${at}, which is not there`);
  const compressed = view.extensions?.EXT_meshopt_compression;
  const { bytes, stride } =
    compressed === undefined
      ? { bytes: bytesIn(container, at, view, fail), stride: view.byteStride ?? elementBytes }
      : decompressed(container, at, compressed, fail);
  const end = byteOffset + stride * (count - 1) + elementBytes;
  if (end > bytes.length) throw fail(`it ends at byte ${end} of buffer view ${at}, which has ${bytes.length}`);
  return { view: new DataView(bytes.buffer, bytes.byteOffset + byteOffset, bytes.length - byteOffset), stride };
}

/** The bytes that a buffer view (or what its compression says) names, all of them inside the file. */
function bytesIn(
  { buffers }: GltfContainer,
  at: number,
  { buffer, byteOffset, byteLength }: { readonly buffer: number; readonly byteOffset: number; readonly byteLength: number },
  fail: (problem: string) => MotionFormatError,
): Uint8Array {
  const whole = buffers[buffer];
  if (!whole) throw fail(`its buffer ${buffer} is not in the file`);
  if (byteOffset + byteLength > whole.length)
    throw fail(`buffer view ${at} ends at byte ${byteOffset + byteLength}, behind its buffer's end at ${whole.length}`);
  return whole.subarray(byteOffset, byteOffset + byteLength);
}

/** Most bytes that all compressed views of a file may come to. */
const MOST_DECOMPRESSED = 512 * 1024 * 1024;

interface Decompressed {
  readonly bytes: Uint8Array;
  readonly stride: number;
}
const known = new WeakMap<GltfContainer, Map<number, Decompressed>>();

/** A compressed buffer view as it is meant, decoded once for a file. */
function decompressed(container: GltfContainer, at: number, said: unknown, fail: (problem: string) => MotionFormatError): Decompressed {
  const made = known.get(container) ?? new Map<number, Decompressed>();
  known.set(container, made);
  const before = made.get(at);
  if (before) return before;
  const parsed = meshoptViewSchema.safeParse(said);
  if (!parsed.success) throw fail(`buffer view ${at} does not say rightly how it is compressed (${parsed.error.issues[0].path.join(".")})`);
  const { count, byteStride } = parsed.data;
  const sofar = [...made.values()].reduce((sum, { bytes }) => sum + bytes.length, 0);
  if (count * byteStride + sofar > MOST_DECOMPRESSED) throw fail(`buffer view ${at} would be ${count * byteStride} bytes long, more than are read`);
  const source = bytesIn(container, at, parsed.data, fail);
  try {
    const out = { bytes: decodeMeshopt(source, parsed.data), stride: byteStride };
    made.set(at, out);
    return out;
  } catch (error) {
    throw fail(`buffer view ${at} cannot be decompressed (${error instanceof Error ? error.message : String(error)})`);
  }
}
