import type { BodyMap } from "./bodyMap.ts";
import { type Role, roleLabel } from "./roles.ts";

/** A label a person knows for each joint: its role, or its own name. */
export function jointLabels(body: Pick<BodyMap, "roles" | "plan">, names: readonly string[]): string[] {
  const labels = [...names];
  for (const [role, joint] of Object.entries(body.roles)) if (joint !== undefined) labels[joint] = roleLabel(role as Role, body.plan);
  return labels;
}
