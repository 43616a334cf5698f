import type { BodyMap, Skeleton } from "@stride/motion";

/** Side and parent of every joint of a body: what no role names is on the side of what it hangs on. */
export function jointsOf(
  { parents, names }: Skeleton,
  { roles }: BodyMap,
): { readonly sides: readonly ("left" | "right" | null)[]; readonly parents: ArrayLike<number> } {
  const sides: ("left" | "right" | null)[] = names.map(() => null);
  for (const [role, joint] of Object.entries(roles)) sides[joint] = role.startsWith("left") ? "left" : role.startsWith("right") ? "right" : null;
  const named = new Set(Object.values(roles));
  for (let j = 0; j < names.length; j++) if (!named.has(j) && parents[j] >= 0) sides[j] = sides[parents[j]];
  return { sides, parents };
}
