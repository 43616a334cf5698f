import type { Clip } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { Marker } from "../format.ts";
import { markerFrames } from "../markers.ts";

/**
 * World places of markers as CSV lines (RFC 4180), metres, +Y up: a header `frame,seconds,<marker>.x,<marker>.y,<marker>.z,…`, then a
 * line a frame. Yields text in pieces, so that long clips need no second copy in memory.
 */
export function* writePositionsCsv(skeleton: Skeleton, clip: Clip, markers: readonly Marker[]): Generator<string> {
  const quote = (name: string) => (/[",\r\n]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name);
  yield `frame,seconds,${markers.flatMap(({ name }) => ["x", "y", "z"].map((axis) => quote(`${name}.${axis}`))).join(",")}\r\n`;
  let f = 0;
  for (const places of markerFrames(skeleton, clip, markers)) {
    yield `${f},${(f / clip.fps).toFixed(6)},${Array.from(places, (v) => v.toFixed(6)).join(",")}\r\n`;
    f++;
  }
}
