import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { conjugateQuatFlat, dotQuatFlat, multiplyQuatFlat, normalizeQuatFlat, slerpQuatFlat } from "../math/quat.ts";

/** Joints of which a blend takes rotations, and slots of which it takes positions. */
export interface BlendParts {
  readonly joints: readonly number[];
  readonly slots: readonly number[];
}

/** One clip laid over another by a weight a frame: at 0 the bits of the one below, at 1 the bits of the other, between them the shortest turn and the straight line. */
export function blendedOver(below: Clip, other: Clip, weights: Float64Array, { joints, slots }: BlendParts): Clip {
  const draft = ClipDraft.of(below);
  const [a, b] = [new Float64Array(4), new Float64Array(4)];
  weights.forEach((w, f) => {
    if (w === 0) return;
    for (const joint of joints) {
      readRotation(other, joint, f, b, 0);
      if (w < 1) {
        readRotation(below, joint, f, a, 0);
        slerpQuatFlat(b, 0, a, 0, b, 0, w);
      }
      draft.setRotation(joint, f, b);
    }
    for (const slot of slots) {
      readPosition(other, slot, f, b, 0);
      if (w < 1) {
        readPosition(below, slot, f, a, 0);
        for (let i = 0; i < 3; i++) b[i] = a[i] + w * (b[i] - a[i]);
      }
      draft.setPosition(slot, f, b);
    }
  });
  return draft.done();
}

/** A pose to take differences from: rotations [joint][4], positions [slot][3]. */
export interface ReferencePose {
  readonly rotations: Float64Array;
  readonly positions: Float64Array;
}

/** Pose of a clip on a frame. */
export function poseOn(clip: Clip, frame: number): ReferencePose {
  const rotations = new Float64Array(clip.jointCount * 4);
  const positions = new Float64Array(clip.positionJoints.length * 3);
  for (let j = 0; j < clip.jointCount; j++) readRotation(clip, j, frame, rotations, j * 4);
  for (let s = 0; s < clip.positionJoints.length; s++) readPosition(clip, s, frame, positions, s * 3);
  return { rotations, positions };
}

/** A clip's average pose over some frames: rotations as the unit quaternions nearest to their sum, signs alike. */
export function averagePose(clip: Clip, first: number, last: number): ReferencePose {
  const { rotations, positions } = poseOn(clip, first);
  const [q, v] = [new Float64Array(4), new Float64Array(3)];
  const sums = { rotations: new Float64Array(rotations.length), positions: new Float64Array(positions.length) };
  for (let f = first; f <= last; f++) {
    for (let j = 0; j < clip.jointCount; j++) {
      readRotation(clip, j, f, q, 0);
      const sign = dotQuatFlat(rotations, j * 4, q, 0) < 0 ? -1 : 1;
      for (let i = 0; i < 4; i++) sums.rotations[j * 4 + i] += sign * q[i];
    }
    for (let s = 0; s < clip.positionJoints.length; s++) {
      readPosition(clip, s, f, v, 0);
      for (let i = 0; i < 3; i++) sums.positions[s * 3 + i] += v[i] / (last - first + 1);
    }
  }
  for (let j = 0; j < clip.jointCount; j++) normalizeQuatFlat(sums.rotations, j * 4);
  return sums;
}

/**
 * The difference of one clip to a reference pose, added behind another clip by a weight a frame: q = below · (reference⁻¹ · other)^w, in each joint's own frame, as
 * three.js's additive clips are. `shiftAt` gives what is added to positions [slot][3] at a frame at full weight; null adds nothing.
 */
export function addedBehind(
  below: Clip,
  other: Clip,
  reference: ReferencePose,
  weights: Float64Array,
  { joints, slots }: BlendParts,
  shiftAt: ((frame: number, slot: number) => readonly number[]) | null,
): Clip {
  const draft = ClipDraft.of(below);
  const [q, d, p] = [new Float64Array(4), new Float64Array(4), new Float64Array(3)];
  const identity = Float64Array.of(0, 0, 0, 1);
  weights.forEach((w, f) => {
    if (w === 0) return;
    for (const joint of joints) {
      readRotation(other, joint, f, q, 0);
      conjugateQuatFlat(d, 0, reference.rotations, joint * 4);
      multiplyQuatFlat(d, 0, d, 0, q, 0);
      slerpQuatFlat(d, 0, identity, 0, d, 0, w);
      readRotation(below, joint, f, q, 0);
      multiplyQuatFlat(q, 0, q, 0, d, 0);
      normalizeQuatFlat(q, 0);
      draft.setRotation(joint, f, q);
    }
    if (!shiftAt) return;
    for (const slot of slots) {
      readPosition(below, slot, f, p, 0);
      const by = shiftAt(f, slot);
      draft.setPosition(slot, f, [p[0] + w * by[0], p[1] + w * by[1], p[2] + w * by[2]]);
    }
  });
  return draft.done();
}
