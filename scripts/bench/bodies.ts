import { buildBiped, gaitPlan, performBiped, straight } from "@stride/demo";
import { type Clip, ClipDraft, readPosition, type Skeleton } from "@stride/motion";

const GAIT = {
  stepLength: 0.68,
  stepTime: 0.54,
  stance: 0.61,
  width: 0.17,
  strikePitch: 0.3,
  liftPitch: 0.7,
  clearance: 0.04,
  bob: 0.012,
  shift: 0.4,
};
/** Frames a second of the bench's walks. */
export const FPS = 120;
/** By how much the walk is too fast for its feet: every contact then has something to hold. */
const SKATES = 0.06;

export interface Walk {
  readonly skeleton: Skeleton;
  readonly clip: Clip;
}

/** A skating walk of so many frames at 120 a second: of 52 joints with fingers, of 22 without. */
export function skatingWalk(frames: number, { fingers }: { readonly fingers: boolean }): Walk {
  const { skeleton, ...body } = buildBiped("bench", "Bench", { height: 1.72, breadth: 1, fingers, toes: true });
  const plan = gaitPlan({ ...GAIT, name: "walk", fps: FPS, seed: 1, seconds: (frames - 1) / FPS, path: straight });
  const { clip } = performBiped({ skeleton, ...body }, plan);
  const draft = ClipDraft.of(clip);
  const place = new Float64Array(3);
  for (let f = 0; f < frames; f++) {
    readPosition(clip, 0, f, place, 0);
    place[2] *= 1 + SKATES;
    draft.setPosition(0, f, place);
  }
  return { skeleton, clip: draft.done() };
}

/** The same with its last joints taken off until so many are left: as many as a usual capture has. */
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
