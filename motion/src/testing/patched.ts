import type { PartRef } from "../character/parts.ts";
import { type Clip, ClipDraft, flatTrack } from "../clip/clip.ts";
import { makePatch, type Patch } from "../documents/patch.ts";
import { DEFAULT_RECIPE, emptyWork, type Work } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { readBvh } from "../formats/bvh/read.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { oneSource } from "../sources.ts";
import { skatingBody } from "./skatingBody.ts";

const file = readBvh(new TextEncoder().encode(skatingBody()), { fileName: "skating.bvh" });
const { fps } = file.clip;

/** The skating stick figure with what tests of patches ask of it. */
export const stick = {
  ...file,
  joint: (name: string) => file.skeleton.names.indexOf(name),
  evaluator: (clip: Clip = file.clip) => new Evaluator(oneSource(file.skeleton, clip)),
  work: (...patches: Patch[]): Work => ({ ...emptyWork(), patches }),
  /** the same after floor and plant */
  grounded: (...patches: Patch[]): Work => ({ ...emptyWork(), patches: [...DEFAULT_RECIPE.patches, ...patches] }),
};

export function patch(kind: string, settings: Record<string, unknown>, rest: Partial<Patch> = {}): Patch {
  return { ...makePatch(kind, kind, kind, settings), ...rest };
}

/** Parts by the joints' own names. */
export function named(...joints: string[]): PartRef[] {
  return joints.map((joint) => ({ joint }));
}

/** Moment of a frame of the stick figure's clip, seconds. */
export function at(frame: number): number {
  return frame / fps;
}

/** A window about a frame with ramps, all in frames. */
export function around(frame: number, hold = 0, ramp = 6): Partial<Patch> {
  return { range: { start: at(frame - hold), end: at(frame + hold) }, rampIn: at(ramp), rampOut: at(ramp) };
}

/** A clip with a joint set to a rotation on some frames. */
export function withRotation(clip: Clip, joint: number, frames: readonly number[], q: readonly number[]): Clip {
  const draft = ClipDraft.of(clip);
  for (const f of frames) draft.setRotation(joint, f, q);
  return draft.done();
}

/** A clip with a position sample moved on some frames. */
export function withShift(clip: Clip, slot: number, frames: readonly number[], by: readonly number[]): Clip {
  const flat = flatTrack(clip.positions[slot], 3);
  const draft = ClipDraft.of(clip);
  for (const f of frames)
    draft.setPosition(
      slot,
      f,
      [0, 1, 2].map((i) => flat[f * 3 + i] + by[i]),
    );
  return draft.done();
}

/** Frames on which any bit differs between two clips, and joints that do. */
export function differences(a: Clip, b: Clip): { frames: number[]; joints: number[]; moved: boolean } {
  const frames = new Set<number>();
  const joints = new Set<number>();
  let moved = false;
  const compare = (x: Float64Array, y: Float64Array, size: number, differs: (frame: number) => void) => {
    x.forEach((v, i) => {
      if (!Object.is(v, y[i])) differs(Math.floor(i / size));
    });
  };
  a.rotations.forEach((track, joint) => {
    compare(flatTrack(track, 4), flatTrack(b.rotations[joint], 4), 4, (frame) => {
      frames.add(frame);
      joints.add(joint);
    });
  });
  a.positions.forEach((track, slot) => {
    compare(flatTrack(track, 3), flatTrack(b.positions[slot], 3), 3, (frame) => {
      frames.add(frame);
      moved = true;
    });
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
