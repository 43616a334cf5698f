import { z } from "zod";
import { cropClip } from "../clip/clip.ts";
import { PatchError } from "../formats/errors.ts";
import type { Motion } from "../motion.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const schema = z.strictObject({
  keepFromFrame: z.int().min(0),
  /** null: to the last frame */
  keepToFrame: z.int().min(0).nullable(),
});
type TrimSettings = z.infer<typeof schema>;

export const trimPatch = definePatch<TrimSettings>({
  kind: "trim",
  title: "Trim",
  description: "Keeps a stretch of frames and drops what is before and after it; contacts go along.",
  schema,
  defaults: { keepFromFrame: 0, keepToFrame: null },
  masked: false,
  local: false,
  fields: {
    keepFromFrame: { label: "Keep from", unit: "f", step: 1 },
    keepToFrame: { label: "Keep to", unit: "f", step: 1, help: "Empty: to the last frame" },
  },
  apply(motion: Motion, settings: TrimSettings, context: PatchContext): Motion {
    const last = motion.clip.frameCount - 1;
    const from = settings.keepFromFrame;
    const to = Math.min(last, settings.keepToFrame ?? last);
    if (from > to)
      throw new PatchError(context.name, "keepFromFrame", `frame ${from} lies behind frame ${to}, so nothing would be left; choose a frame before it`);
    if (from === 0 && to === last) return motion;
    const contacts = motion.contacts
      .filter((c) => c.end >= from && c.start <= to)
      .map((c) => ({ ...c, start: Math.max(c.start, from) - from, end: Math.min(c.end, to) - from }));
    const clip = cropClip(motion.clip, from, to);
    const plant = motion.plant && {
      ...motion.plant,
      weights: motion.plant.weights.slice(from, to + 1),
      solved: motion.plant.solved === motion.clip ? clip : motion.plant.solved,
    };
    return { ...motion, clip, contacts, plant, timeMap: motion.timeMap.slice(from, to + 1) };
  },
});
