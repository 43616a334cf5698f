import { z } from "zod";

/**
 * A value with every field mapped that its schema marks in its meta data. Walks through objects, lists, tuples, records, choices and what may be
 * null or left out; everything else is handed on as it is.
 */
export function mapMarked(schema: z.ZodType, value: unknown, marked: (meta: Record<string, unknown>) => boolean, map: (value: unknown) => unknown): unknown {
  if (value === null || value === undefined) return value;
  const meta = schema.meta();
  if (meta && marked(meta)) return map(value);
  const into = (inner: z.ZodType, v: unknown) => mapMarked(inner, v, marked, map);
  const inner = "unwrap" in schema && typeof schema.unwrap === "function" ? (schema.unwrap() as z.ZodType) : null;
  if (inner && !(schema instanceof z.ZodArray)) return into(inner, value);
  if (schema instanceof z.ZodObject && typeof value === "object") {
    const shape = schema.shape as Record<string, z.ZodType>;
    return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, Object.hasOwn(shape, key) ? into(shape[key], v) : v]));
  }
  if (schema instanceof z.ZodArray && Array.isArray(value)) return value.map((v) => into(schema.element as z.ZodType, v));
  if (schema instanceof z.ZodRecord && typeof value === "object")
    return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, into(schema.valueType as z.ZodType, v)]));
  if (schema instanceof z.ZodUnion) {
    const option = (schema.options as z.ZodType[]).find((o) => o.safeParse(value).success);
    return option ? into(option, value) : value;
  }
  return value;
}
