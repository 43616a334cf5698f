import { type Clip, readPose } from "../../clip/clip.ts";
import { poseWorldFlat, positionSlots } from "../../kinematics/forward.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";

/**
 * World positions of every joint as a track of markers (TRC: tab-separated text, five lines of header, a line a frame), millimetres, +Y up; frames count from 1. Yields text in pieces, so that
 * long clips need no second copy in memory.
 */
export function* writeTrc(skeleton: Skeleton, clip: Clip): Generator<string> {
  const word = (name: string) => name.replace(/\s+/g, "_");
  const { fps, frameCount } = clip;
  const rate = String(Math.round(fps * 1e6) / 1e6);
  yield `PathFileType\t4\t(X/Y/Z)\t${word(clip.name || "motion")}.trc\n`;
  yield "DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\tOrigDataRate\tOrigDataStartFrame\tOrigNumFrames\n";
  yield `${rate}\t${rate}\t${frameCount}\t${skeleton.names.length}\tmm\t${rate}\t1\t${frameCount}\n`;
  yield `Frame#\tTime\t${skeleton.names.map(word).join("\t\t\t")}\t\t\n`;
  yield `\t\t${skeleton.names.map((_, i) => `X${i + 1}\tY${i + 1}\tZ${i + 1}`).join("\t")}\n\n`;
  const slots = positionSlots(clip);
  const local = new Float64Array(clip.jointCount * 4);
  const places = new Float64Array(clip.positionJoints.length * 3);
  const positions = new Float64Array(clip.jointCount * 3);
  const rotations = new Float64Array(clip.jointCount * 4);
  for (let f = 0; f < frameCount; f++) {
    readPose(clip, f, local, places);
    poseWorldFlat(skeleton, slots, local, 0, places, 0, positions, 0, rotations, 0);
    yield `${f + 1}\t${(f / fps).toFixed(6)}\t${Array.from(positions, (v) => (1000 * v).toFixed(3)).join("\t")}\n`;
  }
}
