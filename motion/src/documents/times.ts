import { z } from "zod";
import { patchKind } from "../patches/index.ts";
import { type Patch, patchSchema } from "./patch.ts";

/**
 * A value with every moment in it mapped, moments being the fields that its schema marks so (`timed`). Walks through objects, lists, records,
 * choices and what may be null or left out; everything else is handed on as it is.
 */
export function mapMoments(schema: z.ZodType, value: unknown, map: (moment: number) => number): unknown {
  if (value === null || value === undefined) return value;
  if (schema.meta()?.moment === true && typeof value === "number") return map(value);
  const inner = "unwrap" in schema && typeof schema.unwrap === "function" ? (schema.unwrap() as z.ZodType) : null;
  if (inner && !(schema instanceof z.ZodArray)) return mapMoments(inner, value, map);
  if (schema instanceof z.ZodObject && typeof value === "object") {
    const shape = schema.shape as Record<string, z.ZodType>;
    return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, Object.hasOwn(shape, key) ? mapMoments(shape[key], v, map) : v]));
  }
  if (schema instanceof z.ZodArray && Array.isArray(value)) return value.map((v) => mapMoments(schema.element as z.ZodType, v, map));
  if (schema instanceof z.ZodRecord && typeof value === "object")
    return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, mapMoments(schema.valueType as z.ZodType, v, map)]));
  if (schema instanceof z.ZodUnion) {
    const option = (schema.options as z.ZodType[]).find((o) => o.safeParse(value).success);
    return option ? mapMoments(option, value, map) : value;
  }
  return value;
}

/** A patch with every moment in it mapped: its range, and what its kind marks in its settings. Lengths of time stay. */
export function movedPatch(patch: Patch, map: (moment: number) => number): Patch {
  const kind = patchKind(patch.kind);
  const { settings, ...rest } = patch;
  const frame = mapMoments(patchSchema.omit({ settings: true }), rest, map) as Omit<Patch, "settings">;
  return { ...frame, settings: (kind ? mapMoments(kind.schema, settings, map) : settings) as Patch["settings"] };
}
