import { z } from "zod";

/** Parts of the body that can rest on something. */
export const BIPED_PARTS = ["leftHeel", "leftToe", "rightHeel", "rightToe", "leftHand", "rightHand"] as const;
export const QUADRUPED_PARTS = ["leftFore", "rightFore", "leftHind", "rightHind"] as const;
export const contactPartSchema = z.enum([...BIPED_PARTS, ...QUADRUPED_PARTS]);
export type ContactPart = z.infer<typeof contactPartSchema>;

export const anchorModeSchema = z.enum(["settle", "first", "last", "set"]);
export type AnchorMode = z.infer<typeof anchorModeSchema>;

/**
 * A span over which a part rests. Frames are inclusive. `anchor.point` (world, metres) is where it rests: chosen by the plant from
 * `mode`, or given when the mode is "set". Ramps are frames outside the span; null leaves them to the plant's settings.
 */
export interface Contact {
  readonly part: ContactPart;
  readonly joint: number;
  readonly start: number;
  readonly end: number;
  readonly surface: "floor" | "own";
  readonly anchor: { readonly mode: AnchorMode; readonly point: readonly [number, number, number] | null };
  readonly rampIn: number | null;
  readonly rampOut: number | null;
  readonly origin: "found" | "set";
}

/** What a person did to the contacts of a clip, in frames of the source. Kept in the work; detection never overwrites it. */
export const contactEditSchema = z.strictObject({
  id: z.string().min(1).max(40),
  part: contactPartSchema,
  /** a span that is there, or a stretch in which there is none */
  kind: z.enum(["span", "none"]),
  start: z.int().min(0),
  end: z.int().min(0),
  mode: anchorModeSchema.default("settle"),
  point: z.tuple([z.number(), z.number(), z.number()]).nullable().default(null),
  rampInFrames: z.int().min(0).max(600).nullable().default(null),
  rampOutFrames: z.int().min(0).max(600).nullable().default(null),
});
export type ContactEdit = z.infer<typeof contactEditSchema>;

/**
 * Found contacts with a person's edits laid over them: a set span replaces every found one of its part that it touches, and a "none"
 * stretch removes every found one that lies mostly inside it. Later edits win over earlier ones.
 */
export function applyContactEdits(
  found: readonly Contact[],
  edits: readonly ContactEdit[],
  jointOf: (part: ContactPart) => number,
  frameCount: number,
): Contact[] {
  let result = [...found];
  for (const edit of edits) {
    const start = Math.min(edit.start, frameCount - 1);
    const end = Math.min(edit.end, frameCount - 1);
    if (edit.kind === "none") {
      result = result.filter((c) => c.part !== edit.part || overlap(c.start, c.end, start, end) * 2 < c.end - c.start + 1);
      continue;
    }
    result = result.filter((c) => c.part !== edit.part || overlap(c.start, c.end, start, end) === 0);
    result.push({
      part: edit.part,
      joint: jointOf(edit.part),
      start,
      end: Math.max(start, end),
      surface: "floor",
      anchor: { mode: edit.mode, point: edit.point },
      rampIn: edit.rampInFrames,
      rampOut: edit.rampOutFrames,
      origin: "set",
    });
  }
  return sortContacts(result);
}

export function sortContacts(contacts: readonly Contact[]): Contact[] {
  return [...contacts].sort((a, b) => a.start - b.start || a.part.localeCompare(b.part));
}

/** Number of frames that two inclusive ranges share. */
export function overlap(a0: number, a1: number, b0: number, b1: number): number {
  return Math.max(0, Math.min(a1, b1) - Math.max(a0, b0) + 1);
}
