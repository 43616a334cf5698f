import type { Clip } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import { MotionFormatError } from "../errors.ts";
import type { Format, MotionFile, WriteOptions } from "../format.ts";
import { beginsLikeGltf } from "./container.ts";
import { makeDecodersReady } from "./decoders.ts";
import { isGltfLayout, readGltf } from "./read.ts";
import { vrmRolesOf } from "./vrm.ts";
import { writeVrmAnimation } from "./vrmAnimation.ts";
import { asGlb, asText, type GltfParts, writeBare, writeIntoOwn } from "./write.ts";

function partsOf(skeleton: Skeleton, clip: Clip, like: MotionFile | null, { thin, time }: WriteOptions = {}): GltfParts {
  return like && isGltfLayout(like.layout) ? writeIntoOwn(skeleton, clip, like.layout, like.unitScale, { thin, time }) : writeBare(skeleton, clip, thin);
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
  write: (skeleton: Skeleton, clip: Clip, like: MotionFile | null, options?: WriteOptions): Iterable<Uint8Array> => [
    asGlb(partsOf(skeleton, clip, like, options)),
  ],
} satisfies Format;

/** The same as text, its data inside. */
export const gltfFormat = {
  ...glbFormat,
  id: "gltf",
  label: "glTF",
  endings: [".gltf"],
  write: (skeleton: Skeleton, clip: Clip, like: MotionFile | null, options?: WriteOptions): Iterable<string> => asText(partsOf(skeleton, clip, like, options)),
} satisfies Format;

/** A VRM animation: the same binary file, which says which node is which bone of a person and rests in a T-pose. Always a bare skeleton. */
export const vrmaFormat = {
  ...glbFormat,
  id: "vrma",
  label: "VRM animation",
  endings: [".vrma"],
  write: (_skeleton: Skeleton, clip: Clip, _like: MotionFile | null, options: WriteOptions = {}): Iterable<Uint8Array> => [
    asGlb(writeVrmAnimation(options.character, clip, options.thin)),
  ],
} satisfies Format;

/** A VRM body: a GLB that says which node is which bone. Written into the body's own file only: a bare skeleton is none. */
export const vrmFormat = {
  ...glbFormat,
  id: "vrm",
  label: "VRM",
  endings: [".vrm"],
  write: (skeleton: Skeleton, clip: Clip, like: MotionFile | null, options?: WriteOptions): Iterable<Uint8Array> => {
    if (!like || !isGltfLayout(like.layout) || vrmRolesOf(like.layout.container.json, like.layout.tree) === null)
      throw new MotionFormatError("a .vrm is written into a body that came as one; write .vrma or .glb", 0, `${clip.name}.vrm`);
    return glbFormat.write(skeleton, clip, like, options);
  },
} satisfies Format;
