import { type Clip, readPose } from "../clip/clip.ts";
import { poseWorldFlat, positionSlots } from "../kinematics/forward.ts";
import { rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import type { Marker } from "./format.ts";

/** Every joint as a marker. */
export function jointMarkers({ names }: Skeleton): Marker[] {
  return names.map((name, joint) => ({ name, joint, local: [0, 0, 0] }));
}

/** World places of markers, metres, frame by frame: always the same array [marker][3], filled anew. */
export function* markerFrames(skeleton: Skeleton, clip: Clip, markers: readonly Marker[]): Generator<Float64Array> {
  const slots = positionSlots(clip);
  const local = new Float64Array(clip.jointCount * 4);
  const places = new Float64Array(clip.positionJoints.length * 3);
  const positions = new Float64Array(clip.jointCount * 3);
  const rotations = new Float64Array(clip.jointCount * 4);
  const out = new Float64Array(markers.length * 3);
  for (let f = 0; f < clip.frameCount; f++) {
    readPose(clip, f, local, places);
    poseWorldFlat(skeleton, slots, local, 0, places, 0, positions, 0, rotations, 0);
    markers.forEach(({ joint, local: at }, i) => {
      rotateVecFlat(out, i * 3, rotations, joint * 4, at, 0);
      for (let c = 0; c < 3; c++) out[i * 3 + c] += positions[joint * 3 + c];
    });
    yield out;
  }
}
