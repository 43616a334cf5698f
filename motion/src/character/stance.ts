import { type Clip, readPose } from "../clip/clip.ts";
import { poseWorldFlat, positionSlots } from "../kinematics/forward.ts";
import { rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";

/** World positions [sample][point][3] of joints and tips at frames spread over a clip: the evidence for reading a skeleton. */
export interface StanceSamples {
  readonly count: number;
  /** joints first, then one point per tip */
  readonly pointCount: number;
  readonly positions: Float64Array;
}

const MOST_SAMPLES = 40;

export function sampleStances(skeleton: Skeleton, clip: Clip): StanceSamples {
  const joints = skeleton.names.length;
  const pointCount = joints + skeleton.tips.length;
  const count = Math.min(MOST_SAMPLES, clip.frameCount);
  const positions = new Float64Array(count * pointCount * 3);
  const local = new Float64Array(joints * 4);
  const places = new Float64Array(clip.positionJoints.length * 3);
  const rotations = new Float64Array(joints * 4);
  const slots = positionSlots(clip);
  const v = new Float64Array(3);
  for (let s = 0; s < count; s++) {
    // Middles of equal stretches: a calibration pose on the first frame weighs no more than any other.
    const frame = Math.floor(((s + 0.5) * clip.frameCount) / count);
    const base = s * pointCount * 3;
    readPose(clip, frame, local, places);
    poseWorldFlat(skeleton, slots, local, 0, places, 0, positions, base, rotations, 0);
    skeleton.tips.forEach(({ joint, offset }, t) => {
      rotateVecFlat(v, 0, rotations, joint * 4, offset as unknown as number[], 0);
      for (let i = 0; i < 3; i++) positions[base + (joints + t) * 3 + i] = positions[base + joint * 3 + i] + v[i];
    });
  }
  return { count, pointCount, positions };
}

/** Mean over the samples of (to − from), a vector of 3. */
export function meanDirection(samples: StanceSamples, from: number, to: number): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  for (let s = 0; s < samples.count; s++) {
    for (let i = 0; i < 3; i++) {
      const base = s * samples.pointCount * 3 + i;
      sum[i] += samples.positions[base + to * 3] - samples.positions[base + from * 3];
    }
  }
  return [sum[0] / samples.count, sum[1] / samples.count, sum[2] / samples.count];
}
