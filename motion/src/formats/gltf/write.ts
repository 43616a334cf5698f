import type { Clip } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { KeyTolerance, WriteOptions } from "../format.ts";
import type { GltfContainer } from "./container.ts";
import { otherTracks } from "./otherTracks.ts";
import type { GltfLayout } from "./read.ts";
import { motionData } from "./tracks.ts";

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;
/** What wrote the file, as its asset says. */
const GENERATOR = "Patch Stride";

/** A document and the pieces of its one buffer. */
export interface GltfParts {
  readonly json: Record<string, unknown>;
  readonly bin: readonly Uint8Array[];
}

/**
 * Writes a clip into the file that its body came from: its animation is the one that was read, or a new one, and everything else of the document and its buffer is
 * handed on as it was, what is new behind it. One key a frame, LINEAR, or fewer where
 * `thin` allows; what scales nodes or weighs morph targets goes along where `time` says that the motion does; a track that never changes has two keys, one that never leaves its place at rest none. Joints that have got other names are called so in the file.
 */
export function writeIntoOwn(
  skeleton: Skeleton,
  clip: Clip,
  layout: GltfLayout,
  unitScale: number,
  { thin, time }: Pick<WriteOptions, "thin" | "time"> = {},
): GltfParts {
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
  const written = motionData(skeleton, clip, start, (joint) => tree.unit[joint] * unitScale, thin);
  const [views, accessors, animations] = [list("bufferViews"), list("accessors"), list("animations")];
  const viewBase = views.length;
  const accessorBase = accessors.length;
  views.push(...written.data.views);
  accessors.push(...written.data.accessors.map((a) => ({ ...a, bufferView: a.bufferView + viewBase })));
  const old = take === null ? {} : (animations[take] as Record<string, unknown>);
  const { samplers: _samplers, channels: oldChannels, ...kept } = old;
  // What moves no joint (scales, morph weights) stays in the animation with its own samplers, unless time has changed.
  const inTime = otherTracks(layout, clip, time, start + written.bytes.length, clip.name);
  const replaced = ["rotation", "translation", ...(inTime ? ["scale", "weights"] : [])];
  const others = Array.isArray(oldChannels) ? oldChannels.filter((c) => !replaced.includes((c as { target: { path: string } }).target.path)) : [];
  const timedBase = accessorBase + written.data.accessors.length;
  if (inTime) {
    const firstView = views.length;
    views.push(...inTime.views);
    accessors.push(...inTime.accessors.map((a) => ({ ...a, bufferView: a.bufferView + firstView })));
  }
  const ownSamplers = written.samplers.map((s) => ({ ...s, input: s.input + accessorBase, output: s.output + accessorBase }));
  const otherSamplers = others.map((c) => (_samplers as unknown[])[(c as { sampler: number }).sampler]);
  const animation = {
    name: clip.name,
    ...kept,
    // The first accessor of the motion holds the times of every frame.
    samplers: [
      ...ownSamplers,
      ...otherSamplers,
      ...(inTime?.channels ?? []).map(({ output, interpolation }) => ({ input: accessorBase, output: timedBase + output, interpolation })),
    ],
    channels: [
      ...written.channels.map(({ joint, ...c }) => ({ ...c, target: { node: tree.nodes[joint], path: c.target.path } })),
      ...others.map((c, i) => ({ ...(c as object), sampler: ownSamplers.length + i })),
      ...(inTime?.channels ?? []).map(({ target }, i) => ({ sampler: ownSamplers.length + others.length + i, target })),
    ],
  };
  skeleton.names.forEach((name, joint) => {
    if (name !== tree.names[joint]) (json.nodes as { name?: string }[])[tree.nodes[joint]].name = name;
  });
  withoutMatrices(list("nodes") as Record<string, unknown>[], new Set(written.channels.map(({ joint }) => joint)), tree);
  if (take === null) animations.push(animation);
  else animations[take] = animation;
  bin.push(written.bytes);
  if (inTime) bin.push(inTime.bytes);
  json.buffers = [{ byteLength: start + written.bytes.length + (inTime?.bytes.length ?? 0) }];
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
export function writeBare(skeleton: Skeleton, clip: Clip, thin?: KeyTolerance): GltfParts {
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
  const written = motionData(skeleton, clip, 0, () => 1, thin);
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
