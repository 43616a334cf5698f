import type { Clip } from "../clip/clip.ts";
import { type JointTrack, jointTracks } from "../contacts/tracks.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import type { LimbEnd } from "./plants.ts";

/** World course of one limb as it comes: its start (hip) and middle (knee) [3] a frame, its end, and rotations of upper and lower and of what the upper hangs on (null where it is the root). */
export interface LimbCourse {
  readonly end: JointTrack;
  readonly hip: Float64Array;
  readonly knee: Float64Array;
  readonly upper: Float32Array;
  readonly lower: Float32Array;
  readonly above: Float32Array | null;
}

/** The courses of the limbs of some ends. */
export function limbCourses(skeleton: Skeleton, clip: Clip, ends: readonly LimbEnd[]): LimbCourse[] {
  const tracks = jointTracks(
    skeleton,
    clip,
    ends.flatMap(({ limb }) => [limb.upper, limb.lower, limb.end, Math.max(0, skeleton.parents[limb.upper])]),
  );
  return ends.map(({ limb }, i) => {
    const [upper, lower, end, above] = tracks.slice(i * 4, i * 4 + 4);
    const hung = skeleton.parents[limb.upper] >= 0 ? above.rotations : null;
    return { end, hip: upper.positions, knee: lower.positions, upper: upper.rotations, lower: lower.rotations, above: hung };
  });
}
