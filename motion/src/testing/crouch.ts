import { z } from "zod";
import { partRefSchema } from "../character/parts.ts";
import { ClipDraft, readPosition } from "../clip/clip.ts";
import { seconds, timed } from "../documents/fields.ts";
import type { Motion } from "../motion.ts";
import { definePatch, type PatchContext, THE_MOMENT } from "../patches/kind.ts";

const schema = z.strictObject({
  byCm: z.number().min(0).max(40),
  depth: z.enum(["even", "double"]),
  calm: z.boolean(),
  deepest: timed(seconds),
  with: z.array(partRefSchema).max(20),
});

/** A kind of patch that only tests know: the body is brought down over a stretch. Whatever shows kinds has to show it from this file alone. */
export const crouchPatch = definePatch<z.infer<typeof schema>>({
  kind: "crouch",
  title: "Crouch",
  description: "Brings the body down over a stretch.",
  schema,
  defaults: { byCm: 10, depth: "even", calm: false, deepest: 1, with: [] },
  masked: true,
  treats: { kinds: ["jump"], propose: ({ startFrame }, motion) => ({ settings: { byCm: 2, deepest: startFrame / motion.clip.fps } }) },
  begin: (moment) => ({ settings: { deepest: moment } }),
  fields: {
    byCm: { label: "Down by", unit: "cm", step: 1 },
    depth: { label: "How deep", choices: { even: "as said", double: "twice" } },
    calm: { label: "Calmly" },
    deepest: { label: "Deepest at", unit: "f" },
    with: { label: "Together with", help: "Parts that go along" },
  },
  sees: () => THE_MOMENT,
  apply(motion: Motion, settings, context: PatchContext): Motion {
    for (const part of settings.with) context.part(part, "with");
    const draft = ClipDraft.of(motion.clip);
    const place = [0, 0, 0];
    const by = ((settings.depth === "double" ? 2 : 1) * settings.byCm) / 100;
    context.weights.forEach((w, f) => {
      if (w === 0) return;
      readPosition(motion.clip, 0, f, place, 0);
      draft.setPosition(0, f, [place[0], place[1] - w * by, place[2]]);
    });
    return { ...motion, clip: draft.done() };
  },
});
