import { z } from "zod";
import { PatchError } from "../formats/errors.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { spaceSchema } from "./spaces.ts";

const jointName = z.string().min(1).max(200);
const vector = z.tuple([z.number(), z.number(), z.number()]);
const quaternion = z.tuple([z.number(), z.number(), z.number(), z.number()]);

/** The point about which the body turns: the middle of some parts, or a free point in the world (metres). */
export const pivotSchema = z.strictObject({ parts: z.array(jointName).max(8), point: vector.nullable() });
export type Pivot = z.infer<typeof pivotSchema>;

export const turnSchema = z.strictObject({
  op: z.literal("turn"),
  joints: z.array(jointName).min(1).max(64),
  space: spaceSchema,
  /** a rotation vector: its direction is the axis, its length the angle */
  degrees: vector,
  /** each joint of a chain takes an equal share of the turn, instead of all of it */
  shared: z.boolean(),
  pivot: pivotSchema.nullable(),
});
export const moveSchema = z.strictObject({
  op: z.literal("move"),
  joints: z.array(jointName).min(1).max(64),
  space: spaceSchema,
  centimetres: vector,
});
/** Joints set to rotations (local), or turned by them in their own frames. */
export const poseSchema = z.strictObject({
  op: z.literal("pose"),
  label: z.string().max(120),
  rotations: z.record(jointName, quaternion),
  additive: z.boolean(),
  /** 0..1 */
  amount: z.number().min(0).max(1),
  /** the body's place, moved by this in the world, centimetres */
  moved: vector.nullable(),
});
export const editSchema = z.discriminatedUnion("op", [turnSchema, moveSchema, poseSchema]);
export type Edit = z.infer<typeof editSchema>;
export type TurnEdit = z.infer<typeof turnSchema>;
export type MoveEdit = z.infer<typeof moveSchema>;
export type PoseEdit = z.infer<typeof poseSchema>;

/** A part that stays on its own course, in the world or on another part, while others are edited. */
export const holdSchema = z.strictObject({
  joint: jointName,
  position: z.boolean(),
  orientation: z.boolean(),
  /** the part that it rides on; null: the world */
  on: jointName.nullable(),
});
export type Hold = z.infer<typeof holdSchema>;

/** Index of a joint by name. Throws PatchError when the body has none of that name. */
export function jointIndex(skeleton: Skeleton, name: string, patch: string, field: string): number {
  const joint = skeleton.names.indexOf(name);
  if (joint < 0) throw new PatchError(patch, field, `this body has no joint called "${name}"; choose another part, or remove the edit`);
  return joint;
}

/** What an edit writes, in a few words. */
export function describeEdit(edit: Edit): string {
  if (edit.op === "pose") return edit.label;
  const parts = edit.joints.length > 2 ? `${edit.joints.length} parts` : edit.joints.join(", ");
  if (edit.op === "turn") return `turn ${parts} ${Math.hypot(...edit.degrees).toFixed(1)}°`;
  return `move ${parts} ${Math.hypot(...edit.centimetres).toFixed(1)} cm`;
}
