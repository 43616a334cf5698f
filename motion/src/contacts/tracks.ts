import type { Clip } from "../clip/clip.ts";
import { chainReader } from "../kinematics/forward.ts";
import { conjugateQuatFlat, type Floats, rotateVecFlat } from "../math/quat.ts";
import { restWorld, type Skeleton } from "../skeleton/skeleton.ts";

/** World course of one joint: positions [frame][3] metres, rotations [frame][4]. */
export interface JointTrack {
  readonly frameCount: number;
  readonly positions: Float64Array;
  readonly rotations: Float32Array;
}

export function jointTrack(skeleton: Skeleton, clip: Clip, joint: number): JointTrack {
  const positions = new Float64Array(clip.frameCount * 3);
  const rotations = new Float32Array(clip.frameCount * 4);
  const reader = chainReader(skeleton, clip, joint);
  const p = new Float64Array(3);
  const q = new Float64Array(4);
  for (let f = 0; f < clip.frameCount; f++) {
    reader.read(f, p, q);
    positions.set(p, f * 3);
    rotations.set(q, f * 4);
  }
  return { frameCount: clip.frameCount, positions, rotations };
}

/** World course [frame][3] of a point fixed in a joint's frame. */
export function pointTrack(track: JointTrack, local: Floats): Float64Array {
  const out = new Float64Array(track.frameCount * 3);
  const v = new Float64Array(3);
  for (let f = 0; f < track.frameCount; f++) {
    rotateVecFlat(v, 0, track.rotations, f * 4, local, 0);
    for (let i = 0; i < 3; i++) out[f * 3 + i] = track.positions[f * 3 + i] + v[i];
  }
  return out;
}

/** Offset of `joint` in the frame of `ancestor`, with every rotation between them at rest. */
export function restOffset(skeleton: Skeleton, joint: number, ancestor: number): [number, number, number] {
  const { positions, rotations } = restWorld(skeleton);
  const v = new Float64Array([0, 1, 2].map((i) => positions[joint * 3 + i] - positions[ancestor * 3 + i]));
  const inverse = conjugateQuatFlat(new Float64Array(4), 0, rotations, ancestor * 4);
  rotateVecFlat(v, 0, inverse, 0, v, 0);
  return [v[0], v[1], v[2]];
}
