import { type Floats, slerpQuatFlat } from "../math/quat.ts";

/**
 * A motion as dense samples. Never mutated once made.
 * rotations: [frame][joint][4], local, x y z w. positions: [frame][k][3], metres, local to the parent, for the k joints listed in
 * positionJoints (the root is always one of them, and always first).
 */
export interface Clip {
  readonly name: string;
  readonly fps: number;
  readonly frameCount: number;
  readonly jointCount: number;
  readonly rotations: Float32Array;
  readonly positions: Float32Array;
  readonly positionJoints: Int16Array;
}

export function makeClip(name: string, fps: number, frameCount: number, jointCount: number, positionJoints: Int16Array): Clip {
  return {
    name,
    fps,
    frameCount,
    jointCount,
    rotations: new Float32Array(frameCount * jointCount * 4),
    positions: new Float32Array(frameCount * positionJoints.length * 3),
    positionJoints,
  };
}

const origins = new WeakMap<Clip, { readonly clip: Clip; readonly frame: number }>();

/** One frame of a clip as a clip of its own, which remembers where it comes from. */
export function frameClip(clip: Clip, frame: number): Clip {
  const piece = cropClip(clip, frame, frame);
  origins.set(piece, { clip, frame });
  return piece;
}

/** The whole clip that a piece was cut from by `frameClip`, and its frame there; any other clip is whole and begins at its frame 0. */
export function originOf(clip: Clip): { readonly clip: Clip; readonly frame: number } {
  return origins.get(clip) ?? { clip, frame: 0 };
}

/** A clip with the same settings and fresh copies of its sample arrays, for a patch to write into before it hands the clip on. */
export function copyClip(clip: Clip): Clip {
  return { ...clip, rotations: clip.rotations.slice(), positions: clip.positions.slice() };
}

/** Seconds between the first and the last frame. */
export function clipSeconds(clip: Clip): number {
  return (clip.frameCount - 1) / clip.fps;
}

/** Frames start..end (inclusive) as a new clip. Throws RangeError when the range is empty or outside. */
export function cropClip(clip: Clip, start: number, end: number): Clip {
  if (!(start >= 0 && end < clip.frameCount && start <= end)) {
    throw new RangeError(`frames ${start}–${end} do not lie inside 0–${clip.frameCount - 1}`);
  }
  const r = clip.jointCount * 4;
  const p = clip.positionJoints.length * 3;
  return {
    ...clip,
    frameCount: end - start + 1,
    rotations: clip.rotations.slice(start * r, (end + 1) * r),
    positions: clip.positions.slice(start * p, (end + 1) * p),
  };
}

/** Marks [frame] the frames on which any of `joints`, or any position, differs in its bits between two clips of one shape. */
export function changedFrames(a: Clip, b: Clip, joints: readonly number[]): Uint8Array {
  const marks = new Uint8Array(a.frameCount);
  const p = a.positionJoints.length * 3;
  for (let f = 0; f < a.frameCount; f++) {
    let changed = false;
    for (let i = f * p; i < (f + 1) * p && !changed; i++) changed = a.positions[i] !== b.positions[i];
    for (let j = 0; j < joints.length && !changed; j++) {
      const o = (f * a.jointCount + joints[j]) * 4;
      changed =
        a.rotations[o] !== b.rotations[o] ||
        a.rotations[o + 1] !== b.rotations[o + 1] ||
        a.rotations[o + 2] !== b.rotations[o + 2] ||
        a.rotations[o + 3] !== b.rotations[o + 3];
    }
    if (changed) marks[f] = 1;
  }
  return marks;
}

/** Writes the pose at a fractional frame (clamped to the clip): slerped rotations [joint][4], linear positions [k][3]. */
export function samplePose(clip: Clip, frame: number, rotations: Floats, positions: Floats): void {
  const f = Math.max(0, Math.min(clip.frameCount - 1, frame));
  const f0 = Math.floor(f);
  const f1 = Math.min(clip.frameCount - 1, f0 + 1);
  const t = f - f0;
  const r = clip.jointCount * 4;
  for (let j = 0; j < r; j += 4) slerpQuatFlat(rotations, j, clip.rotations, f0 * r + j, clip.rotations, f1 * r + j, t);
  const p = clip.positionJoints.length * 3;
  for (let i = 0; i < p; i++) {
    const a = clip.positions[f0 * p + i];
    positions[i] = t === 0 ? a : a + t * (clip.positions[f1 * p + i] - a);
  }
}

/** The clip at another frame rate: same start, a last frame at or just before the old one. The same rate returns the clip itself. */
export function resampleClip(clip: Clip, fps: number): Clip {
  if (!(fps > 0 && Number.isFinite(fps))) throw new RangeError(`frame rate must be a positive number, not ${fps}`);
  if (fps === clip.fps) return clip;
  const frameCount = Math.floor(clipSeconds(clip) * fps + 1e-6) + 1;
  const out = { ...makeClip(clip.name, fps, frameCount, clip.jointCount, clip.positionJoints) };
  const r = clip.jointCount * 4;
  const p = clip.positionJoints.length * 3;
  for (let f = 0; f < frameCount; f++) {
    samplePose(clip, (f * clip.fps) / fps, out.rotations.subarray(f * r, (f + 1) * r), out.positions.subarray(f * p, (f + 1) * p));
  }
  return out;
}
