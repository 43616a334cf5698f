import {
  ANGLE_OF_AXIS,
  conjugateQuatFlat,
  findPart,
  frameOf,
  gaugeOf,
  inputAt,
  keptAngleCurves,
  type Motion,
  measuredCurve,
  multiplyQuatFlat,
  PoseFrame,
  rotateVecFlat,
} from "@stride/motion";
import type { CurveSpec } from "./views.ts";

/** The frame of the source nearest to the moment that a frame of a motion shows. */
export function sourceFrame(motion: Motion, frame: number): number {
  const { fps } = motion.clip;
  return Math.max(0, Math.round(frameOf(inputAt(motion.time, frame / fps), fps)));
}

/** A curve that is asked for, over a whole motion: degrees or centimetres. */
export function curveOf(motion: Motion, spec: CurveSpec): Float64Array {
  if (spec.kind === "angle") {
    const curve = keptAngleCurves(motion.clip, spec.joint);
    const offset = ANGLE_OF_AXIS[{ x: 0, y: 1, z: 2 }[spec.axis]];
    return Float64Array.from({ length: motion.clip.frameCount }, (_, f) => (curve[f * 3 + offset] * 180) / Math.PI);
  }
  const { character } = motion;
  const gauge = gaugeOf(spec.measure, character.rig, motion.ground, (part) => findPart(character, part) ?? 0);
  return measuredCurve(character.skeleton, motion.clip, gauge);
}

/** A frame of a motion (the nearest that it has) to be read off. */
export function frameAt(motion: Motion, frame: number): PoseFrame {
  const pose = new PoseFrame(motion.character.skeleton, motion.clip);
  pose.load(motion.clip, Math.max(0, Math.min(motion.clip.frameCount - 1, Math.round(frame))));
  return pose;
}

/** Place and rotation of a joint in the world, or as another joint sees it. */
export function relativePlace(pose: PoseFrame, joint: number, on: number): { place: Float64Array; turn: Float64Array } {
  const place = pose.worldPositions.slice(joint * 3, joint * 3 + 3);
  const turn = pose.worldRotations.slice(joint * 4, joint * 4 + 4);
  if (on < 0) return { place, turn };
  const inverse = conjugateQuatFlat(new Float64Array(4), 0, pose.worldRotations, on * 4);
  for (let c = 0; c < 3; c++) place[c] -= pose.worldPositions[on * 3 + c];
  rotateVecFlat(place, 0, inverse, 0, place, 0);
  multiplyQuatFlat(turn, 0, inverse, 0, turn, 0);
  return { place, turn };
}
