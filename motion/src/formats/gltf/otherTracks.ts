import type { Clip } from "../../clip/clip.ts";
import { inputAt, isIdentity, type TimeWarp } from "../../time/warp.ts";
import type { GltfLayout } from "./read.ts";
import { valuesAt } from "./samplers.ts";
import type { Written } from "./tracks.ts";

const FLOAT = 5126;
/** Keys that begin earlier than this begin at the clip's own start, seconds. */
const AT_ONCE = 1e-6;

/** Tracks of an animation that move no joint, with a key a frame of the clip that is written. */
export interface OtherTracks extends Written {
  readonly bytes: Uint8Array;
  /** what each of them changes, as its channel says; its keys are an accessor of these, its times those of every frame */
  readonly channels: readonly { readonly target: unknown; readonly output: number; readonly interpolation: "LINEAR" | "STEP" }[];
}

/**
 * What scales nodes and weighs morph targets in the animation that was read, brought to the time of the clip that is written: its moment m shows the file's at `begin` + time(m). Null where that is as it was, so
 * that its own keys can stay. Bytes go behind `start`; indices count from 0. What no sampler of the format's own says (a pointer) is left out.
 */
export function otherTracks(
  { container, take, begin }: GltfLayout,
  clip: Clip,
  time: TimeWarp | undefined,
  start: number,
  fileName: string,
): OtherTracks | null {
  if (take === null || ((time === undefined || isIdentity(time)) && begin < AT_ONCE)) return null;
  const animation = container.doc.animations[take];
  const moments = Float64Array.from({ length: clip.frameCount }, (_, f) => begin + (time ? inputAt(time, f / clip.fps) : f / clip.fps));
  const pieces: Float32Array[] = [];
  const made: OtherTracks["channels"][number][] = [];
  const views: Written["views"] = [];
  const accessors: Written["accessors"] = [];
  let at = start;
  for (const { sampler: index, target } of animation.channels) {
    if (target.path !== "scale" && target.path !== "weights") continue;
    const sampler = animation.samplers[index];
    const read = valuesAt(container, sampler, target.path, moments, fileName);
    if (!read) continue;
    const piece = read.values;
    views.push({ buffer: 0, byteOffset: at, byteLength: piece.byteLength });
    accessors.push({
      bufferView: views.length - 1,
      componentType: FLOAT,
      count: piece.length / (target.path === "scale" ? 3 : 1),
      type: target.path === "scale" ? "VEC3" : "SCALAR",
    });
    made.push({ target, output: accessors.length - 1, interpolation: sampler.interpolation === "STEP" ? "STEP" : "LINEAR" });
    pieces.push(piece);
    at += piece.byteLength;
  }
  const bytes = new Uint8Array(at - start);
  pieces.reduce((to, piece) => {
    bytes.set(new Uint8Array(piece.buffer), to);
    return to + piece.byteLength;
  }, 0);
  return { bytes, views, accessors, channels: made };
}
