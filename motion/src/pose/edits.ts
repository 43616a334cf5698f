import { z } from "zod";
import { type PartRef, partName, partRefSchema } from "../character/parts.ts";
import { keyName, unitQuaternion, vector } from "../documents/fields.ts";
import { spaceSchema } from "./spaces.ts";

/** The point about which the body turns: the middle of some parts, or a free point in the world (metres). */
export const pivotSchema = z.strictObject({ parts: z.array(partRefSchema).max(8), point: vector.nullable() });
export type Pivot = z.infer<typeof pivotSchema>;

export const turnSchema = z.strictObject({
  op: z.literal("turn"),
  parts: z.array(partRefSchema).min(1).max(64),
  space: spaceSchema,
  /** a rotation vector: its direction is the axis, its length the angle */
  degrees: vector,
  /** each part of a chain takes an equal share of the turn, instead of all of it */
  shared: z.boolean(),
  pivot: pivotSchema.nullable(),
});
export const moveSchema = z.strictObject({
  op: z.literal("move"),
  parts: z.array(partRefSchema).min(1).max(64),
  space: spaceSchema,
  centimetres: vector,
});
/** Parts set to rotations (local), or turned by them in their own frames; by role, or by `=` and the joint's name. */
export const poseSchema = z.strictObject({
  op: z.literal("pose"),
  label: z.string().max(120),
  rotations: z.record(keyName, unitQuaternion),
  additive: z.boolean(),
  /** 0..1 */
  amount: z.number().min(0).max(1),
  /** the body's place, moved by this in the world, centimetres */
  moved: vector.nullable(),
});
export const editSchema = z.discriminatedUnion("op", [turnSchema, moveSchema, poseSchema]);
export type Edit = z.infer<typeof editSchema>;
export type TurnEdit = z.infer<typeof turnSchema>;

export type PoseEdit = z.infer<typeof poseSchema>;

/** A part that stays on its own course, in the world or on another part, while others are edited. */
export const holdSchema = z
  .strictObject({
    part: partRefSchema,
    position: z.boolean(),
    orientation: z.boolean(),
    /** the part that it rides on; null: the world */
    on: partRefSchema.nullable(),
  })
  .meta({ field: "hold" });
export type Hold = z.infer<typeof holdSchema>;

/** What an edit writes, in a few words. */
export function describeEdit(edit: Edit, nameOf: (part: PartRef) => string = partName): string {
  if (edit.op === "pose") return edit.label;
  const parts = edit.parts.length > 2 ? `${edit.parts.length} parts` : edit.parts.map((part) => nameOf(part)).join(", ");
  if (edit.op === "turn") return `turn ${parts} ${Math.hypot(...edit.degrees).toFixed(1)}°`;
  return `move ${parts} ${Math.hypot(...edit.centimetres).toFixed(1)} cm`;
}
