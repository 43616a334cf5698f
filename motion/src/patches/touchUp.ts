import { z } from "zod";
import type { Motion } from "../motion.ts";
import type { FrameOp } from "../pose/editFrame.ts";
import { editMotion, frameHolds } from "../pose/editMotion.ts";
import { type Edit, editSchema, holdSchema, jointIndex } from "../pose/edits.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const schema = z.strictObject({
  /** frame at which it was made */
  frame: z.int().min(0),
  edits: z.array(editSchema).max(400),
  holds: z.array(holdSchema).max(64),
});
export type TouchUpSettings = z.infer<typeof schema>;

/** Ramps of a new touch-up, frames at 30 frames a second. */
export const TOUCH_UP_RAMP = 6;

export const touchUpPatch = definePatch<TouchUpSettings>({
  kind: "touchUp",
  title: "Touch-up",
  description: "Corrects the pose in a window; outside it the motion stays as it was, bit for bit.",
  schema,
  defaults: { frame: 0, edits: [], holds: [] },
  masked: true,
  local: true,
  fields: {},
  /** The same differences at every frame of the window, scaled by its weight; held parts keep their own course. */
  apply(motion: Motion, settings: TouchUpSettings, context: PatchContext): Motion {
    const compiled = settings.edits.map((edit) => compileEdit(motion.skeleton, edit, context.name));
    if (compiled.length === 0) return motion;
    const holds = frameHolds(motion.skeleton, settings.holds, context.name);
    return editMotion(motion, context, (_, weight) => compiled.flatMap((make) => make(weight)), holds);
  },
});

/** An edit as operations on a frame, as a function of the weight there. */
export function compileEdit(skeleton: Skeleton, edit: Edit, patch: string): (weight: number) => FrameOp[] {
  const index = (name: string) => jointIndex(skeleton, name, patch, "edits");
  if (edit.op === "pose") {
    const joints = Object.entries(edit.rotations).map(([name, rotation]) => ({ joint: index(name), rotation }));
    return (weight) => [
      ...joints.map(
        ({ joint, rotation }): FrameOp =>
          edit.additive
            ? { op: "turn", joint, space: "own", vector: rotationVector(rotation).map((v) => v * edit.amount * weight), pivot: null }
            : { op: "set", joint, rotation, weight: edit.amount * weight },
      ),
      ...(edit.moved ? [{ op: "carry" as const, vector: edit.moved.map((v) => (v / 100) * edit.amount * weight) }] : []),
    ];
  }
  const joints = edit.joints.map(index);
  if (edit.op === "move") {
    return (weight) => joints.map((joint) => ({ op: "move", joint, space: edit.space, vector: edit.centimetres.map((v) => (v / 100) * weight) }));
  }
  const share = edit.shared ? 1 / joints.length : 1;
  const pivot = edit.pivot && { joints: edit.pivot.parts.map(index), point: edit.pivot.point };
  return (weight) =>
    joints.map((joint) => ({ op: "turn", joint, space: edit.space, vector: edit.degrees.map((v) => ((v * Math.PI) / 180) * share * weight), pivot }));
}

function rotationVector(q: readonly number[]): number[] {
  const s = q[3] < 0 ? -1 : 1;
  const n = Math.hypot(q[0], q[1], q[2]);
  const k = n < 1e-12 ? 2 : (2 * Math.atan2(n, q[3] * s)) / n;
  return [q[0] * s * k, q[1] * s * k, q[2] * s * k];
}
