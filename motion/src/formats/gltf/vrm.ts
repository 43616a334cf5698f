import { z } from "zod";
import type { Role } from "../../character/roles.ts";
import { vrmRoles } from "../../character/vocabularies.ts";
import type { JointTree } from "./tree.ts";

// Where VRM 1.0 says which node is which bone: in a body (VRMC_vrm) and in an animation (VRMC_vrm_animation).
const humanoid = z.object({ humanoid: z.object({ humanBones: z.record(z.string(), z.object({ node: z.int().min(0) })) }) });
const extensionsSchema = z.object({
  extensions: z.object({ VRMC_vrm: humanoid.optional().catch(undefined), VRMC_vrm_animation: humanoid.optional().catch(undefined) }),
});

/** Roles of joints by the file's own VRM bones; null where it has none, or none of them is a joint. */
export function vrmRolesOf(json: Record<string, unknown>, tree: JointTree): Partial<Record<Role, number>> | null {
  const parsed = extensionsSchema.safeParse(json);
  if (!parsed.success) return null;
  const { VRMC_vrm, VRMC_vrm_animation } = parsed.data.extensions;
  const bones = (VRMC_vrm ?? VRMC_vrm_animation)?.humanoid.humanBones;
  if (!bones) return null;
  const jointOf = new Map(tree.nodes.map((node, joint) => [node, joint]));
  const joints = new Map(Object.entries(bones).flatMap(([bone, { node }]) => (jointOf.has(node) ? [[bone, jointOf.get(node) as number] as const] : [])));
  const roles = vrmRoles(joints);
  return Object.keys(roles).length > 0 ? roles : null;
}
