import type { Clip } from "../clip/clip.ts";
import { type Floats, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";

/** World transforms of a whole clip: positions [frame][joint][3] metres, rotations [frame][joint][4]. */
export interface WorldClip {
  readonly frameCount: number;
  readonly jointCount: number;
  readonly positions: Float32Array;
  readonly rotations: Float32Array;
}

/** Which position channel (index k, or -1) each joint has. */
export function positionSlots(clip: Clip): Int16Array {
  const slots = new Int16Array(clip.jointCount).fill(-1);
  clip.positionJoints.forEach((joint, k) => {
    slots[joint] = k;
  });
  return slots;
}

/**
 * Forward kinematics of one frame. Writes worldPositions [joint][3] and worldRotations [joint][4] at the given element offsets.
 * A joint with position samples stands at its sample in its parent's frame; every other at its offset.
 */
export function poseWorldFlat(
  skeleton: Skeleton,
  slots: Int16Array,
  rotations: Floats,
  rotationOffset: number,
  positions: Floats,
  positionOffset: number,
  worldPositions: Floats,
  wp: number,
  worldRotations: Floats,
  wr: number,
): void {
  const { parents, offsets } = skeleton;
  const count = parents.length;
  for (let j = 0; j < count; j++) {
    const parent = parents[j];
    const slot = slots[j];
    const src = slot >= 0 ? positions : offsets;
    const so = slot >= 0 ? positionOffset + slot * 3 : j * 3;
    const p3 = wp + j * 3;
    const r4 = wr + j * 4;
    const q4 = rotationOffset + j * 4;
    if (parent < 0) {
      worldPositions[p3] = src[so];
      worldPositions[p3 + 1] = src[so + 1];
      worldPositions[p3 + 2] = src[so + 2];
      worldRotations[r4] = rotations[q4];
      worldRotations[r4 + 1] = rotations[q4 + 1];
      worldRotations[r4 + 2] = rotations[q4 + 2];
      worldRotations[r4 + 3] = rotations[q4 + 3];
      continue;
    }
    const pr = wr + parent * 4;
    const pp = wp + parent * 3;
    // The two kernels of quat.ts, written out: this loop is the hot path of everything.
    const ax = worldRotations[pr];
    const ay = worldRotations[pr + 1];
    const az = worldRotations[pr + 2];
    const aw = worldRotations[pr + 3];
    const vx = src[so];
    const vy = src[so + 1];
    const vz = src[so + 2];
    const tx = 2 * (ay * vz - az * vy);
    const ty = 2 * (az * vx - ax * vz);
    const tz = 2 * (ax * vy - ay * vx);
    worldPositions[p3] = worldPositions[pp] + vx + aw * tx + ay * tz - az * ty;
    worldPositions[p3 + 1] = worldPositions[pp + 1] + vy + aw * ty + az * tx - ax * tz;
    worldPositions[p3 + 2] = worldPositions[pp + 2] + vz + aw * tz + ax * ty - ay * tx;
    const bx = rotations[q4];
    const by = rotations[q4 + 1];
    const bz = rotations[q4 + 2];
    const bw = rotations[q4 + 3];
    worldRotations[r4] = aw * bx + ax * bw + ay * bz - az * by;
    worldRotations[r4 + 1] = aw * by - ax * bz + ay * bw + az * bx;
    worldRotations[r4 + 2] = aw * bz + ax * by - ay * bx + az * bw;
    worldRotations[r4 + 3] = aw * bw - ax * bx - ay * by - az * bz;
  }
}

/** World transforms of every frame and joint. Cost linear in frames × joints. */
export function clipWorld(skeleton: Skeleton, clip: Clip): WorldClip {
  const { frameCount, jointCount } = clip;
  const positions = new Float32Array(frameCount * jointCount * 3);
  const rotations = new Float32Array(frameCount * jointCount * 4);
  const slots = positionSlots(clip);
  const k = clip.positionJoints.length * 3;
  for (let f = 0; f < frameCount; f++) {
    poseWorldFlat(skeleton, slots, clip.rotations, f * jointCount * 4, clip.positions, f * k, positions, f * jointCount * 3, rotations, f * jointCount * 4);
  }
  return { frameCount, jointCount, positions, rotations };
}

/** A chain from the root to `joint`, for world transforms of a few joints without the whole body. */
export interface ChainReader {
  /** Writes the world position (3) and rotation (4) of the chain's last joint at `frame`. */
  read(frame: number, position: Floats, rotation: Floats): void;
}

/** Reads the world transform of one joint at any frame, walking only its ancestors; doubles throughout. */
export function chainReader(skeleton: Skeleton, clip: Clip, joint: number): ChainReader {
  const chain: number[] = [];
  for (let j = joint; j >= 0; j = skeleton.parents[j]) chain.unshift(j);
  const slots = positionSlots(clip);
  const k = clip.positionJoints.length * 3;
  const v = new Float64Array(3);
  return {
    read(frame, position, rotation) {
      rotation[0] = rotation[1] = rotation[2] = 0;
      rotation[3] = 1;
      position[0] = position[1] = position[2] = 0;
      for (const j of chain) {
        if (slots[j] >= 0) rotateVecFlat(v, 0, rotation, 0, clip.positions, frame * k + slots[j] * 3);
        else rotateVecFlat(v, 0, rotation, 0, skeleton.offsets, j * 3);
        position[0] += v[0];
        position[1] += v[1];
        position[2] += v[2];
        multiplyQuatFlat(rotation, 0, rotation, 0, clip.rotations, (frame * clip.jointCount + j) * 4);
      }
    },
  };
}
