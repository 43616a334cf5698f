import { DocumentError } from "./errors.ts";

/** Deepest nesting of a document that is looked at: what is deeper is no document of ours. */
const DEEPEST = 64;

/**
 * Refuses what no document may hold, whatever its kind: nesting so deep that it would exhaust whoever walks through it, and keys that objects take
 * for their prototype. Walks without recursion. Throws DocumentError naming the field.
 */
export function checkShape(data: unknown): void {
  let level: { readonly path: string; readonly value: unknown }[] = [{ path: "", value: data }];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > DEEPEST) throw new DocumentError("", `nested deeper than ${DEEPEST} levels; this is no document of that kind`);
    level = level.flatMap(({ path, value }) => {
      if (typeof value !== "object" || value === null) return [];
      if (Object.hasOwn(value, "__proto__")) throw new DocumentError(path ? `${path}.__proto__` : "__proto__", "this name cannot be used");
      return Object.entries(value).flatMap(([key, inner]) =>
        typeof inner === "object" && inner !== null ? [{ path: path ? `${path}.${key}` : key, value: inner }] : [],
      );
    });
  }
}
