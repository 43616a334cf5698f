import { type ContactPoint, groundHeight, rotateVecFlat } from "@stride/motion";
import type { MotionView } from "../../worker/views.ts";

/** How high a contact point stands over where it would rest on the ground at a frame, metres. */
export function pointHeight(view: MotionView, point: ContactPoint, frame: number): number {
  const at = Math.min(frame, view.frameCount - 1) * view.jointCount + point.joint;
  const v = rotateVecFlat(new Float64Array(3), 0, view.rotations, at * 4, [...point.local], 0);
  const [x, y, z] = [0, 1, 2].map((i) => view.positions[at * 3 + i] + v[i]);
  return y - point.clearance - groundHeight(view.ground, x, z);
}
