/**
 * A skeleton: joints ordered parents first, offsets in metres in the parent's frame, rest pose with every rotation the identity.
 * `tips` are the end points that a format stores below a leaf (BVH end sites): joint index and offset in that joint's frame.
 */
export interface Skeleton {
  readonly names: readonly string[];
  /** [joint]; -1 for a root */
  readonly parents: Int16Array;
  /** [joint][3], metres */
  readonly offsets: Float64Array;
  readonly tips: readonly { readonly joint: number; readonly offset: readonly [number, number, number] }[];
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

/** Offset of the first tip below `joint`, or undefined. */
export function tipOf(skeleton: Skeleton, joint: number): readonly [number, number, number] | undefined {
  return skeleton.tips.find((tip) => tip.joint === joint)?.offset;
}

/** Length of the bone from a joint's parent to it, metres. */
export function boneLength(skeleton: Skeleton, joint: number): number {
  const o = joint * 3;
  return Math.hypot(skeleton.offsets[o], skeleton.offsets[o + 1], skeleton.offsets[o + 2]);
}
