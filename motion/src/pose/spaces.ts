import { z } from "zod";
import type { Rig } from "../character/rig.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import { axisAngleQuatFlat, type Floats, rotateVecFlat } from "../math/quat.ts";

/**
 * The axes that an edit speaks in. own: the joint's; parent: its parent's; body: left, up and forward of the body's heading; world.
 */
export const spaceSchema = z.enum(["own", "parent", "body", "world"]);
export type Space = z.infer<typeof spaceSchema>;

const _left = /*@__PURE__*/ new Float64Array(3);

/**
 * Heading of the body in radians about +Y from +Z, read off the line from its right to its left (which stays level while a body lies on
 * its back or bends over).
 */
export function headingOf(frame: { readonly worldRotations: Floats }, rig: Pick<Rig, "hips" | "hipsLeft">): number {
  rotateVecFlat(_left, 0, frame.worldRotations, rig.hips * 4, rig.hipsLeft, 0);
  return Math.atan2(-_left[2], _left[0]);
}

/** dst = rotation whose x, y, z are the axes of `space` at `joint`, in the world. */
export function spaceRotation(dst: Float64Array, frame: PoseFrame, rig: Rig, joint: number, space: Space): Float64Array {
  if (space === "world") dst.set([0, 0, 0, 1]);
  else if (space === "body") axisAngleQuatFlat(dst, 0, 0, 1, 0, headingOf(frame, rig));
  else {
    const { q, offset } = space === "own" ? { q: frame.worldRotations, offset: joint * 4 } : frame.parentRotation(joint);
    for (let i = 0; i < 4; i++) dst[i] = q[offset + i];
  }
  return dst;
}
