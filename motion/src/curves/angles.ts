import { CHUNK_MASK, CHUNK_SHIFT, type Clip, type Track } from "../clip/clip.ts";
import { eulerToQuatFlat, quatToEulerFlat } from "../math/euler.ts";

/** Order in which a joint's angle curves are read: about z, then x, then y of its parent inwards, the usual order of captured motion. */
export const ANGLE_ORDER = [2, 0, 1] as const;
/** Index in an angle triple of each axis x, y, z. */
export const ANGLE_OF_AXIS = [1, 2, 0] as const;

/**
 * Angle curves of one joint, radians, [frame][3] in `ANGLE_ORDER`: unrolled, so that neighbours never differ by a whole turn, nor flip to
 * the other solution. For people's eyes and for keys on them; back by `anglesToQuat`.
 */
export function angleCurves(clip: Clip, joint: number): Float64Array {
  const out = new Float64Array(clip.frameCount * 3);
  const near = new Float64Array(3);
  const track = clip.rotations[joint];
  for (let f = 0; f < clip.frameCount; f++) {
    quatToEulerFlat(out, f * 3, ANGLE_ORDER as unknown as number[], track[f >> CHUNK_SHIFT], (f & CHUNK_MASK) * 4, near, 0);
    for (let i = 0; i < 3; i++) near[i] = out[f * 3 + i];
  }
  return out;
}

export function anglesToQuat(dst: Float64Array, angles: ArrayLike<number>, offset: number): Float64Array {
  return eulerToQuatFlat(dst, 0, ANGLE_ORDER as unknown as number[], angles as Float64Array, offset) as Float64Array;
}

/** Angles of one rotation, radians in `ANGLE_ORDER`, in the solution and turn nearest to `near`. */
export function anglesNear(dst: Float64Array, rotation: ArrayLike<number>, near: ArrayLike<number>): Float64Array {
  return quatToEulerFlat(dst, 0, ANGLE_ORDER as unknown as number[], rotation as Float64Array, 0, near as Float64Array, 0) as Float64Array;
}

const kept = new WeakMap<Track, Float64Array>();

/** The same as `angleCurves`, computed once a track. */
export function keptAngleCurves(clip: Clip, joint: number): Float64Array {
  const track = clip.rotations[joint];
  const curve = kept.get(track) ?? angleCurves(clip, joint);
  kept.set(track, curve);
  return curve;
}
