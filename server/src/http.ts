import { checkShape, DocumentError } from "@stride/motion";
import type { MiddlewareHandler } from "hono";
import { bodyLimit } from "hono/body-limit";
import { HTTPException } from "hono/http-exception";
import { validator } from "hono/validator";
import { z } from "zod";

/** Largest bodies that are taken, bytes. */
export const LARGEST_CLIP = 256 * 1024 * 1024;
export const LARGEST_DOCUMENT = 8 * 1024 * 1024;
export const LARGEST_POSE = 1024 * 1024;
const LARGEST_COMMAND = 64 * 1024;

/** What a person calls a thing. */
export const title = z.string().trim().min(1, "a name is needed").max(200, "a name has at most 200 characters");
/** Where a clip lies: names with "/" between them; empty: nowhere in particular. */
export const clipFolder = z
  .string()
  .trim()
  .max(200, "a folder's name has at most 200 characters")
  .transform((text) =>
    text
      .split("/")
      .map((part) => part.trim())
      .filter((part) => part !== "")
      .join("/"),
  );
export const clipTags = z.array(z.string().trim().min(1, "a tag is a word").max(60, "a tag has at most 60 characters")).max(40, "a clip has at most 40 tags");

/** What is not there, as an error that is answered with 404. */
export const missing = (what: string) => new HTTPException(404, { message: `there is no such ${what}` });

/** Refuses a body over so many bytes before it is read. */
export function limited(bytes: number, what: string): MiddlewareHandler {
  const most = bytes >= 1024 * 1024 ? `${bytes / (1024 * 1024)} MB` : `${bytes / 1024} kB`;
  return bodyLimit({ maxSize: bytes, onError: (c) => c.json({ error: `${what} is larger than ${most}` }, 413) });
}

/** Of requests that say only what to do. */
export const command = limited(LARGEST_COMMAND, "the request");

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
