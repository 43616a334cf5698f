import { z } from "zod";
import type { BodyOverrides } from "../character/bodyMap.ts";
import { isRole, type Role } from "../character/roles.ts";
import { contactEditSchema } from "../contacts/contact.ts";
import { storedPoseSchema } from "../pose/storedPose.ts";
import { makePatch, patchSchema } from "./patch.ts";

export const WORK_FORMAT = "patch-stride.work/2";
export const RECIPE_FORMAT = "patch-stride.recipe/2";

/** Most patches of a stack, and most edits of contacts. */
export const MOST_PATCHES = 200;
export const MOST_CONTACT_EDITS = 5000;

/** Corrections to a body map: role → joint name or null. */
export const bodyMapSchema = z
  .record(
    z.string().refine((key): boolean => isRole(key), { error: "no part of a body is called so" }),
    z.string().min(1).max(200).nullable(),
  )
  .default({});

/** A work without its clip: what is saved, undone and compared. */
export const workSchema = z.strictObject({
  format: z.literal(WORK_FORMAT),
  /** applied in order, the first one first */
  patches: z.array(patchSchema).max(MOST_PATCHES),
  contacts: z.array(contactEditSchema).max(MOST_CONTACT_EDITS).default([]),
  /** corrections to the body map: role → joint name or null */
  body: bodyMapSchema,
  /** what a person says carries the body through the clip: its feet, or something else; null: as its feet show */
  carriedBy: z.enum(["feet", "stillGround", "other"]).nullable().default(null),
  /** are plants solved once more on the finished motion? */
  livePlant: z.boolean().default(true),
  /** the person's own pose to come back to */
  neutral: storedPoseSchema.nullable().default(null),
});
export type Work = z.infer<typeof workSchema>;

/** A patch of a recipe may leave out all but its kind. */
const recipePatchSchema = patchSchema.extend({ id: patchSchema.shape.id.optional(), name: patchSchema.shape.name.optional() });

export const recipeSchema = z.strictObject({
  format: z.literal(RECIPE_FORMAT),
  name: z.string().min(1).max(120),
  patches: z.array(recipePatchSchema).max(MOST_PATCHES),
});
export type Recipe = Omit<z.infer<typeof recipeSchema>, "patches"> & Pick<Work, "patches">;

export function emptyWork(): Work {
  return { format: WORK_FORMAT, patches: [], contacts: [], body: {}, carriedBy: null, livePlant: true, neutral: null };
}

/** The recipe that `clean` runs when none is given: floor, then plants with their travel correction. */
export const DEFAULT_RECIPE: Recipe = {
  format: RECIPE_FORMAT,
  name: "Ground the feet",
  patches: [makePatch("floor", "Set floor", "floor"), makePatch("plant", "Plant feet", "plant")],
};

/** Corrections of the body map by role. */
export function bodyOverrides(work: Pick<Work, "body">): BodyOverrides {
  return work.body as Partial<Record<Role, string | null>>;
}
