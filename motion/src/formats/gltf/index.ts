import type { Clip } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { Format, MotionFile } from "../format.ts";
import { beginsLikeGltf } from "./container.ts";
import { makeDecodersReady } from "./decoders.ts";
import { isGltfLayout, readGltf } from "./read.ts";
import { asGlb, asText, type GltfParts, writeBare, writeIntoOwn } from "./write.ts";

function partsOf(skeleton: Skeleton, clip: Clip, like: MotionFile | null): GltfParts {
  return like && isGltfLayout(like.layout) ? writeIntoOwn(skeleton, clip, like.layout, like.unitScale) : writeBare(skeleton, clip);
}

/** glTF 2.0 as one binary file: a tree of nodes with keyed animations. Into the file that a body came from where it came in this format, else a bare skeleton. */
export const glbFormat = {
  id: "glb",
  label: "GLB",
  endings: [".glb"],
  options: ["unitScale"],
  begins: beginsLikeGltf,
  prepare: makeDecodersReady,
  read: readGltf,
  write: (skeleton: Skeleton, clip: Clip, like: MotionFile | null): Iterable<Uint8Array> => [asGlb(partsOf(skeleton, clip, like))],
} satisfies Format;

/** The same as text, its data inside. */
export const gltfFormat = {
  ...glbFormat,
  id: "gltf",
  label: "glTF",
  endings: [".gltf"],
  write: (skeleton: Skeleton, clip: Clip, like: MotionFile | null): Iterable<string> => asText(partsOf(skeleton, clip, like)),
} satisfies Format;
