import { type Clip, readPosition, readRotation } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { GltfContainer } from "./container.ts";
import type { GltfLayout } from "./read.ts";

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;
const FLOAT = 5126;
/** What wrote the file, as its asset says. */
const GENERATOR = "Patch Stride";

/** A document and the pieces of its one buffer. */
export interface GltfParts {
  readonly json: Record<string, unknown>;
  readonly bin: readonly Uint8Array[];
}

interface Written {
  /** its bytes in the buffer's end, and what describes them */
  readonly views: { buffer: number; byteOffset: number; byteLength: number }[];
  readonly accessors: { bufferView: number; componentType: number; count: number; type: string; min?: number[]; max?: number[] }[];
}

/**
 * Writes a clip into the file that its body came from: its animation is the one that was read, or a new one, and everything else of the document and its buffer is
 * handed on as it was, what is new behind it. One key a frame, LINEAR; a track that never changes has two keys, one that never leaves its place at rest none.
 */
export function writeIntoOwn(skeleton: Skeleton, clip: Clip, layout: GltfLayout, unitScale: number): GltfParts {
  const { container, tree, take } = layout;
  const json = JSON.parse(JSON.stringify(container.json)) as Record<string, unknown>;
  const bin = [wholeBuffer(container)];
  const list = (name: string): unknown[] => {
    if (!Array.isArray(json[name])) json[name] = [];
    return json[name] as unknown[];
  };
  // One buffer in the file itself, whatever it was made of.
  if (container.buffers.length > 1) mergeViews(json, container);
  const start = bin[0].length;
  const written = motionData(skeleton, clip, start, (joint) => tree.unit[joint] * unitScale);
  const [views, accessors, animations] = [list("bufferViews"), list("accessors"), list("animations")];
  const viewBase = views.length;
  const accessorBase = accessors.length;
  views.push(...written.data.views);
  accessors.push(...written.data.accessors.map((a) => ({ ...a, bufferView: a.bufferView + viewBase })));
  const old = take === null ? {} : (animations[take] as Record<string, unknown>);
  const { samplers: _samplers, channels: oldChannels, ...kept } = old;
  // What moves no joint (scales, morph weights) stays in the animation with its own samplers.
  const others = Array.isArray(oldChannels)
    ? oldChannels.filter((c) => !["rotation", "translation"].includes((c as { target: { path: string } }).target.path))
    : [];
  const ownSamplers = written.samplers.map((s) => ({ ...s, input: s.input + accessorBase, output: s.output + accessorBase }));
  const otherSamplers = others.map((c) => (_samplers as unknown[])[(c as { sampler: number }).sampler]);
  const animation = {
    name: clip.name,
    ...kept,
    samplers: [...ownSamplers, ...otherSamplers],
    channels: [
      ...written.channels.map(({ joint, ...c }) => ({ ...c, target: { node: tree.nodes[joint], path: c.target.path } })),
      ...others.map((c, i) => ({ ...(c as object), sampler: ownSamplers.length + i })),
    ],
  };
  withoutMatrices(list("nodes") as Record<string, unknown>[], new Set(written.channels.map(({ joint }) => joint)), tree);
  if (take === null) animations.push(animation);
  else animations[take] = animation;
  bin.push(written.bytes);
  json.buffers = [{ byteLength: start + written.bytes.length }];
  return { json, bin };
}

/** A node that is animated may not say where it is as a matrix (glTF 2.0, "Animations"): it says the same as translation, rotation and scale. */
function withoutMatrices(nodes: Record<string, unknown>[], joints: ReadonlySet<number>, { nodes: nodeOf, rest }: GltfLayout["tree"]): void {
  for (const joint of joints) {
    const { matrix, ...kept } = nodes[nodeOf[joint]];
    if (matrix !== undefined) nodes[nodeOf[joint]] = { ...kept, ...rest[joint] };
  }
}

