import { characterOf } from "../character/character.ts";
import { readBvh } from "../formats/bvh/read.ts";
import type { Goal } from "../kinematics/bodyReach.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { skatingBody } from "./skatingBody.ts";

const file = readBvh(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" });
export const { skeleton, clip } = file;
export const { rig } = characterOf(skeleton, clip);
export const joint = (name: string) => skeleton.names.indexOf(name);
export const place = (frame: PoseFrame, j: number) => Array.from(frame.worldPositions.slice(j * 3, j * 3 + 3));
export const apart = (a: ArrayLike<number>, b: ArrayLike<number>) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
export const load = (f = 10) => {
  const frame = new PoseFrame(skeleton, clip);
  frame.load(clip, f);
  return frame;
};
export const goal = (frame: PoseFrame, name: string, position: number[]): Goal => {
  const limb = rig.limbs.find((l) => l.end === joint(name));
  return {
    joint: joint(name),
    local: null,
    position,
    orientation: null,
    rank: "keep",
    extent: limb ? apart(place(frame, limb.upper), place(frame, limb.end)) : 0,
  };
};
