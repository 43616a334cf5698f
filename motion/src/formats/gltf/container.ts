import { MotionFormatError, quoted } from "../errors.ts";
import type { FileBytes } from "../format.ts";
import { type Gltf, gltfSchema } from "./document.ts";

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;
/** Longest JSON part that is read, bytes, and most nodes of it: far beyond any body, and short of what would stop a machine. */
const LONGEST_JSON = 128 * 1024 * 1024;
const MOST_NODES = 50_000;
/** Extensions that change nothing of what motion is read from. */
const HARMLESS =
  /^(KHR_materials_|KHR_texture_|KHR_draco_mesh_compression$|KHR_mesh_quantization$|KHR_lights_|EXT_texture_|EXT_mesh_gpu_instancing$|VRM|KHR_xmp|MSFT_|KHR_animation_pointer$)/;

/** A glTF file taken apart: its document as it was written, what motion is read from, and its buffers. */
export interface GltfContainer {
  /** the document as it stands in the file, to be handed on */
  readonly json: Record<string, unknown>;
  readonly doc: Gltf;
  /** [buffer]; null where none is there */
  readonly buffers: readonly (Uint8Array | null)[];
  readonly binary: boolean;
}

/** All bytes of a file at hand. */
export function allBytes(bytes: FileBytes): Uint8Array {
  if (bytes instanceof Uint8Array) return bytes;
  const out = new Uint8Array(bytes.size);
  for (let at = 0; at < out.length; ) {
    const read = bytes.read(out.subarray(at));
    if (read === 0) return out.subarray(0, at);
    at += read;
  }
  return out;
}

/** Is this the beginning of a GLB, or of a JSON document? */
export function beginsLikeGltf(head: Uint8Array): boolean {
  if (head.length >= 4 && new DataView(head.buffer, head.byteOffset, 4).getUint32(0, true) === MAGIC) return true;
  const text = new TextDecoder("utf-8").decode(head.subarray(0, 64)).trimStart();
  return text.startsWith("{");
}

/** Takes a .glb or .gltf apart. Nothing outside the file is ever fetched. Throws MotionFormatError. */
export function openGltf(bytes: FileBytes, fileName: string): GltfContainer {
  const all = allBytes(bytes);
  const fail = (problem: string) => new MotionFormatError(problem, 0, fileName);
  const view = new DataView(all.buffer, all.byteOffset, all.byteLength);
  const binary = all.length >= 12 && view.getUint32(0, true) === MAGIC;
  let text = all;
  let bin: Uint8Array | null = null;
  if (binary) {
    const version = view.getUint32(4, true);
    if (version !== 2) throw fail(`it is a GLB of version ${version}; version 2 is read`);
    const said = view.getUint32(8, true);
    if (said > all.length) throw fail(`it says that it is ${said} bytes long, but ends after ${all.length}; the file is cut off`);
    let json: Uint8Array | null = null;
    for (let at = 12; at + 8 <= said; ) {
      const length = view.getUint32(at, true);
      const kind = view.getUint32(at + 4, true);
      if (at + 8 + length > said) throw fail(`a part of it says that it is ${length} bytes long, but only ${said - at - 8} are left`);
      const part = all.subarray(at + 8, at + 8 + length);
      if (kind === JSON_CHUNK) json ??= part;
      else if (kind === BIN_CHUNK) bin ??= part;
      at += 8 + length;
    }
    if (!json) throw fail("it holds no document: the JSON part is missing");
    text = json;
  }
  if (text.length > LONGEST_JSON) throw fail(`its document is ${text.length} bytes long; at most ${LONGEST_JSON} are read`);
  const json = parsed(text, fail);
  const doc = checked(json, fail);
  return { json, doc, buffers: doc.buffers.map((buffer, i) => bufferOf(buffer, i, bin, fail)), binary };
}

function parsed(text: Uint8Array, fail: (problem: string) => MotionFormatError): Record<string, unknown> {
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(text));
  } catch (error) {
    throw fail(`its document is no valid JSON: ${error instanceof Error ? quoted(error.message) : ""}`);
  }
  if (typeof json !== "object" || json === null || Array.isArray(json)) throw fail("its document is no glTF: expected an object");
  return json as Record<string, unknown>;
}

function checked(json: Record<string, unknown>, fail: (problem: string) => MotionFormatError): Gltf {
  if (Array.isArray(json.nodes) && json.nodes.length > MOST_NODES) throw fail(`it has ${json.nodes.length} nodes; at most ${MOST_NODES} are read`);
  const result = gltfSchema.safeParse(json);
  if (!result.success) {
    const [issue] = result.error.issues;
    throw fail(`its document is wrong at ${quoted(issue.path.join(".") || "its root")}: ${issue.message}`);
  }
  const doc = result.data;
  if (!/^2\./.test(doc.asset.version)) throw fail(`it is glTF ${quoted(doc.asset.version)}; version 2 is read`);
  const strange = doc.extensionsRequired.find((name) => !HARMLESS.test(name) && name !== "EXT_meshopt_compression");
  if (strange) throw fail(`it cannot be read without the extension ${quoted(strange)}, which is not known here`);
  return doc;
}

type GltfBuffer = Gltf["buffers"][number];

function bufferOf(
  { uri, byteLength, extensions }: GltfBuffer,
  i: number,
  bin: Uint8Array | null,
  fail: (problem: string) => MotionFormatError,
): Uint8Array | null {
  if (uri === undefined) {
    // What stands in for a reader without the decoder is not in the file.
    const stand = extensions?.EXT_meshopt_compression;
    if (i !== 0 || !bin || (typeof stand === "object" && stand !== null && "fallback" in stand)) return null;
    if (byteLength > bin.length) throw fail(`buffer ${i} says that it is ${byteLength} bytes long, but the file holds ${bin.length}`);
    return bin.subarray(0, byteLength);
  }
  const data = /^data:[^,]*;base64,/.exec(uri);
  if (!data) throw fail(`buffer ${i} lies outside the file, at ${quoted(uri)}; only what is in the file itself is read. Save it as one .glb`);
  const bytes = fromBase64(uri.slice(data[0].length), i, fail);
  if (bytes.length < byteLength) throw fail(`buffer ${i} says that it is ${byteLength} bytes long, but holds ${bytes.length}`);
  return bytes.subarray(0, byteLength);
}

const ALPHABET = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";

function fromBase64(text: string, i: number, fail: (problem: string) => MotionFormatError): Uint8Array {
  const codes = new Int16Array(128).fill(-1);
  for (let k = 0; k < 64; k++) codes[ALPHABET.charCodeAt(k)] = k;
  const clean = text.replace(/[\s=]+/g, "");
  const out = new Uint8Array(Math.floor((clean.length * 3) / 4));
  let [bits, held, at] = [0, 0, 0];
  for (let k = 0; k < clean.length; k++) {
    const code = clean.charCodeAt(k);
    const value = code < 128 ? codes[code] : -1;
    if (value < 0) throw fail(`buffer ${i} is no valid base64 at its character ${k + 1}`);
    bits = (bits << 6) | value;
    held += 6;
    if (held >= 8) {
      held -= 8;
      out[at++] = (bits >> held) & 0xff;
    }
  }
  return out;
}