/** A skeleton and its motion as a file of their own: a node a joint, a skin that names them, one animation, metres. */
export function writeBare(skeleton: Skeleton, clip: Clip): GltfParts {
  const nodes = skeleton.names.map((name, joint) => {
    const children = Array.from(skeleton.parents).flatMap((p, j) => (p === joint ? [j] : []));
    const at = (list: Float64Array, size: number) => Array.from(list.subarray(joint * size, joint * size + size), (v) => Math.fround(v));
    const rotation = at(skeleton.restRotations, 4);
    return {
      name,
      translation: at(skeleton.offsets, 3),
      ...(rotation[3] !== 1 && { rotation }),
      ...(children.length > 0 && { children }),
    };
  });
  const written = motionData(skeleton, clip, 0, () => 1);
  const roots = Array.from(skeleton.parents).flatMap((p, j) => (p < 0 ? [j] : []));
  const json = {
    asset: { version: "2.0", generator: GENERATOR },
    scene: 0,
    scenes: [{ nodes: roots }],
    nodes,
    animations: [
      {
        name: clip.name,
        samplers: written.samplers,
        channels: written.channels.map(({ joint, ...c }) => ({ ...c, target: { node: joint, path: c.target.path } })),
      },
    ],
    accessors: written.data.accessors,
    bufferViews: written.data.views,
    buffers: [{ byteLength: written.bytes.length }],
  };
  return { json, bin: [written.bytes] };
}

/** Tracks as bytes behind `start`, with what describes them; indices count from 0. `unit` says how many metres a unit of a joint's translation is. */
function motionData(skeleton: Skeleton, clip: Clip, start: number, unit: (joint: number) => number) {
  const pieces: Float32Array[] = [];
  const data: Written = { views: [], accessors: [] };
  let at = start;
  const add = (values: Float32Array, type: "SCALAR" | "VEC3" | "VEC4", bounds: boolean): number => {
    const size = type === "SCALAR" ? 1 : type === "VEC3" ? 3 : 4;
    data.views.push({ buffer: 0, byteOffset: at, byteLength: values.byteLength });
    data.accessors.push({
      bufferView: data.views.length - 1,
      componentType: FLOAT,
      count: values.length / size,
      type,
      ...(bounds && { min: [values[0]], max: [values[values.length - 1]] }),
    });
    pieces.push(values);
    at += values.byteLength;
    return data.accessors.length - 1;
  };
  const frames = clip.frameCount;
  const every = add(
    Float32Array.from({ length: frames }, (_, f) => f / clip.fps),
    "SCALAR",
    true,
  );
  let ends = -1;
  const samplers: { input: number; output: number; interpolation: "LINEAR" }[] = [];
  const channels: { sampler: number; joint: number; target: { path: "rotation" | "translation" } }[] = [];
  const track = (joint: number, path: "rotation" | "translation", values: Float32Array, rest: ArrayLike<number>) => {
    const size = path === "rotation" ? 4 : 3;
    const same = values.every((v, i) => v === values[i % size]);
    // A joint that never leaves its place at rest needs no track.
    if (same && Array.from(rest).every((v, i) => Math.fround(v) === values[i])) return;
    const two = same && frames > 2;
    if (two && ends < 0) ends = add(Float32Array.of(0, (frames - 1) / clip.fps), "SCALAR", true);
    const output = add(two ? Float32Array.from([...values.subarray(0, size), ...values.subarray(0, size)]) : values, size === 4 ? "VEC4" : "VEC3", false);
    samplers.push({ input: two ? ends : every, output, interpolation: "LINEAR" });
    channels.push({ sampler: samplers.length - 1, joint, target: { path } });
  };
  const q = new Float64Array(4);
  for (let joint = 0; joint < clip.jointCount; joint++) {
    const values = new Float32Array(frames * 4);
    for (let f = 0; f < frames; f++) {
      readRotation(clip, joint, f, q, 0);
      // The nearer of the two quaternions that are the same turn, so that what lies between goes the short way.
      const o = f * 4;
      const dot = f === 0 ? 1 : values[o - 4] * q[0] + values[o - 3] * q[1] + values[o - 2] * q[2] + values[o - 1] * q[3];
      for (let i = 0; i < 4; i++) values[o + i] = dot < 0 ? -q[i] : q[i];
    }
    track(joint, "rotation", values, skeleton.restRotations.subarray(joint * 4, joint * 4 + 4));
  }
  clip.positionJoints.forEach((joint, slot) => {
    const values = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      readPosition(clip, slot, f, q, 0);
      for (let i = 0; i < 3; i++) values[f * 3 + i] = q[i] / unit(joint);
    }
    track(
      joint,
      "translation",
      values,
      skeleton.offsets.subarray(joint * 3, joint * 3 + 3).map((v) => v / unit(joint)),
    );
  });
  // An animation has at least one track.
  if (channels.length === 0) {
    const values = new Float32Array(frames * 4);
    for (let f = 0; f < frames; f++) values.set(skeleton.restRotations.subarray(0, 4), f * 4);
    const output = add(values, "VEC4", false);
    samplers.push({ input: every, output, interpolation: "LINEAR" });
    channels.push({ sampler: 0, joint: 0, target: { path: "rotation" } });
  }
  const bytes = new Uint8Array(at - start);
  let to = 0;
  for (const piece of pieces) {
    bytes.set(new Uint8Array(piece.buffer, piece.byteOffset, piece.byteLength), to);
    to += piece.byteLength;
  }
  return { bytes, data, samplers, channels };
}

