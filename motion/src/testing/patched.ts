import type { Clip } from "../clip/clip.ts";
import { Evaluator } from "../evaluate.ts";
import { readBvh } from "../formats/bvh/read.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { DEFAULT_RECIPE, emptyWork, makePatch, type Patch, type Work } from "../work.ts";
import { skatingBody } from "./skatingBody.ts";

const file = readBvh(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" });

/** The skating stick figure with what tests of patches ask of it. */
export const stick = {
  ...file,
  joint: (name: string) => file.skeleton.names.indexOf(name),
  evaluator: () => new Evaluator(file.skeleton, file.clip),
  work: (...patches: Patch[]): Work => ({ ...emptyWork(), patches }),
  /** the same after floor and plant */
  grounded: (...patches: Patch[]): Work => ({ ...emptyWork(), patches: [...DEFAULT_RECIPE.patches, ...patches] }),
};

export function patch(kind: string, settings: Record<string, unknown>, rest: Partial<Patch> = {}): Patch {
  return { ...makePatch(kind, kind, kind, settings), ...rest };
}

/** A window about a frame with ramps. */
export function around(frame: number, hold = 0, ramp = 6): Partial<Patch> {
  return { range: { start: frame - hold, end: frame + hold }, rampInFrames: ramp, rampOutFrames: ramp };
}

/** Frames on which any bit differs between two clips, and joints that do. */
export function differences(a: Clip, b: Clip): { frames: number[]; joints: number[]; moved: boolean } {
  const frames = new Set<number>();
  const joints = new Set<number>();
  a.rotations.forEach((v, i) => {
    if (Object.is(v, b.rotations[i])) return;
    frames.add(Math.floor(i / (a.jointCount * 4)));
    joints.add(Math.floor(i / 4) % a.jointCount);
  });
  let moved = false;
  a.positions.forEach((v, i) => {
    if (Object.is(v, b.positions[i])) return;
    frames.add(Math.floor(i / (a.positionJoints.length * 3)));
    moved = true;
  });
  return { frames: [...frames].sort((x, y) => x - y), joints: [...joints].sort((x, y) => x - y), moved };
}

/** World place and rotation of a joint at a frame. */
export function worldAt(clip: Clip, f: number, joint: number): { place: number[]; turn: Float64Array } {
  const frame = new PoseFrame(file.skeleton, clip);
  frame.load(clip, f);
  return { place: Array.from(frame.worldPositions.slice(joint * 3, joint * 3 + 3)), turn: frame.worldRotations.slice(joint * 4, joint * 4 + 4) };
}

export function apart(a: ArrayLike<number>, b: ArrayLike<number>): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
