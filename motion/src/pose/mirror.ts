import type { BodyMap } from "../character/bodyMap.ts";
import type { Rig } from "../character/rig.ts";
import { isRole, type Role } from "../character/roles.ts";

/** For each joint the one on the other side; a joint of the middle, or without a known part, is its own. */
export function mirrorJoints(jointCount: number, body: BodyMap): Int16Array {
  const pairs = Int16Array.from({ length: jointCount }, (_, j) => j);
  for (const [role, joint] of Object.entries(body.roles) as [Role, number][]) {
    const other = otherRole(role);
    const partner = other && body.roles[other];
    if (partner !== undefined) pairs[joint] = partner;
  }
  return pairs;
}

/** The same part on the other side; undefined for parts of the middle. */
export function otherRole(role: Role): Role | undefined {
  const other = role.startsWith("left") ? `right${role.slice(4)}` : role.startsWith("right") ? `left${role.slice(5)}` : "";
  return isRole(other) ? other : undefined;
}

/**
 * dst = the rotation q seen in a mirror that stands across the body's left (a unit vector a): the axis is reflected and the turn goes the
 * other way round, v' = −v + 2(v·a)a, w' = w. Twice gives q again. For turnings in the world's axes at rest, as stored poses keep them.
 */
export function mirrorQuat(dst: Float64Array, d: number, q: ArrayLike<number>, o: number, rig: Rig): void {
  const a = rig.left;
  const along = 2 * (q[o] * a[0] + q[o + 1] * a[1] + q[o + 2] * a[2]);
  const w = q[o + 3];
  const x = -q[o] + along * a[0];
  const y = -q[o + 1] + along * a[1];
  const z = -q[o + 2] + along * a[2];
  dst[d] = x;
  dst[d + 1] = y;
  dst[d + 2] = z;
  dst[d + 3] = w;
}
