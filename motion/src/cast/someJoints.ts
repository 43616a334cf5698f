import type { Clip } from "../clip/clip.ts";
import { type JointTrack, jointTracks } from "../contacts/tracks.ts";
import { rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";

/** A pose as far as some of its joints need it. */
export interface Posed {
  /** [joint][4] */
  readonly worldRotations: Float64Array;
  /** World place of a point fixed in a joint's frame, metres. */
  point(dst: Float64Array, joint: number, local: ArrayLike<number> | null): Float64Array;
}

/** Some joints of a clip, a frame at a time: what else a body has, fingers above all, is not worked out. */
export class SomeJoints implements Posed {
  readonly worldRotations: Float64Array;
  private readonly places: Float64Array;
  private readonly joints: readonly number[];
  private readonly tracks: readonly JointTrack[];

  constructor(skeleton: Skeleton, clip: Clip, joints: readonly number[]) {
    this.joints = [...new Set(joints)];
    this.tracks = jointTracks(skeleton, clip, this.joints);
    this.worldRotations = new Float64Array(skeleton.names.length * 4);
    this.places = new Float64Array(skeleton.names.length * 3);
  }

  /** The whole course of one of them. Throws RangeError where it is none of them. */
  track(joint: number): JointTrack {
    const track = this.tracks[this.joints.indexOf(joint)];
    if (!track) throw new RangeError(`joint ${joint} is not followed`);
    return track;
  }

  load(frame: number): void {
    const { joints, tracks, places, worldRotations } = this;
    for (let i = 0; i < joints.length; i++) {
      const { positions, rotations } = tracks[i];
      const joint = joints[i];
      for (let c = 0; c < 3; c++) places[joint * 3 + c] = positions[frame * 3 + c];
      for (let c = 0; c < 4; c++) worldRotations[joint * 4 + c] = rotations[frame * 4 + c];
    }
  }

  point(dst: Float64Array, joint: number, local: ArrayLike<number> | null): Float64Array {
    dst[0] = dst[1] = dst[2] = 0;
    if (local) rotateVecFlat(dst, 0, this.worldRotations, joint * 4, local as Float64Array, 0);
    for (let c = 0; c < 3; c++) dst[c] += this.places[joint * 3 + c];
    return dst;
  }
}
