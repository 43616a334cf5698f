import type { Skin } from "../character/skin.ts";
import type { Clip } from "../clip/clip.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { bvhFormat } from "./bvh/index.ts";
import { csvFormat } from "./csv/index.ts";
import { MotionFormatError } from "./errors.ts";
import type { FileBytes, Format, MotionFile, ReadOptions, UpAxis, WriteOptions } from "./format.ts";

export { setDracoBinary } from "./gltf/decoders.ts";

import { glbFormat, gltfFormat, vrmaFormat, vrmFormat } from "./gltf/index.ts";
import { isGltfFile } from "./gltf/read.ts";
import { readSkin } from "./gltf/skin.ts";
import { trcFormat } from "./trc/index.ts";

/** Every format, the one that is written unless another is asked for first. A new format is a folder beside this file and a line here. */
export const FORMATS: readonly Format[] = [bvhFormat, glbFormat, gltfFormat, vrmaFormat, vrmFormat, csvFormat, trcFormat];

/** Most of a file's beginning that is looked at before the rest is taken, bytes. */
export const HEAD_BYTES = 4096;

const READABLE = FORMATS.filter((f) => f.read);
const WRITABLE = FORMATS.filter((f) => f.write);

/** Endings of files that can be read, and of those that can be written. */
export const READ_ENDINGS: readonly string[] = READABLE.flatMap((f) => f.endings);
export const WRITE_ENDINGS: readonly string[] = WRITABLE.flatMap((f) => f.endings);

function endsIn(formats: readonly Format[], fileName: string): Format | undefined {
  const lower = fileName.toLowerCase();
  return formats.find((f) => f.endings.some((ending) => lower.endsWith(ending)));
}

const list = (endings: readonly string[]) => endings.join(", ").replace(/, ([^,]*)$/, " or $1");

/** The format that a file of this name is read as. Throws MotionFormatError where none reads it. */
export function formatToRead(fileName: string): Format & Required<Pick<Format, "read">> {
  const found = endsIn(READABLE, fileName);
  if (!found?.read) throw new MotionFormatError(`expected a ${list(READ_ENDINGS)} file; other formats are not read`, 0, fileName);
  return found as Format & Required<Pick<Format, "read">>;
}

/** The format that a file of this name is written as, or undefined. */
export function formatToWrite(fileName: string): (Format & Required<Pick<Format, "write">>) | undefined {
  return endsIn(WRITABLE, fileName) as (Format & Required<Pick<Format, "write">>) | undefined;
}

/** What the message about an ending that cannot be written says. */
export const WRITE_ENDINGS_TEXT = list(WRITE_ENDINGS);

/** Could a file that begins so be of the format its name says? Throws MotionFormatError where not, before anything more of it is taken. */
export function checkHead(head: Uint8Array, fileName: string): void {
  const format = formatToRead(fileName);
  if (format.begins && !format.begins(head)) throw new MotionFormatError(`this is no ${format.label} file: it does not begin like one`, 1, fileName);
}

/** Loads what reading a file needs; to be awaited before readMotion for files that come from outside. Looks through a source to its end. */
export async function readyToRead(bytes: FileBytes, fileName: string): Promise<void> {
  await formatToRead(fileName).prepare?.(bytes);
}

/** Reads a file by its name's ending. Throws MotionFormatError. */
export function readMotion(bytes: FileBytes, options: ReadOptions & { readonly fileName: string }): MotionFile {
  return formatToRead(options.fileName).read(bytes, options);
}

/** The surface of the body in a file that was read; null where it has none. Throws MotionFormatError for one that cannot be read. */
export function skinOfFile(file: MotionFile, fileName: string): Skin | null {
  return isGltfFile(file) ? readSkin(file, fileName) : null;
}

/** Writes a clip back as a file of the kind it came from, with that file's own layout, unit and axes. */
export function writeLike(file: MotionFile, clip: Clip, fileName: string, options: WriteOptions = {}): Iterable<string | Uint8Array> {
  const format = formatToWrite(fileName) ?? formatToWrite(`x${WRITE_ENDINGS[0]}`);
  if (!format) throw new Error("no format can be written");
  return format.write(file.skeleton, clip, file, options);
}

/** A file's name without the ending that says how it is read, as people name the clip. */
export function clipNameOf(fileName: string): string {
  const ending = READ_ENDINGS.find((e) => fileName.toLowerCase().endsWith(e));
  return ending ? fileName.slice(0, -ending.length) : fileName;
}

/** Writes a clip that no file stands behind, in the first format's usual layout: unit (metres per unit) and vertical as asked. */
export function writeFresh(skeleton: Skeleton, clip: Clip, unitScale: number, upAxis: UpAxis = "y"): Iterable<string> {
  return bvhFormat.fresh(skeleton, clip, unitScale, upAxis);
}
