import { type Clip, readPose } from "../../clip/clip.ts";
import { poseWorldFlat, positionSlots } from "../../kinematics/forward.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";

/**
 * World positions of every joint as CSV lines (RFC 4180), metres, +Y up: a header `frame,seconds,<joint>.x,<joint>.y,<joint>.z,…`, then a
 * line a frame. Yields text in pieces, so that long clips need no second copy in memory.
 */
export function* writePositionsCsv(skeleton: Skeleton, clip: Clip): Generator<string> {
  const quote = (name: string) => (/[",\r\n]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name);
  yield `frame,seconds,${skeleton.names.flatMap((name) => ["x", "y", "z"].map((axis) => quote(`${name}.${axis}`))).join(",")}\r\n`;
  const slots = positionSlots(clip);
  const local = new Float64Array(clip.jointCount * 4);
  const places = new Float64Array(clip.positionJoints.length * 3);
  const positions = new Float64Array(clip.jointCount * 3);
  const rotations = new Float64Array(clip.jointCount * 4);
  for (let f = 0; f < clip.frameCount; f++) {
    readPose(clip, f, local, places);
    poseWorldFlat(skeleton, slots, local, 0, places, 0, positions, 0, rotations, 0);
    yield `${f},${(f / clip.fps).toFixed(6)},${Array.from(positions, (v) => v.toFixed(6)).join(",")}\r\n`;
  }
}
