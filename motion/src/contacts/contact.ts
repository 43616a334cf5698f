import { z } from "zod";
import { type PartRef, partRefSchema } from "../character/parts.ts";
import { seconds, timed } from "../documents/fields.ts";

export const anchorModeSchema = z.enum(["settle", "first", "last", "set"]);
export type AnchorMode = z.infer<typeof anchorModeSchema>;

/** What a contact rests on: the ground under it, a place of its own in the world (a box, a rail), or another part of the body (a joint). */
export type ContactOn = "ground" | "place" | { readonly joint: number };

/**
 * A span over which a contact point rests. Frames are inclusive. `anchor.point` is where it rests, metres, in the world or in the frame of the
 * part that it rests on: chosen by the plant from `mode`, or given when the mode is "set". Ramps are frames outside the span; null until
 * a plant says how long they are.
 */
export interface Contact {
  /** id of a contact point of the character */
  readonly point: string;
  /** joint that reports name for it */
  readonly joint: number;
  readonly start: number;
  readonly end: number;
  readonly on: ContactOn;
  readonly anchor: { readonly mode: AnchorMode; readonly point: readonly [number, number, number] | null };
  readonly rampIn: number | null;
  readonly rampOut: number | null;
  readonly origin: "found" | "set";
  /** name of the other clip that it came with; without one it is the source's own */
  readonly of?: string;
  /** height over the ground at which the part is held, metres; without one it rests on what it rests on */
  readonly height?: number;
  /** how flat a foot is laid before it is held, 0..1; without one as the plant says */
  readonly flat?: number;
  /** frames before and after one that was found on which trembling hides whether the part rests; without it none */
  readonly doubtful?: readonly [number, number];
  /** frames before and after it on which it is held as well; without it none */
  readonly linger?: readonly [number, number];
}

/** First and last frame on which a contact is held. */
export function heldFrames({ start, end, linger }: Contact): readonly [number, number] {
  return linger ? [start - linger[0], end + linger[1]] : [start, end];
}

/** Where a part that no limb carries (back, seat, head, knee) touches the ground is an estimate, and differs with how it lies: found there it keeps the height at which it rests, unless one was set. */
export function keepsHeight(contact: Contact, point: { readonly limb: number } | undefined): boolean {
  return contact.origin === "found" && contact.height === undefined && point !== undefined && point.limb < 0;
}

const place = z.tuple([z.number(), z.number(), z.number()]);

/** What a person did to the contacts of a clip, in seconds of the source. Kept in the work; detection never overwrites it. */
export const contactEditSchema = z
  .strictObject({
    id: z.string().min(1).max(40),
    /** id of a contact point, such as "leftHeel" */
    point: z.string().min(1).max(40),
    /** a span that is there, or a stretch in which there is none */
    kind: z.enum(["span", "none"]),
    start: timed(seconds),
    end: timed(seconds),
    rests: anchorModeSchema.default("settle"),
    /** null: on the ground, or on a place of its own where it lies well off the ground */
    on: z
      .union([z.enum(["ground", "place"]), partRefSchema])
      .nullable()
      .default(null),
    anchor: place.nullable().default(null),
    rampIn: seconds.nullable().default(null),
    rampOut: seconds.nullable().default(null),
    /** metres over the ground at which the part is held exactly; null: where it rests */
    height: z.number().min(-3).max(10).nullable().default(null),
    /** does the limb hang from this point? Its end's other points do not rest meanwhile. */
    leads: z.boolean().default(false),
    /** 0..1; null: as the plant says */
    flat: z.number().min(0).max(1).nullable().default(null),
  })
  .refine((edit) => edit.end >= edit.start, { error: "the contact ends before it starts", path: ["end"] })
  .refine((edit) => edit.rests !== "set" || edit.anchor !== null, { error: "a contact that is set somewhere needs its place", path: ["anchor"] });
export type ContactEdit = z.infer<typeof contactEditSchema>;

