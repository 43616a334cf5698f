import { z } from "zod";
import { contactEditSchema } from "./contacts/contact.ts";
import { RAMP_SHAPES } from "./math/ramp.ts";
import { storedPoseSchema } from "./pose/poses.ts";
import { isRole, type Role } from "./skeleton/roles.ts";

/** One step of a stack. Ranges and ramps are in frames of the motion that the patch receives; a null range is the whole of it. */
export const patchSchema = z.strictObject({
  id: z.string().min(1).max(40),
  kind: z.string().min(1).max(40),
  name: z.string().min(1).max(120),
  muted: z.boolean().default(false),
  solo: z.boolean().default(false),
  range: z
    .strictObject({ start: z.int().min(0), end: z.int().min(0) })
    .refine((r) => r.end >= r.start, "the range ends before it starts")
    .nullable()
    .default(null),
  rampInFrames: z.int().min(0).max(600).default(0),
  rampOutFrames: z.int().min(0).max(600).default(0),
  rampShape: z.enum(RAMP_SHAPES).default("smooth"),
  /** joint names; null: all */
  mask: z.array(z.string().max(200)).max(4096).nullable().default(null),
  weight: z.number().min(0).max(1).default(1),
  settings: z.record(z.string().max(60), z.unknown()).default({}),
});
export type Patch = z.infer<typeof patchSchema>;

export const WORK_FORMAT = "patch-stride.work/1";
export const RECIPE_FORMAT = "patch-stride.recipe/1";

/** A work without its clip: what is saved, undone and compared. */
export const workSchema = z.strictObject({
  format: z.literal(WORK_FORMAT),
  /** applied in order, the first one first */
  patches: z.array(patchSchema).max(200),
  contacts: z.array(contactEditSchema).max(5000).default([]),
  /** corrections to the body map: role → joint name or null */
  body: z.record(z.string(), z.string().max(200).nullable()).default({}),
  /** is the plant solved once more on the finished motion? */
  livePlant: z.boolean().default(true),
  /** the person's own pose to come back to */
  neutral: storedPoseSchema.nullable().default(null),
});
export type Work = z.infer<typeof workSchema>;

export const recipeSchema = z.strictObject({
  format: z.literal(RECIPE_FORMAT),
  name: z.string().min(1).max(120),
  patches: z.array(patchSchema).max(200),
});
export type Recipe = z.infer<typeof recipeSchema>;

export function emptyWork(): Work {
  return { format: WORK_FORMAT, patches: [], contacts: [], body: {}, livePlant: true, neutral: null };
}

export function makePatch(kind: string, name: string, id: string, settings: Record<string, unknown> = {}): Patch {
  return { id, kind, name, muted: false, solo: false, range: null, rampInFrames: 0, rampOutFrames: 0, rampShape: "smooth", mask: null, weight: 1, settings };
}

/** The recipe that `clean` runs when none is given: floor, then plants with their travel correction. */
export const DEFAULT_RECIPE: Recipe = {
  format: RECIPE_FORMAT,
  name: "Ground the feet",
  patches: [makePatch("floor", "Set floor", "floor"), makePatch("plant", "Plant feet", "plant")],
};

/** A problem with a saved document: which field, and what is wrong with it. */
export class DocumentError extends Error {
  override readonly name = "DocumentError";
}

/** Reads a saved document of the given kind; an unknown version is refused by name. Throws DocumentError. */
export function readDocument<T>(schema: z.ZodType<T>, format: string, data: unknown): T {
  const stated = typeof data === "object" && data !== null && "format" in data ? data.format : undefined;
  if (stated !== format) {
    throw new DocumentError(
      stated === undefined
        ? `format: expected "${format}"; this is no document of that kind`
        : `format: this version reads "${format}", not ${JSON.stringify(stated).slice(0, 60)}`,
    );
  }
  const parsed = schema.safeParse(data);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new DocumentError(`${issue.path.join(".") || "document"}: ${issue.message}`);
  }
  return parsed.data;
}

/** Corrections of the body map, checked: unknown roles are dropped. */
export function bodyOverrides(work: Work): Partial<Record<Role, string | null>> {
  const out: Partial<Record<Role, string | null>> = {};
  for (const [role, joint] of Object.entries(work.body)) if (isRole(role)) out[role] = joint;
  return out;
}
