import { z } from "zod";
import { partRefSchema } from "../character/parts.ts";
import { RAMP_SHAPES } from "../math/ramp.ts";
import { duration, moment, timed } from "./fields.ts";

/** Longest ramp of a patch, seconds. */
export const LONGEST_RAMP = 60;
/** Most parts that a document may name in one list. */
export const MOST_PARTS = 4096;

const shortName = z.string().min(1).max(120);

/**
 * One step of a stack. Ranges (both ends inclusive), ramps and all moments in its settings are seconds of the motion that the patch receives; a
 * null range is the whole of it, null parts are all. Ramps lie outside the range.
 */
export const patchSchema = z.strictObject({
  id: z.string().min(1).max(40),
  kind: z.string().min(1).max(40),
  name: shortName,
  muted: z.boolean().default(false),
  solo: z.boolean().default(false),
  range: z
    .strictObject({ start: timed(moment), end: timed(moment) })
    .refine((r) => r.end >= r.start, { error: "the range ends before it starts", path: ["end"] })
    .nullable()
    .default(null),
  rampIn: duration(LONGEST_RAMP).default(0),
  rampOut: duration(LONGEST_RAMP).default(0),
  rampShape: z.enum(RAMP_SHAPES).default("smooth"),
  parts: z.array(partRefSchema).max(MOST_PARTS).nullable().default(null),
  weight: z.number().min(0).max(1).default(1),
  settings: z.record(z.string().max(60), z.unknown()).default({}),
});
export type Patch = z.infer<typeof patchSchema>;

export function makePatch(kind: string, name: string, id: string, settings: Record<string, unknown> = {}): Patch {
  return { id, kind, name, muted: false, solo: false, range: null, rampIn: 0, rampOut: 0, rampShape: "smooth", parts: null, weight: 1, settings };
}

/** Patches that take part: not muted, and when any is soloed only those. */
export function activePatches(patches: readonly Patch[]): Patch[] {
  const solo = patches.some((p) => p.solo && !p.muted);
  return patches.filter((p) => !p.muted && (!solo || p.solo));
}
