import { z } from "zod";
import { moment, timed } from "../documents/fields.ts";
import { secondsOf, settingsUpgrade } from "../documents/steps.ts";
import { PatchError } from "../formats/errors.ts";
import { cropWarp, frameOf } from "../time/warp.ts";
import { definePatch } from "./kind.ts";

const schema = z.strictObject({
  from: timed(moment),
  /** null: to the end */
  to: timed(moment).nullable(),
});
export type TrimSettings = z.infer<typeof schema>;

export const trimPatch = definePatch<TrimSettings>({
  kind: "trim",
  title: "Trim",
  group: "time",
  description: "Keeps a stretch of time and drops what is before and after it; contacts go along.",
  schema,
  defaults: { from: 0, to: null },
  masked: false,
  ranged: false,
  fields: {
    from: { label: "Keep from", unit: "f", step: 1, inFrames: true },
    to: { label: "Keep to", unit: "f", step: 1, inFrames: true, help: "Empty: to the end" },
  },
  fromFrames: settingsUpgrade({
    keepFromFrame: (v, fps) => ({ from: secondsOf(v, fps) }),
    keepToFrame: (v, fps) => ({ to: v === null ? null : secondsOf(v, fps) }),
  }),
  sees: () => "whole",
  warp(settings, { id, name, seconds: length, fps }) {
    const to = Math.min(length, settings.to ?? length);
    if (settings.from > to) {
      const frame = (moment: number) => Math.round(frameOf(moment, fps));
      throw new PatchError(
        id,
        name,
        "from",
        `frame ${frame(settings.from)} lies behind frame ${frame(to)}, so nothing would be left; choose a moment before it`,
      );
    }
    return cropWarp(settings.from, to);
  },
});
