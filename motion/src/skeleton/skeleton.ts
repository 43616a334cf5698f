import type { Role } from "../character/roles.ts";
import { multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";

/**
 * A skeleton: joints ordered parents first, offsets in metres in the parent's frame, and the rest pose as local rotations.
 * `tips` are the end points that a format stores below a leaf (BVH end sites): joint index and offset in that joint's frame.
 */
export interface Skeleton {
  readonly names: readonly string[];
  /** [joint]; -1 for a root */
  readonly parents: Int16Array;
  /** [joint][3], metres */
  readonly offsets: Float64Array;
  /** [joint][4], local to the parent; all identities where the format knows no other (BVH) */
  readonly restRotations: Float64Array;
  readonly tips: readonly { readonly joint: number; readonly offset: readonly [number, number, number] }[];
  /** which joint is which part, where the file says so itself, and in whose words */
  readonly said?: { readonly by: string; readonly roles: Readonly<Partial<Record<Role, number>>> };
}

/** Rest rotations of a skeleton whose zero pose is its rest pose. */
export function identityRest(jointCount: number): Float64Array {
  return Float64Array.from({ length: jointCount * 4 }, (_, i) => (i % 4 === 3 ? 1 : 0));
}

export function jointCount(skeleton: Skeleton): number {
  return skeleton.names.length;
}

/** Indices of the children of each joint. */
export function childrenOf(skeleton: Skeleton): number[][] {
  const children: number[][] = skeleton.names.map(() => []);
  skeleton.parents.forEach((parent, joint) => {
    if (parent >= 0) children[parent].push(joint);
  });
  return children;
}

/** Joints from `joint` up to its root, `joint` first. */
export function ancestry(skeleton: Skeleton, joint: number): number[] {
  const chain: number[] = [];
  for (let j = joint; j >= 0; j = skeleton.parents[j]) chain.push(j);
  return chain;
}

/** Joints after `ancestor` down to `joint`, ancestor's side first; empty when they are not on one line. */
export function jointsBetween(skeleton: Skeleton, joint: number, ancestor: number): number[] {
  const chain = ancestry(skeleton, joint);
  const at = chain.indexOf(ancestor);
  return at < 0 ? [] : chain.slice(0, at).reverse();
}

/** What alone hangs on a joint: a hand's end, whatever it is called; −1 where nothing does, or more than one. */
export function onlyChild({ parents }: Pick<Skeleton, "parents">, joint: number): number {
  const first = parents.indexOf(joint);
  return first >= 0 && parents.indexOf(joint, first + 1) < 0 ? first : -1;
}

/** Offset of the first tip below `joint`, or undefined. */
export function tipOf(skeleton: Skeleton, joint: number): readonly [number, number, number] | undefined {
  return skeleton.tips.find((tip) => tip.joint === joint)?.offset;
}

/** Length of the bone from a joint's parent to it, metres. */
export function boneLength(skeleton: Skeleton, joint: number): number {
  const o = joint * 3;
  return Math.hypot(skeleton.offsets[o], skeleton.offsets[o + 1], skeleton.offsets[o + 2]);
}

/** Length along the bones from an ancestor to a joint, metres. */
export function pathLength(skeleton: Skeleton, joint: number, ancestor: number): number {
  return jointsBetween(skeleton, joint, ancestor).reduce((sum, j) => sum + boneLength(skeleton, j), 0);
}

/** World transforms of the rest pose, with the root at its offset: positions [joint][3], rotations [joint][4]. */
export interface RestWorld {
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
}

const rests = new WeakMap<Skeleton, RestWorld>();

export function restWorld(skeleton: Skeleton): RestWorld {
  const known = rests.get(skeleton);
  if (known) return known;
  const n = skeleton.names.length;
  const positions = new Float64Array(n * 3);
  const rotations = new Float64Array(n * 4);
  const v = new Float64Array(3);
  for (let j = 0; j < n; j++) {
    const parent = skeleton.parents[j];
    if (parent < 0) {
      positions.set(skeleton.offsets.subarray(j * 3, j * 3 + 3), j * 3);
      rotations.set(skeleton.restRotations.subarray(j * 4, j * 4 + 4), j * 4);
      continue;
    }
    rotateVecFlat(v, 0, rotations, parent * 4, skeleton.offsets, j * 3);
    for (let i = 0; i < 3; i++) positions[j * 3 + i] = positions[parent * 3 + i] + v[i];
    multiplyQuatFlat(rotations, j * 4, rotations, parent * 4, skeleton.restRotations, j * 4);
  }
  const rest = { positions, rotations };
  rests.set(skeleton, rest);
  return rest;
}
