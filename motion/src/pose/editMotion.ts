import type { Rig } from "../character/rig.ts";
import { CHUNK_MASK, ClipDraft } from "../clip/clip.ts";
import { FREE, type Freedom } from "../kinematics/bodyReach.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { rangeWeight } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import type { PatchContext } from "../patches/kind.ts";
import { contactRamps } from "../plants/plants.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { editFrame, type FrameHold, type FrameOp, type Stand } from "./editFrame.ts";
import type { Hold } from "./edits.ts";

/** Holds with their parts found. Throws PatchError for a part that the body does not have. */
export function frameHolds(holds: readonly Hold[], context: PatchContext): FrameHold[] {
  return holds.map((hold) => ({
    joint: context.part(hold.part, "holds"),
    position: hold.position,
    orientation: hold.orientation,
    on: hold.on === null ? -1 : context.part(hold.on, "holds"),
  }));
}

/**
 * Edits every frame that has weight, one by one. `opsAt` gives the frame's edits, already scaled by the weight; its first argument is
 * the frame of the motion given. Joints off the mask and frames without edits keep their bits.
 */
export function editMotion(
  motion: Motion,
  context: PatchContext,
  opsAt: (frame: number, weight: number, before: PoseFrame) => readonly FrameOp[],
  holds: readonly FrameHold[],
): Motion {
  const { skeleton, rig } = motion.character;
  const draft = ClipDraft.of(motion.clip);
  const frame = new PoseFrame(skeleton, motion.clip);
  const before = new PoseFrame(skeleton, motion.clip);
  const freedom = maskedFreedom(skeleton, rig, context.joints);
  const standing = standingLimbs(motion);
  for (let f = 0; f < motion.clip.frameCount; f++) {
    if (context.weights[f] === 0) continue;
    if ((f & CHUNK_MASK) === 0) context.pause();
    before.load(motion.clip, f);
    const ops = opsAt(f, context.weights[f], before);
    if (ops.length === 0) continue;
    frame.copyFrom(before);
    editFrame(frame, before, rig, ops, holds, standing(f), freedom);
    frame.store(draft, f, context.joints);
  }
  const clip = draft.done();
  return clip === motion.clip ? motion : { ...motion, clip };
}

/** What the trunk may do when only some joints may be touched. */
export function maskedFreedom(skeleton: Skeleton, rig: Rig, joints: ReadonlySet<number> | null): Freedom {
  if (!joints) return FREE;
  const locked = new Set(skeleton.names.map((_, j) => j).filter((j) => !joints.has(j)));
  return { ...FREE, locked, move: joints.has(rig.mover) ? FREE.move : [0, 0, 0] };
}

/**
 * Which limbs stand at a frame of a motion that has been planted, and by how much: wholly in their contacts, by the plants' ramps before
 * and after. Without a plant none do.
 */
export function standingLimbs(motion: Motion): (frame: number) => readonly Stand[] {
  const { clip, points, plants } = motion;
  const { rig } = motion.character;
  if (plants.length === 0) return () => [];
  const weights = rig.limbs.map(() => new Float64Array(clip.frameCount));
  for (const contact of motion.contacts) {
    const list = weights[points.find((p) => p.id === contact.point)?.limb ?? -1];
    if (!list || !contact.anchor.point || typeof contact.on === "object") continue;
    const { rampIn, rampOut } = contactRamps(motion, contact);
    for (let f = Math.max(0, contact.start - rampIn); f <= Math.min(clip.frameCount - 1, contact.end + rampOut); f++) {
      list[f] = Math.max(list[f], rangeWeight(f, contact.start, contact.end, rampIn, rampOut));
    }
  }
  return (frame) => weights.flatMap((list, limb) => (list[frame] > 0 ? [{ limb, weight: list[frame] }] : []));
}