/** An edit that sets a span as it is by itself, but for what is said. */
export function makeContactEdit(edit: Pick<ContactEdit, "id" | "point" | "start" | "end"> & Partial<ContactEdit>): ContactEdit {
  const unsaid = { rests: "settle", on: null, anchor: null, rampIn: null, rampOut: null, height: null, leads: false, flat: null } as const;
  return { kind: "span", ...unsaid, ...edit };
}

/** What edits need to know of the clip they are laid over. */
export interface EditTarget {
  readonly fps: number;
  readonly frameCount: number;
  /** joint to be named for a point, or undefined where the body has no such point */
  namedJoint(point: string): number | undefined;
  /** the other points of a point's limb end: of a toe, the heel */
  besides(point: string): readonly string[];
  /** joint of a part, or undefined where the body has none */
  jointOf(part: PartRef): number | undefined;
}

/**
 * Found contacts with a person's edits laid over them: a set span replaces every found one of its point that it touches, and a "none" stretch
 * removes every found one that lies mostly inside it. Later edits win over earlier ones. Edits of points or parts that the body lacks,
 * and those that begin behind the clip, change nothing; they are listed by id in `unused`.
 */
export function applyContactEdits(
  found: readonly Contact[],
  edits: readonly ContactEdit[],
  target: EditTarget,
): { readonly contacts: Contact[]; readonly unused: readonly string[] } {
  let result = [...found];
  const unused: string[] = [];
  const last = target.frameCount - 1;
  for (const edit of edits) {
    const joint = target.namedJoint(edit.point);
    const part = edit.on !== null && typeof edit.on === "object" ? target.jointOf(edit.on) : -1;
    const start = Math.round(edit.start * target.fps);
    if (joint === undefined || part === undefined || start > last) {
      unused.push(edit.id);
      continue;
    }
    const end = Math.max(start, Math.min(last, Math.round(edit.end * target.fps)));
    if (edit.kind === "none") {
      result = result.filter((c) => c.point !== edit.point || overlap(c.start, c.end, start, end) * 2 < c.end - c.start + 1);
      continue;
    }
    const replaced = result.find((c) => c.point === edit.point && overlap(c.start, c.end, start, end) > 0);
    result = result.filter((c) => c.point !== edit.point || overlap(c.start, c.end, start, end) === 0);
    if (edit.leads) {
      const freed = target.besides(edit.point);
      result = result.flatMap((c) => (freed.includes(c.point) ? outside(c, start, end) : [c]));
    }
    result.push({
      point: edit.point,
      joint,
      start,
      end,
      on: part >= 0 ? { joint: part } : ((edit.on as "ground" | "place" | null) ?? (replaced?.on === "place" ? "place" : "ground")),
      anchor: { mode: edit.rests, point: edit.anchor },
      rampIn: edit.rampIn === null ? null : Math.round(edit.rampIn * target.fps),
      rampOut: edit.rampOut === null ? null : Math.round(edit.rampOut * target.fps),
      origin: "set",
      ...(edit.height !== null && { height: edit.height }),
      ...(edit.flat !== null && { flat: edit.flat }),
    });
  }
  return { contacts: sortContacts(result), unused };
}

/** What is left of a contact outside a stretch: nothing, one piece or two. */
function outside(contact: Contact, start: number, end: number): Contact[] {
  if (overlap(contact.start, contact.end, start, end) === 0) return [contact];
  return [
    { ...contact, end: start - 1 },
    { ...contact, start: end + 1 },
  ].filter((c) => c.end > c.start);
}

export function sortContacts(contacts: readonly Contact[]): Contact[] {
  return [...contacts].sort((a, b) => a.start - b.start || a.point.localeCompare(b.point));
}

/** Number of frames that two inclusive ranges share. */
export function overlap(a0: number, a1: number, b0: number, b1: number): number {
  return Math.max(0, Math.min(a1, b1) - Math.max(a0, b0) + 1);
}
