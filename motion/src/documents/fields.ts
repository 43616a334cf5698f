import { z } from "zod";

/** Longest time that a document may name, seconds: ten hours. */
const LONGEST_SECONDS = 36_000;

/** A moment or a length of time, seconds. */
export const seconds = z.number().min(0).max(LONGEST_SECONDS);

/** A moment of the motion that a patch receives, seconds: before its start or behind its end where a change of time beneath has cut it away. */
export const moment = z.number().min(-LONGEST_SECONDS).max(LONGEST_SECONDS);

/** What the walker over times finds in a schema's meta data. */
export interface TimeMark {
  /** a moment of the motion that a patch receives (of the source, in a contact edit), which moves along when time below it changes */
  readonly moment: true;
}

/** Marks a field as a moment, so that one walker finds them all. */
export function timed<T extends z.ZodType>(schema: T): T {
  return schema.meta({ moment: true } satisfies TimeMark) as T;
}

/** A length of time that does not move with anything. */
export function duration(most: number): z.ZodNumber {
  return z.number().min(0).max(most);
}

/** A place or a way, three finite numbers. */
export const vector = z.tuple([z.number(), z.number(), z.number()]);

/** How far a stored quaternion's length may be off 1: 32-bit samples are off by far less. */
const UNIT_SLACK = 0.01;

export const unitQuaternion = z
  .tuple([z.number(), z.number(), z.number(), z.number()])
  .refine((q) => Math.abs(Math.hypot(...q) - 1) <= UNIT_SLACK, { error: "expected a rotation: four numbers x, y, z, w of length 1" });

/** Names that objects treat as their own business: no joint or part of ours. */
const RESERVED = new Set(["__proto__", "constructor", "prototype"]);

/** A word that names a joint or part as a key of a record. */
export const keyName = z
  .string()
  .min(1)
  .max(201)
  .refine((key) => !RESERVED.has(key), { error: "this name cannot be used" });