const padded = (n: number) => Math.ceil(n / 4) * 4;

/** All buffers of a file one behind the other, each begun on a multiple of four. */
function wholeBuffer({ buffers }: GltfContainer): Uint8Array {
  const out = new Uint8Array(buffers.reduce((sum, b) => sum + padded(b?.length ?? 0), 0));
  let at = 0;
  for (const buffer of buffers) {
    if (buffer) out.set(buffer, at);
    at += padded(buffer?.length ?? 0);
  }
  return out;
}

/** Makes buffer views say where their bytes are once all buffers are one. */
function mergeViews(json: Record<string, unknown>, { buffers }: GltfContainer): void {
  const starts: number[] = [];
  let at = 0;
  for (const buffer of buffers) {
    starts.push(at);
    at += padded(buffer?.length ?? 0);
  }
  for (const view of (json.bufferViews ?? []) as { buffer: number; byteOffset?: number }[]) {
    view.byteOffset = (view.byteOffset ?? 0) + starts[view.buffer];
    view.buffer = 0;
  }
}

/** A document and its buffer as a GLB (glTF 2.0, "GLB File Format Specification"). */
export function asGlb({ json, bin }: GltfParts): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const textLength = padded(text.length);
  const binBytes = bin.reduce((sum, b) => sum + b.length, 0);
  const binLength = padded(binBytes);
  const out = new Uint8Array(12 + 8 + textLength + 8 + binLength);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, out.length, true);
  view.setUint32(12, textLength, true);
  view.setUint32(16, JSON_CHUNK, true);
  out.fill(0x20, 20, 20 + textLength);
  out.set(text, 20);
  const o = 20 + textLength;
  view.setUint32(o, binLength, true);
  view.setUint32(o + 4, BIN_CHUNK, true);
  let at = o + 8;
  for (const piece of bin) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

const ALPHABET = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
/** Bytes that are turned into text at once: a multiple of three. */
const PIECE = 24_576;

/** A document as text with its buffer inside, in base64. */
export function* asText({ json, bin }: GltfParts): Generator<string> {
  const [{ byteLength }] = json.buffers as { byteLength: number }[];
  const bytes = new Uint8Array(byteLength);
  let at = 0;
  for (const piece of bin) {
    bytes.set(piece, at);
    at += piece.length;
  }
  const mark = "data:application/octet-stream;base64,";
  const text = JSON.stringify({ ...json, buffers: [{ byteLength, uri: mark }] });
  const split = text.indexOf(mark) + mark.length;
  yield text.slice(0, split);
  for (let o = 0; o < bytes.length; o += PIECE) yield base64(bytes.subarray(o, o + PIECE));
  yield text.slice(split);
}

function base64(bytes: Uint8Array): string {
  let out = "";
  for (let o = 0; o < bytes.length; o += 3) {
    const left = bytes.length - o;
    const bits = (bytes[o] << 16) | ((left > 1 ? bytes[o + 1] : 0) << 8) | (left > 2 ? bytes[o + 2] : 0);
    out += ALPHABET[bits >> 18] + ALPHABET[(bits >> 12) & 63] + (left > 1 ? ALPHABET[(bits >> 6) & 63] : "=") + (left > 2 ? ALPHABET[bits & 63] : "=");
  }
  return out;
}
