import { CHUNK_FRAMES, type Clip } from "../clip/clip.ts";
import { positionSlots } from "../kinematics/forward.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry, restWorld, type Skeleton } from "../skeleton/skeleton.ts";

/** World course of one joint: positions [frame][3] metres, rotations [frame][4]. */
export interface JointTrack {
  readonly frameCount: number;
  readonly positions: Float64Array;
  readonly rotations: Float32Array;
}

/** Places and turns of a joint over the frames of one chunk: [frame][3] and [frame][4], in doubles. */
interface ChunkCourse {
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
}

/** World courses of some joints in one pass over the clip, chunk by chunk: what leads to several of them is worked out once. */
export function jointTracks(skeleton: Skeleton, clip: Clip, joints: readonly number[]): JointTrack[] {
  const { frameCount } = clip;
  const chain = [...new Set(joints.flatMap((joint) => ancestry(skeleton, joint)))].sort((a, b) => a - b);
  const slots = positionSlots(clip);
  const courses = new Map(chain.map((j) => [j, { positions: new Float64Array(CHUNK_FRAMES * 3), rotations: new Float64Array(CHUNK_FRAMES * 4) }] as const));
  const out = joints.map(() => ({ frameCount, positions: new Float64Array(frameCount * 3), rotations: new Float32Array(frameCount * 4) }));
  for (let c = 0, first = 0; first < frameCount; c++, first += CHUNK_FRAMES) {
    const frames = Math.min(CHUNK_FRAMES, frameCount - first);
    for (const j of chain) {
      const own = courses.get(j) as ChunkCourse;
      const place = slots[j] >= 0 ? clip.positions[slots[j]][c] : null;
      chunkCourse(own, courses.get(skeleton.parents[j]) ?? null, clip.rotations[j][c], place, skeleton.offsets, j * 3, frames);
    }
    joints.forEach((joint, i) => {
      const { positions, rotations } = courses.get(joint) as ChunkCourse;
      out[i].positions.set(frames < CHUNK_FRAMES ? positions.subarray(0, frames * 3) : positions, first * 3);
      out[i].rotations.set(frames < CHUNK_FRAMES ? rotations.subarray(0, frames * 4) : rotations, first * 4);
    });
  }
  return out;
}

export function jointTrack(skeleton: Skeleton, clip: Clip, joint: number): JointTrack {
  return jointTracks(skeleton, clip, [joint])[0];
}

/** One joint over one chunk, its parent's course there being known. The kernels of quat.ts, written out: everything that looks at a clip comes by here. */
function chunkCourse(
  { positions, rotations }: ChunkCourse,
  parent: ChunkCourse | null,
  local: Float32Array,
  place: Float32Array | null,
  offsets: Skeleton["offsets"],
  offset: number,
  frames: number,
): void {
  let vx = offsets[offset];
  let vy = offsets[offset + 1];
  let vz = offsets[offset + 2];
  for (let f = 0, p = 0, q = 0; f < frames; f++, p += 3, q += 4) {
    if (place) {
      vx = place[p];
      vy = place[p + 1];
      vz = place[p + 2];
    }
    const bx = local[q];
    const by = local[q + 1];
    const bz = local[q + 2];
    const bw = local[q + 3];
    if (!parent) {
      positions[p] = vx;
      positions[p + 1] = vy;
      positions[p + 2] = vz;
      rotations[q] = bx;
      rotations[q + 1] = by;
      rotations[q + 2] = bz;
      rotations[q + 3] = bw;
      continue;
    }
    const ax = parent.rotations[q];
    const ay = parent.rotations[q + 1];
    const az = parent.rotations[q + 2];
    const aw = parent.rotations[q + 3];
    const tx = 2 * (ay * vz - az * vy);
    const ty = 2 * (az * vx - ax * vz);
    const tz = 2 * (ax * vy - ay * vx);
    positions[p] = parent.positions[p] + (vx + aw * tx + ay * tz - az * ty);
    positions[p + 1] = parent.positions[p + 1] + (vy + aw * ty + az * tx - ax * tz);
    positions[p + 2] = parent.positions[p + 2] + (vz + aw * tz + ax * ty - ay * tx);
    rotations[q] = aw * bx + ax * bw + ay * bz - az * by;
    rotations[q + 1] = aw * by - ax * bz + ay * bw + az * bx;
    rotations[q + 2] = aw * bz + ax * by - ay * bx + az * bw;
    rotations[q + 3] = aw * bw - ax * bx - ay * by - az * bz;
  }
}

/** World course [frame][3] of a point fixed in a joint's frame. */
export function pointTrack({ frameCount, positions, rotations }: JointTrack, local: ArrayLike<number>): Float64Array {
  const out = new Float64Array(frameCount * 3);
  const vx = local[0];
  const vy = local[1];
  const vz = local[2];
  for (let f = 0, p = 0, q = 0; f < frameCount; f++, p += 3, q += 4) {
    const x = rotations[q];
    const y = rotations[q + 1];
    const z = rotations[q + 2];
    const w = rotations[q + 3];
    const tx = 2 * (y * vz - z * vy);
    const ty = 2 * (z * vx - x * vz);
    const tz = 2 * (x * vy - y * vx);
    out[p] = positions[p] + (vx + w * tx + y * tz - z * ty);
    out[p + 1] = positions[p + 1] + (vy + w * ty + z * tx - x * tz);
    out[p + 2] = positions[p + 2] + (vz + w * tz + x * ty - y * tx);
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

/** The courses [frame][3] of the joints from one up to the root, worked out when they are first asked for: only legs that tremble need them. */
export function carriersIn(skeleton: Skeleton, clip: Clip): (end: number) => readonly Float64Array[] {
  const known = new Map<number, readonly Float64Array[]>();
  return (end) => {
    const carriers = known.get(end) ?? jointTracks(skeleton, clip, ancestry(skeleton, end)).map((track) => track.positions);
    known.set(end, carriers);
    return carriers;
  };
}
