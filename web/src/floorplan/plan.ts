import { type GroundShape, placeOnShape, profileCorners } from "@stride/motion";
import type { MotionView } from "../worker/views.ts";

/** Places of a plan, metres: x along the travel, y across. */
export type Place = readonly [number, number];

/** How the world is turned for a plan, and the hips' path on it [frame]. */
export interface PlanPath {
  readonly path: readonly Place[];
  place(x: number, z: number): Place;
}

/** Travel from which a walk lies along the plan, metres. */
const TRAVELS = 0.5;

/** A plan on which the motion's travel runs from left to right. */
export function planPath(view: Pick<MotionView, "frameCount" | "jointCount" | "positions">, hips: number): PlanPath {
  const at = (f: number) => {
    const o = (f * view.jointCount + hips) * 3;
    return [view.positions[o], view.positions[o + 2]] as const;
  };
  const [ax, az] = at(0);
  const [bx, bz] = at(view.frameCount - 1);
  const angle = Math.hypot(bx - ax, bz - az) > TRAVELS ? Math.atan2(bz - az, bx - ax) : Math.PI / 2;
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const place = (x: number, z: number): Place => [(x - ax) * cos + (z - az) * sin, (z - az) * cos - (x - ax) * sin];
  return { place, path: Array.from({ length: view.frameCount }, (_, f) => place(...at(f))) };
}

/** Seconds of a block of the small plan: it draws the block that the playhead is in and those beside it. */
const BLOCK_SECONDS = 6;

/** The block that a frame lies in. */
export function blockAt(frame: number, fps: number): number {
  return Math.floor(frame / (BLOCK_SECONDS * fps));
}

/** Frames of a block and of its neighbours, both ends inclusive; of the last one for a block behind a motion that has become shorter. */
export function blockFrames(block: number, frameCount: number, fps: number): readonly [number, number] {
  const length = BLOCK_SECONDS * fps;
  const at = Math.min(block, blockAt(frameCount - 1, fps));
  return [Math.max(0, Math.floor((at - 1) * length)), Math.min(frameCount - 1, Math.ceil((at + 2) * length))];
}

/** Places of frames from..to of a path, evenly thinned to `most` or every so many frames, the last one among them. */
export function thinned(path: readonly Place[], from: number, to: number, most: number, every = 1): Place[] {
  const step = Math.max(every, Math.ceil((to - from + 1) / most));
  const out: Place[] = [];
  for (let f = Math.ceil(from / step) * step; f <= to; f += step) out.push(path[f]);
  if (every === 1 && to >= 0 && to % step !== 0) out.push(path[to]);
  return out;
}

/** Left, top, right and bottom of places, with some air; however many there are. */
export function boundsOf(places: Iterable<Place>, airX: number, airY: number): [number, number, number, number] {
  const box: [number, number, number, number] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const [x, y] of places) {
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  return [box[0] - airX, box[1] - airY, box[2] + airX, box[3] + airY];
}

/** A level or sloping piece of a ground's shape from above: its corners (x, z in the world), and its height or steepness in words. */
export interface ShapePiece {
  readonly outline: readonly (readonly [number, number])[];
  readonly label: string;
}

/** The pieces that a shape has from above: each step, a slope and the level behind it, a box. */
export function shapePieces(shape: GroundShape): ShapePiece[] {
  const corners = profileCorners(shape);
  const half = shape.width / 2;
  return corners.slice(1).flatMap(([to, top], i) => {
    const [from, height] = corners[i];
    if (to - from < 1e-9) return [];
    const sloping = Math.abs(top - height) > 1e-9;
    const cm = Math.round(100 * top);
    return [
      {
        outline: [placeOnShape(shape, from, -half), placeOnShape(shape, to, -half), placeOnShape(shape, to, half), placeOnShape(shape, from, half)],
        label: sloping && shape.shape === "slope" ? `${Number(shape.degrees.toFixed(1))}°` : `${cm > 0 ? "+" : cm < 0 ? "−" : ""}${Math.abs(cm)} cm`,
      },
    ];
  });
}

/** Prints older than this are pale, seconds before the playhead. */
const OLD_SECONDS = 2.5;

/** Is a print one of steps long past? */
export function isOld(print: { readonly end: number }, frame: number, fps: number): boolean {
  return (frame - print.end) / fps > OLD_SECONDS;
}

/** Which prints have room for their number: none whose number would come nearer than so much to the last one on its side of the path. */
export function numbered(prints: readonly { readonly at: Place; readonly above: boolean }[], room: number): boolean[] {
  const last: { above: Place | null; below: Place | null } = { above: null, below: null };
  return prints.map(({ at, above }) => {
    const side = above ? "above" : "below";
    const before = last[side];
    if (before && Math.hypot(at[0] - before[0], at[1] - before[1]) < room) return false;
    last[side] = at;
    return true;
  });
}
