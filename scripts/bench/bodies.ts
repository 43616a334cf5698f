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
