import { z } from "zod";
import { SIDES } from "../character/roles.ts";
import { PatchError } from "../formats/errors.ts";
import { FLAT_HAND, handRotations, handShapeSchema } from "../hands/handShape.ts";
import type { Motion } from "../motion.ts";
import type { FrameOp } from "../pose/editFrame.ts";
import { editMotion } from "../pose/editMotion.ts";
import { definePatch, type PatchContext, THE_MOMENT } from "./kind.ts";

const schema = z.strictObject({
  /** null: that hand keeps its own motion */
  left: handShapeSchema.nullable(),
  right: handShapeSchema.nullable(),
});
export type HandShapeSettings = z.infer<typeof schema>;

export const handShapePatch = definePatch<HandShapeSettings>({
  kind: "handShape",
  title: "Hand shape",
  group: "hands",
  description: "Puts the fingers, and only them, into a shape; noisy or missing finger motion is replaced.",
  schema,
  defaults: { left: FLAT_HAND, right: FLAT_HAND },
  masked: false,
  poses: true,
  fields: {
    left: { label: "left hand", side: "left" },
    right: { label: "right hand", side: "right" },
  },
  sees: () => THE_MOMENT,
  apply(motion: Motion, settings: HandShapeSettings, context: PatchContext): Motion {
    const rotations = SIDES.flatMap((side) => {
      const shape = settings[side];
      return shape ? handRotations(motion.character.skeleton, motion.character.body, side, shape) : [];
    });
    if (!settings.left && !settings.right) return motion;
    if (rotations.length === 0)
      throw new PatchError(context.id, context.name, "left", "this body has no known fingers; name them in the body map, or drop the patch");
    return editMotion(motion, context, (_, weight) => rotations.map(([joint, rotation]): FrameOp => ({ op: "set", joint, rotation, weight })), []);
  },
});
