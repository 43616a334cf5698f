import { checkShape, DocumentError } from "@stride/motion";
import type { MiddlewareHandler } from "hono";
import { bodyLimit } from "hono/body-limit";
import { validator } from "hono/validator";
import type { z } from "zod";

/** Largest bodies that are taken, bytes. */
export const LARGEST_CLIP = 256 * 1024 * 1024;
export const LARGEST_DOCUMENT = 8 * 1024 * 1024;
export const LARGEST_POSE = 1024 * 1024;
/** Of requests that say only what to do. */
export const LARGEST_COMMAND = 64 * 1024;

/** Refuses a body over so many bytes before it is read. */
export function limited(bytes: number, what: string): MiddlewareHandler {
  const most = bytes >= 1024 * 1024 ? `${bytes / (1024 * 1024)} MB` : `${bytes / 1024} kB`;
  return bodyLimit({ maxSize: bytes, onError: (c) => c.json({ error: `${what} is larger than ${most}` }, 413) });
}

/** A JSON body that is checked against a schema; the first problem is told with its field. */
export function jsonBody<T extends z.ZodType>(schema: T) {
  return validator("json", (value: unknown, c) => {
    try {
      checkShape(value);
    } catch (error) {
      if (!(error instanceof DocumentError)) throw error;
      return c.json({ error: error.message }, 400);
    }
    const result = schema.safeParse(value);
    if (result.success) return result.data as z.output<T>;
    const issue = result.error.issues[0];
    return c.json({ error: `${issue.path.join(".") || "request"}: ${issue.message}` }, 400);
  });
}

/** A query that is checked against a schema; the first problem is told with its field. */
export function asked<T extends z.ZodType>(schema: T) {
  return validator("query", (value: unknown, c) => {
    const result = schema.safeParse(value);
    if (result.success) return result.data as z.output<T>;
    const issue = result.error.issues[0];
    return c.json({ error: `${issue.path.join(".") || "query"}: ${issue.message}` }, 400);
  });
}
