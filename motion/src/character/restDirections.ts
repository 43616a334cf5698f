import { fromToQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { onlyChild, restWorld, type Skeleton, tipOf } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Character } from "./character.ts";
import type { Rig } from "./rig.ts";
import type { Role } from "./roles.ts";

/**
 * Which way each known part's bone points in the rest pose, as left, up and forward of the body: to the next known part below it, or to its
 * tip, which some files have as a joint. Parts whose way is not known (a hand without fingers or tip) are left out.
 */
export function restDirections({ skeleton, body, rig }: Pick<Character, "skeleton" | "body" | "rig">): Map<number, Float64Array> {
  const { positions, rotations } = restWorld(skeleton);
  const known = new Set(Object.values(body.roles) as number[]);
  const out = new Map<number, Float64Array>();
  const v = new Float64Array(3);
  for (const joint of known) {
    const below = [...known].filter((j) => j !== joint && nearestKnown(skeleton, known, j) === joint);
    const next = below.length === 1 ? below[0] : below.find((j) => chainRole(body, joint, j));
    const tip = tipOf(skeleton, joint);
    if (next !== undefined) for (let i = 0; i < 3; i++) v[i] = positions[next * 3 + i] - positions[joint * 3 + i];
    else if (below.length === 0 && tip) rotateVecFlat(v, 0, rotations, joint * 4, [...tip], 0);
    else if (below.length === 0 && onlyChild(skeleton, joint) >= 0) {
      const end = onlyChild(skeleton, joint);
      for (let i = 0; i < 3; i++) v[i] = positions[end * 3 + i] - positions[joint * 3 + i];
    } else continue;
    const length = Math.hypot(v[0], v[1], v[2]);
    if (length < SHORTEST_BONE) continue;
    out.set(
      joint,
      Float64Array.from([rig.left, rig.up, rig.forward], (axis) => (axis[0] * v[0] + axis[1] * v[1] + axis[2] * v[2]) / length),
    );
  }
  return out;
}

/** Bones shorter than this point nowhere, metres. */
const SHORTEST_BONE = 1e-3;

function nearestKnown(skeleton: Skeleton, known: ReadonlySet<number>, joint: number): number {
  for (let j = skeleton.parents[joint]; j >= 0; j = skeleton.parents[j]) if (known.has(j)) return j;
  return -1;
}

/** Of several parts below one: the next of the trunk, or the middle finger of a hand. */
function chainRole(body: BodyMap, joint: number, below: number): boolean {
  const role = (Object.entries(body.roles) as [Role, number][]).find(([, j]) => j === below)?.[0] ?? "";
  return joint === body.roles.hips || /^(spine|chest)/.test(role) ? /^(spine|chest|neck|head)/.test(role) : /Middle$/.test(role);
}

/** Rotation, in the rest pose's world axes, that takes the direction a bone had at rest on one body to the one it has on another: by the shortest way. */
export function alignment(from: ArrayLike<number> | undefined, to: Float64Array | undefined, rig: Pick<Rig, "left" | "up" | "forward">): Float64Array {
  const q = new Float64Array([0, 0, 0, 1]);
  if (!from || !to) return q;
  const world = (v: ArrayLike<number>) => [0, 1, 2].map((i) => v[0] * rig.left[i] + v[1] * rig.up[i] + v[2] * rig.forward[i]);
  const [a, b] = [world(from), world(to)];
  if (Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) < SAME_DIRECTION) return q;
  return fromToQuatFlat(q, 0, a[0], a[1], a[2], b[0], b[1], b[2]) as Float64Array;
}

/** Directions nearer than this are one: a body's own rest, read back. */
const SAME_DIRECTION = 1e-5;
