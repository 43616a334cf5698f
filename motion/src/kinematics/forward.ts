import { CHUNK_FRAMES, CHUNK_MASK, CHUNK_SHIFT, type Clip } from "../clip/clip.ts";
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
 * A joint with position samples stands at its sample in its parent's frame; every other at its offset. Parents come before their children: joints before `first` are left as they are.
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
  first = 0,
): void {
  const { parents, offsets } = skeleton;
  const count = parents.length;
  for (let j = first; j < count; j++) {
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

/** World transforms of every frame and joint, chunk by chunk and in it joint by joint. Cost linear in frames × joints. */
export function clipWorld(skeleton: Skeleton, clip: Clip): WorldClip {
  const { frameCount, jointCount } = clip;
  const positions = new Float32Array(frameCount * jointCount * 3);
  const rotations = new Float32Array(frameCount * jointCount * 4);
  const slots = positionSlots(clip);
  for (let first = 0; first < frameCount; first += CHUNK_FRAMES) {
    const frames = Math.min(CHUNK_FRAMES, frameCount - first);
    for (let j = 0; j < jointCount; j++) jointWorld(skeleton, clip, j, slots[j], first, frames, positions, rotations);
  }
  return { frameCount, jointCount, positions, rotations };
}

/** World transforms of one joint over the frames of one chunk, its parent's being there. To the bit what `poseWorldFlat` gives. */
function jointWorld(
  skeleton: Skeleton,
  clip: Clip,
  joint: number,
  slot: number,
  first: number,
  frames: number,
  worldPositions: Float32Array,
  worldRotations: Float32Array,
): void {
  const c = first >> CHUNK_SHIFT;
  const local = clip.rotations[joint][c];
  const place = slot >= 0 ? clip.positions[slot][c] : null;
  const parent = skeleton.parents[joint];
  const { jointCount } = clip;
  const at = first * jointCount + joint;
  const { offsets } = skeleton;
  const x = offsets[joint * 3];
  const y = offsets[joint * 3 + 1];
  const z = offsets[joint * 3 + 2];
  if (parent < 0) {
    for (let f = 0, r = at; f < frames; f++, r += jointCount) {
      worldPositions[r * 3] = place ? place[f * 3] : x;
      worldPositions[r * 3 + 1] = place ? place[f * 3 + 1] : y;
      worldPositions[r * 3 + 2] = place ? place[f * 3 + 2] : z;
      for (let i = 0; i < 4; i++) worldRotations[r * 4 + i] = local[f * 4 + i];
    }
  } else if (place) {
    for (let f = 0, r = at; f < frames; f++, r += jointCount)
      hungWorld(place[f * 3], place[f * 3 + 1], place[f * 3 + 2], local, f, f + 1, r, joint - parent, jointCount, worldPositions, worldRotations);
  } else hungWorld(x, y, z, local, 0, frames, at, joint - parent, jointCount, worldPositions, worldRotations);
}

/**
 * World transforms of a joint that stands at (x, y, z) in its parent's frame, for the frames `from` to before `to` of a chunk: the first of them in
 * row `r` of the arrays, the next `step` rows on, its parent's `up` rows before.
 */
function hungWorld(
  x: number,
  y: number,
  z: number,
  local: Float32Array,
  from: number,
  to: number,
  r: number,
  up: number,
  step: number,
  worldPositions: Float32Array,
  worldRotations: Float32Array,
): void {
  // Doubling is exact: taken out of the loop, it leaves every sum as it is.
  const ox = 2 * x;
  const oy = 2 * y;
  const oz = 2 * z;
  const end = to * 4;
  const up3 = up * 3;
  const up4 = up * 4;
  const step3 = step * 3;
  const step4 = step * 4;
  // `| 0` says that an index is a 32-bit integer and spares the engine a check at every access, an eighth of the time.
  for (let q = from * 4, p3 = r * 3, r4 = r * 4; q < end; q += 4, p3 = (p3 + step3) | 0, r4 = (r4 + step4) | 0) {
    const pp = (p3 - up3) | 0;
    const pr = (r4 - up4) | 0;
    const ax = worldRotations[pr];
    const ay = worldRotations[(pr + 1) | 0];
    const az = worldRotations[(pr + 2) | 0];
    const aw = worldRotations[(pr + 3) | 0];
    const tx = ay * oz - az * oy;
    const ty = az * ox - ax * oz;
    const tz = ax * oy - ay * ox;
    worldPositions[p3] = worldPositions[pp] + x + aw * tx + ay * tz - az * ty;
    worldPositions[(p3 + 1) | 0] = worldPositions[(pp + 1) | 0] + y + aw * ty + az * tx - ax * tz;
    worldPositions[(p3 + 2) | 0] = worldPositions[(pp + 2) | 0] + z + aw * tz + ax * ty - ay * tx;
    const bx = local[q];
    const by = local[(q + 1) | 0];
    const bz = local[(q + 2) | 0];
    const bw = local[(q + 3) | 0];
    worldRotations[r4] = aw * bx + ax * bw + ay * bz - az * by;
    worldRotations[(r4 + 1) | 0] = aw * by - ax * bz + ay * bw + az * bx;
    worldRotations[(r4 + 2) | 0] = aw * bz + ax * by - ay * bx + az * bw;
    worldRotations[(r4 + 3) | 0] = aw * bw - ax * bx - ay * by - az * bz;
  }
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
  const v = new Float64Array(3);
  return {
    read(frame, position, rotation) {
      const c = frame >> CHUNK_SHIFT;
      const f = frame & CHUNK_MASK;
      rotation[0] = rotation[1] = rotation[2] = 0;
      rotation[3] = 1;
      position[0] = position[1] = position[2] = 0;
      for (const j of chain) {
        if (slots[j] >= 0) rotateVecFlat(v, 0, rotation, 0, clip.positions[slots[j]][c], f * 3);
        else rotateVecFlat(v, 0, rotation, 0, skeleton.offsets, j * 3);
        position[0] += v[0];
        position[1] += v[1];
        position[2] += v[2];
        multiplyQuatFlat(rotation, 0, rotation, 0, clip.rotations[j][c], f * 4);
      }
    },
  };
}
