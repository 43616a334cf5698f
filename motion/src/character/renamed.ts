import type { Skeleton } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Role } from "./roles.ts";
import { hanimNames, vrmName } from "./vocabularies.ts";

/** What joints are called in a file that is written: as they are, or by their part as an open standard calls it. */
export type JointNames = "own" | "hanim" | "vrm";
export const JOINT_NAMES: readonly JointNames[] = ["own", "hanim", "vrm"];

/** A skeleton with its known parts called as a standard has them. Joints that are no part, or have no name there, keep their own, unless another has got it. */
export function renamed(skeleton: Skeleton, { roles }: Pick<BodyMap, "roles">, by: JointNames): Skeleton {
  if (by === "own") return skeleton;
  const names: (string | null)[] = skeleton.names.map(() => null);
  for (const [role, joint] of Object.entries(roles) as [Role, number][]) names[joint] = by === "vrm" ? vrmName(role, roles) : (hanimNames(role)[0] ?? null);
  const taken = new Set(names);
  return {
    ...skeleton,
    names: names.map((name, joint) => {
      if (name !== null) return name;
      let own = skeleton.names[joint];
      while (taken.has(own)) own = `${own}_`;
      taken.add(own);
      return own;
    }),
  };
}
