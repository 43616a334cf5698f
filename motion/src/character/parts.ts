import { z } from "zod";
import type { Skeleton } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import { isRole, ROLES, type Role, roleLabel } from "./roles.ts";

/**
 * A part of a body as documents name it: by role where the body map knows it, so that it means the same on another body, else by the joint's
 * own name.
 */
export const partRefSchema = z
  .union(
    [
      z.strictObject({ role: z.string().refine(isRole, { error: "no part of a body is called so" }) as unknown as z.ZodType<Role> }),
      z.strictObject({ joint: z.string().min(1).max(200) }),
    ],
    { error: "expected { role } or { joint } of a part" },
  )
  // What a settings panel draws a field of it as.
  .meta({ field: "part" });
export type PartRef = { readonly role: Role } | { readonly joint: string };

/** What parts are found on. */
export interface Parts {
  readonly skeleton: Pick<Skeleton, "names">;
  readonly body: Pick<BodyMap, "roles">;
}

/** The joint that a reference means on a body, or undefined where it has none. */
export function findPart({ skeleton, body }: Parts, ref: PartRef): number | undefined {
  if ("role" in ref) return body.roles[ref.role];
  const joint = skeleton.names.indexOf(ref.joint);
  return joint < 0 ? undefined : joint;
}

/** How a document names a joint of a body. */
export function partOf({ skeleton, body }: Parts, joint: number): PartRef {
  const role = (Object.entries(body.roles) as [Role, number][]).find(([, j]) => j === joint)?.[0];
  return role ? { role } : { joint: skeleton.names[joint] };
}

/** One word for a reference: the role, or `=` and the joint's name. */
export function partKey(ref: PartRef | null): string {
  return ref === null ? "" : "role" in ref ? ref.role : `=${ref.joint}`;
}

/** The reference that such a word stands for. */
export function partFromKey(key: string): PartRef {
  return key.startsWith("=") || !isRole(key) ? { joint: key.replace(/^=/, "") } : { role: key };
}

/** What a person reads: "Left hand" (on a four-legged body "Left fore cannon"), or the joint's own name. */
export function partName(ref: PartRef, plan?: BodyMap["plan"]): string {
  return "role" in ref ? roleLabel(ref.role, plan) : ref.joint;
}

/** The same in the middle of a sentence: "left hand", or the joint's own name as it is. */
export function partInWords(ref: PartRef, plan?: BodyMap["plan"]): string {
  return "role" in ref ? roleLabel(ref.role, plan).toLowerCase() : ref.joint;
}

/** Every joint of a body as documents name it, in the order in which people list a body: known parts first. */
export function allParts(parts: Parts): PartRef[] {
  const named = ROLES.filter((role) => parts.body.roles[role] !== undefined).map((role): PartRef => ({ role }));
  const known = new Set(Object.values(parts.body.roles));
  return [...named, ...parts.skeleton.names.flatMap((joint, j): PartRef[] => (known.has(j) ? [] : [{ joint }]))];
}
