import { type Ground, groundHeight, groundNormal } from "@stride/motion";
import { Vector3 } from "three";
import type { MotionView } from "../worker/views.ts";

/** The camera follows the hips' height as it is on the mean over this long to either side, seconds. */
const HEIGHT_SECONDS = 0.4;
/** Joints end below the crown of the head, by this share of the body's height. */
const CROWN = 0.09;

type Seen = Pick<MotionView, "frameCount" | "fps" | "jointCount" | "positions">;

function within(view: Seen, frame: number): number {
  return Math.max(0, Math.min(view.frameCount - 1, frame));
}

/** The place that the camera keeps to: the hips', up and down only as the body as a whole goes, on a slope or a stair, not with every step. */
export function followedPlace(view: Seen, hips: number, frame: number): [number, number, number] {
  const here = within(view, frame);
  const at = (f: number) => (f * view.jointCount + hips) * 3;
  const half = Math.round(HEIGHT_SECONDS * view.fps);
  const [from, to] = [within(view, here - half), within(view, here + half)];
  let height = 0;
  for (let f = from; f <= to; f++) height += view.positions[at(f) + 1] / (to - from + 1);
  return [view.positions[at(here)], height, view.positions[at(here) + 2]];
}

/** A ball about the body as it stands at a frame; about a standing body's middle where nothing is shown. `height` is the body's, metres. */
export function ballAbout(view: Seen | undefined, frame: number, height: number): { readonly centre: [number, number, number]; readonly radius: number } {
  if (!view || view.jointCount === 0) return { centre: [0, height / 2, 0], radius: height / 2 };
  const low = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY];
  const high = low.map((v) => -v);
  const from = within(view, frame) * view.jointCount * 3;
  for (let i = from; i < from + view.jointCount * 3; i++) {
    low[(i - from) % 3] = Math.min(low[(i - from) % 3], view.positions[i]);
    high[(i - from) % 3] = Math.max(high[(i - from) % 3], view.positions[i]);
  }
  high[1] += CROWN * height;
  const [x, y, z] = high.map((v, i) => v - low[i]);
  return { centre: [0, 1, 2].map((i) => (low[i] + high[i]) / 2) as [number, number, number], radius: Math.max(x, y * 1.08, z) / 2 + 0.05 };
}

/** The plane that lies under the body at a frame: where shapes stand on the ground, that of the one beneath its hips. */
export function surfaceUnder(view: Seen & Pick<MotionView, "ground">, hips: number, frame: number): Omit<Ground, "shapes"> {
  const { ground } = view;
  if (ground.shapes.length === 0) return ground;
  const o = (within(view, frame) * view.jointCount + hips) * 3;
  const [x, z] = [view.positions[o], view.positions[o + 2]];
  const [nx, ny, nz] = groundNormal(ground, x, z);
  const [slopeX, slopeZ] = [-nx / ny, -nz / ny];
  return { height: groundHeight(ground, x, z) - slopeX * x - slopeZ * z, slopeX, slopeZ };
}

/** How far the ground has moved away under the figure by a frame: against it the figure stays where its own travel takes it. */
export function groundPassed({ groundTravel, frameCount }: MotionView, frame: number): Vector3 {
  const f = Math.min(frame, frameCount - 1);
  return groundTravel ? new Vector3(-groundTravel.x[f], 0, -groundTravel.z[f]) : new Vector3();
}
