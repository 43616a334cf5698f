import type { Walk } from "@stride/demo";

/** A walk with its body's last joints taken off until so many are left: as many as a usual capture has. */
export function withJoints({ skeleton, clip }: Walk, count: number): Walk {
  const kept = new Set(skeleton.names.map((_, j) => j));
  for (let j = skeleton.names.length - 1; kept.size > count; j--) if (![...kept].some((k) => skeleton.parents[k] === j)) kept.delete(j);
  const joints = [...kept].sort((a, b) => a - b);
  const index = new Map(joints.map((j, i) => [j, i]));
  return {
    skeleton: {
      names: joints.map((j) => skeleton.names[j]),
      parents: Int16Array.from(joints, (j) => index.get(skeleton.parents[j]) ?? -1),
      offsets: Float64Array.from(joints.flatMap((j) => [...skeleton.offsets.subarray(j * 3, j * 3 + 3)])),
      restRotations: Float64Array.from(joints.flatMap((j) => [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)])),
      tips: skeleton.tips.flatMap((tip) => (index.has(tip.joint) ? [{ ...tip, joint: index.get(tip.joint) ?? 0 }] : [])),
    },
    clip: { ...clip, jointCount: joints.length, rotations: joints.map((j) => clip.rotations[j]) },
  };
}

/** A clip with the ends of its chains as joints of their own, which never turn: what a capture file counts as 31 joints and 7 ends is 38 nodes to any reader that keeps them all. */
export function endsAsJoints({ skeleton, clip }: Walk): Walk {
  const { names, tips } = skeleton;
  const still = clip.rotations[0].map((chunk) => Float32Array.from(chunk, (_, i) => (i % 4 === 3 ? 1 : 0)));
  return {
    skeleton: {
      names: [...names, ...tips.map(({ joint }) => `${names[joint]}_End`)],
      parents: Int16Array.from([...skeleton.parents, ...tips.map(({ joint }) => joint)]),
      offsets: Float64Array.from([...skeleton.offsets, ...tips.flatMap(({ offset }) => [...offset])]),
      restRotations: Float64Array.from([...skeleton.restRotations, ...tips.flatMap(() => [0, 0, 0, 1])]),
      tips: [],
    },
    clip: { ...clip, jointCount: names.length + tips.length, rotations: [...clip.rotations, ...tips.map(() => still)] },
  };
}
