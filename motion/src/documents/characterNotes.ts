import { z } from "zod";
import { DocumentError } from "./errors.ts";
import { checkShape } from "./shape.ts";
import { bodyMapSchema } from "./work.ts";

export const CHARACTER_FORMAT = "patch-stride.character/1";

const degrees = z.number().min(-180).max(180);
const range = z.tuple([degrees, degrees]).refine(([low, high]) => low <= high, { error: "expected the lower bound first" });
const jointName = z.string().min(1).max(200);

/**
 * What a person says of a character, beside its file: corrections of what is read of it, and what its joints may do. Kept with the character, so that every work that is cast onto it has it; joints
 * by their own names.
 */
export const characterNotesSchema = z.strictObject({
  format: z.literal(CHARACTER_FORMAT),
  /** corrections to the body map: role → joint name or null */
  body: bodyMapSchema,
  /** joint → how it is turned, in degrees about its own x, then y, then z, to come from how the file rests into the pose in which bodies are alike */
  rest: z.record(jointName, z.tuple([degrees, degrees, degrees])).default({}),
  /** contact point → where it lies in its joint's frame, metres */
  points: z.record(z.string().min(1).max(60), z.tuple([z.number(), z.number(), z.number()])).default({}),
  /** joint → how far it may bend, go sideways and twist, degrees from how it rests */
  limits: z.record(jointName, z.strictObject({ bend: range, side: range, twist: range })).default({}),
});
export type CharacterNotes = z.infer<typeof characterNotesSchema>;

export function emptyNotes(): CharacterNotes {
  return { format: CHARACTER_FORMAT, body: {}, rest: {}, points: {}, limits: {} };
}

/** Checks notes that come from outside. Throws DocumentError naming what is wrong. */
export function readCharacterNotes(data: unknown): CharacterNotes {
  checkShape(data);
  const parsed = characterNotesSchema.safeParse(data);
  if (parsed.success) return parsed.data;
  const [{ path, message }] = parsed.error.issues;
  throw new DocumentError(path.join("."), message);
}
