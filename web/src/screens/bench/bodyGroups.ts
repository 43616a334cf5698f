import type { BodyMap, Skeleton } from "@stride/motion";

/** Parts of a body that people take together. */
export type GroupName = "head" | "trunk" | "hips" | "left arm" | "right arm" | "left leg" | "right leg" | "tail" | "rest";

/** Which group each joint belongs to: as the body map knows it, else that of the joint it hangs on. */
export function bodyGroups({ names, parents }: Pick<Skeleton, "names" | "parents">, body: Pick<BodyMap, "roles">): GroupName[] {
  const known = new Map<number, GroupName>();
  for (const [role, joint] of Object.entries(body.roles)) if (joint !== undefined) known.set(joint, groupOfRole(role));
  const out: GroupName[] = [];
  names.forEach((_, joint) => {
    const parent = parents[joint];
    out.push(known.get(joint) ?? (parent >= 0 ? out[parent] : "rest"));
  });
  // What stands above the hips goes with them.
  const hips = body.roles.hips;
  for (let joint = hips === undefined ? -1 : parents[hips]; joint >= 0; joint = parents[joint]) out[joint] = "hips";
  return out;
}

function groupOfRole(role: string): GroupName {
  const side = role.startsWith("left") ? "left" : role.startsWith("right") ? "right" : null;
  if (side) return /Thigh|Shin|Foot|Toe|Leg/.test(role) ? `${side} leg` : /Eye|Ear/.test(role) ? "head" : `${side} arm`;
  if (role === "hips") return "hips";
  if (/^tail/.test(role)) return "tail";
  if (/^(neck|head|jaw)/.test(role)) return "head";
  return "trunk";
}

/** Joints with a group switched: all on, unless they all are. Null (all joints) and sets of all are one. */
export function withGroup(chosen: ReadonlySet<number>, members: readonly number[]): Set<number> {
  const all = members.every((j) => chosen.has(j));
  const out = new Set(chosen);
  for (const j of members) {
    if (all) out.delete(j);
    else out.add(j);
  }
  return out;
}
