import { MotionFormatError } from "../errors.ts";
import type { GltfContainer } from "./container.ts";
import type { GltfAccessor } from "./document.ts";

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
  const full = accessor.normalized ? FULL[componentType] : undefined;
  const decode = (value: number) => (full === undefined ? value : Math.max(-1, value / full));
  const numberAt = (view: DataView, o: number) => {
    const value = rawNumber(view, o, componentType);
    if (!Number.isFinite(value)) throw fail("it holds a number that is none (NaN or infinite)");
    return decode(value);
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
  { doc, buffers }: GltfContainer,
  at: number,
  byteOffset: number,
  elementBytes: number,
  count: number,
  fail: (problem: string) => MotionFormatError,
): { view: DataView; stride: number } {
  const view = doc.bufferViews[at];
  if (!view) throw fail(`it lies in buffer view ${at}, which is not there`);
  if (view.extensions?.EXT_meshopt_compression) throw fail("it is compressed (EXT_meshopt_compression); save the file without that for its motion to be read");
  const buffer = buffers[view.buffer];
  if (!buffer) throw fail(`its buffer ${view.buffer} is not in the file`);
  if (view.byteOffset + view.byteLength > buffer.length)
    throw fail(`buffer view ${at} ends at byte ${view.byteOffset + view.byteLength}, behind its buffer's end at ${buffer.length}`);
  const stride = view.byteStride ?? elementBytes;
  const end = byteOffset + stride * (count - 1) + elementBytes;
  if (end > view.byteLength) throw fail(`it ends at byte ${end} of buffer view ${at}, which has ${view.byteLength}`);
  return { view: new DataView(buffer.buffer, buffer.byteOffset + view.byteOffset + byteOffset, view.byteLength - byteOffset), stride };
}
