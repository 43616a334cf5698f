import { restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import type { Skin } from "./skin.ts";

/** Bones may differ by this share of the body's size and still be the same. */
const SAME = 2e-3;

/**
 * The joints of a skeleton that move a skin made on another one; null where it does not fit: every joint that moves the skin has one of the same name whose bone is as long
 * and which way it points at rest agrees. Where the roots stand does not matter.
 */
export function wornJoints(skin: Pick<Skin, "joints">, made: Skeleton, skeleton: Skeleton): Int32Array | null {
  if (made === skeleton) return skin.joints;
  const [here, there] = [restWorld(skeleton), restWorld(made)];
  const size = Math.max(...there.positions.map((v, i) => Math.abs(v - there.positions[i % 3])));
  const out = new Int32Array(skin.joints.length);
  for (const [i, joint] of skin.joints.entries()) {
    const found = skeleton.names.indexOf(made.names[joint]);
    if (found < 0) return null;
    const [a, b] = [rootOf(skeleton, found), rootOf(made, joint)];
    for (let c = 0; c < 3; c++) {
      const own = here.positions[found * 3 + c] - here.positions[a * 3 + c];
      if (Math.abs(own - (there.positions[joint * 3 + c] - there.positions[b * 3 + c])) > SAME * size) return null;
    }
    const turned = [0, 1, 2, 3].reduce((sum, c) => sum + here.rotations[found * 4 + c] * there.rotations[joint * 4 + c], 0);
    if (Math.abs(turned) < 1 - SAME) return null;
    out[i] = found;
  }
  return out;
}

function rootOf({ parents }: Skeleton, joint: number): number {
  let root = joint;
  while (parents[root] >= 0) root = parents[root];
  return root;
}
