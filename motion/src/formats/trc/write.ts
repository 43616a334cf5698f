import type { Clip } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { Marker } from "../format.ts";
import { markerFrames } from "../markers.ts";

/**
 * World places of markers (TRC: tab-separated text, five lines of header, a line a frame), millimetres, +Y up; frames count from 1. Yields text in pieces, so that
 * long clips need no second copy in memory.
 */
export function* writeTrc(skeleton: Skeleton, clip: Clip, markers: readonly Marker[]): Generator<string> {
  const word = (name: string) => name.replace(/\s+/g, "_");
  const { fps, frameCount } = clip;
  const rate = String(Math.round(fps * 1e6) / 1e6);
  yield `PathFileType\t4\t(X/Y/Z)\t${word(clip.name || "motion")}.trc\n`;
  yield "DataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\tOrigDataRate\tOrigDataStartFrame\tOrigNumFrames\n";
  yield `${rate}\t${rate}\t${frameCount}\t${markers.length}\tmm\t${rate}\t1\t${frameCount}\n`;
  yield `Frame#\tTime\t${markers.map(({ name }) => word(name)).join("\t\t\t")}\t\t\n`;
  yield `\t\t${markers.map((_, i) => `X${i + 1}\tY${i + 1}\tZ${i + 1}`).join("\t")}\n\n`;
  let f = 0;
  for (const places of markerFrames(skeleton, clip, markers)) {
    yield `${f + 1}\t${(f / fps).toFixed(6)}\t${Array.from(places, (v) => (1000 * v).toFixed(3)).join("\t")}\n`;
    f++;
  }
}
