import { z } from "zod";
import { partRefSchema } from "../character/parts.ts";
import { curveValue, keySchema } from "../curves/keys.ts";
import { moment, timed } from "../documents/fields.ts";
import { handRotations, handShapeSchema } from "../hands/handShape.ts";
import type { Motion } from "../motion.ts";
import { definePatch, type PatchContext, THE_MOMENT } from "../patches/kind.ts";
import type { FrameOp } from "../pose/editFrame.ts";
import { editMotion, frameHolds } from "../pose/editMotion.ts";
import { holdSchema } from "../pose/edits.ts";

const schema = z.strictObject({
  byCm: z.number().min(0).max(40),
  depth: z.enum(["even", "double"]),
  calm: z.boolean(),
  deepest: timed(moment),
  with: z.array(partRefSchema).max(20),
  share: z.array(keySchema).max(100),
  stays: z.array(holdSchema).max(20),
  grip: handShapeSchema.nullable(),
});

/** A kind of patch that only tests know: the body is brought down over a stretch. Whatever shows kinds has to show it from this file alone. */
export const crouchPatch = definePatch<z.infer<typeof schema>>({
  kind: "crouch",
  title: "Crouch",
  description: "Brings the body down over a stretch.",
  schema,
  defaults: { byCm: 10, depth: "even", calm: false, deepest: 1, with: [], share: [], stays: [], grip: null },
  masked: true,
  treats: { kinds: ["limit"], propose: ({ startFrame }, motion) => ({ settings: { byCm: 2, deepest: startFrame / motion.clip.fps } }) },
  begin: (moment) => ({ settings: { deepest: moment } }),
  fields: {
    byCm: { label: "Down by", unit: "cm", step: 1 },
    depth: { label: "How deep", choices: { even: "as said", double: "twice" } },
    calm: { label: "Calmly" },
    deepest: { label: "Deepest at", unit: "f" },
    with: { label: "Together with", help: "Parts that go along" },
    share: { label: "Share", unit: "%", factor: 100, unkeyed: 1, help: "How much of it there is, over time" },
    stays: { label: "Stays" },
    grip: { label: "Grip", side: "right" },
  },
  sees: () => THE_MOMENT,
  apply(motion: Motion, settings, context: PatchContext): Motion {
    for (const part of settings.with) context.part(part, "with");
    const { skeleton, body } = motion.character;
    const by = ((settings.depth === "double" ? 2 : 1) * settings.byCm) / 100;
    const grip = settings.grip ? handRotations(skeleton, body, "right", settings.grip) : [];
    const share = (frame: number) => (settings.share.length === 0 ? 1 : curveValue(settings.share, (context.offset + frame) / context.fps));
    const ops = (frame: number, weight: number): FrameOp[] => [
      { op: "carry", vector: [0, -by * weight * share(frame), 0] },
      ...grip.map(([joint, rotation]): FrameOp => ({ op: "set", joint, rotation, weight })),
    ];
    return editMotion(motion, context, ops, frameHolds(settings.stays, context));
  },
});
