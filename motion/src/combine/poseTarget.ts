import { findPart, partFromKey } from "../character/parts.ts";
import { type Clip, ClipDraft, cropClip } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { multiplyQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { pasteEdit } from "../pose/poses.ts";
import type { StoredPose } from "../pose/storedPose.ts";

/**
 * A frame of a motion brought into a stored pose: parts that the pose does not name stay as they are there. "world" takes the pose's own place and heading, "spot" the
 * frame's. Throws RangeError when the pose and the body share no part.
 */
export function posedFrame(motion: Motion, frame: number, pose: StoredPose, where: "world" | "spot"): PoseFrame {
  const { character, clip } = motion;
  const posed = new PoseFrame(character.skeleton, clip);
  posed.load(cropClip(clip, frame, frame), 0);
  const edit = pasteEdit(posed, character, pose, { joints: null, where, amount: 1, label: "" });
  const q = new Float64Array(4);
  for (const [key, difference] of Object.entries(edit.rotations)) {
    const joint = findPart(character, partFromKey(key));
    if (joint === undefined) continue;
    multiplyQuatFlat(q, 0, posed.rotations, joint * 4, difference as number[], 0);
    posed.putLocal(joint, q);
  }
  posed.update();
  const { moved } = edit;
  if (moved) posed.moveWorld(character.rig.mover, moved[0] / 100, moved[1] / 100, moved[2] / 100);
  posed.update();
  return posed;
}

/** A motion that holds a pose on every frame. */
export function stillMotion(like: Motion, pose: PoseFrame): Motion {
  const { clip } = like;
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, clip.jointCount, clip.positionJoints);
  for (let f = 0; f < clip.frameCount; f++) pose.storeAll(draft, f);
  return { ...like, clip: draft.done(), contacts: [], plants: [], groundTravel: null, settled: null };
}

/** Is a clip one pose over some frames, as far as some joints go? */
export function isStill(clip: Clip, joints: ReadonlySet<number>, first: number, last: number): boolean {
  const same = (track: Clip["rotations"][number], size: number) => {
    const at = (f: number, i: number) => track[f >> 6][(f & 63) * size + i];
    for (let f = first + 1; f <= last; f++) for (let i = 0; i < size; i++) if (Math.abs(at(f, i) - at(first, i)) > STILL) return false;
    return true;
  };
  return [...joints].every((j) => same(clip.rotations[j], 4));
}

/** Parts of a quaternion that differ by less turn nothing that is seen: a hundredth of a degree. */
const STILL = 1e-4;
