import type { Clip } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { Format, MotionFile, UpAxis } from "../format.ts";
import { type BvhLayout, isBvhLayout } from "./layout.ts";
import { readBvh } from "./read.ts";
import { defaultLayout, writeBvh } from "./write.ts";

const HIERARCHY = "HIERARCHY";

/** BVH: the hierarchy as text, then a line of numbers a frame. */
export const bvhFormat = {
  id: "bvh",
  label: "BVH",
  endings: [".bvh"],
  options: ["unitScale", "upAxis"],
  begins(head: Uint8Array): boolean {
    // A byte order mark and white space may stand before the first word.
    const text = new TextDecoder("utf-8").decode(head).trimStart();
    return text.slice(0, HIERARCHY.length).toUpperCase() === HIERARCHY;
  },
  read: readBvh,
  write: (skeleton: Skeleton, clip: Clip, like: MotionFile | null): Iterable<string> =>
    writeBvh(skeleton, clip, isBvhLayout(like?.layout) ? like.layout : defaultLayout(skeleton, clip, 0.01)),
  /** In whatever unit and with whatever vertical is wanted. */
  fresh: (skeleton: Skeleton, clip: Clip, unitScale: number, upAxis: UpAxis): Iterable<string> =>
    writeBvh(skeleton, clip, defaultLayout(skeleton, clip, unitScale, upAxis)),
} satisfies Format & { fresh: (skeleton: Skeleton, clip: Clip, unitScale: number, upAxis: UpAxis) => Iterable<string> };

export type { BvhLayout };
