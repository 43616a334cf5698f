import { copyClip, frameClip } from "../clip/clip.ts";
import type { Contact, ContactPart } from "../contacts/contact.ts";
import { FREE, type Freedom } from "../kinematics/bodyReach.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import type { Rig } from "../kinematics/rig.ts";
import { rangeWeight } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import type { PatchContext } from "../patches/kind.ts";
import { RAMP_RATE } from "../plants/settings.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { editFrame, type FrameHold, type FrameOp, type Stand } from "./editFrame.ts";
import { type Hold, jointIndex } from "./edits.ts";

/** Holds with their names resolved. Throws PatchError for a part that the body does not have. */
export function frameHolds(skeleton: Skeleton, holds: readonly Hold[], patch: string): FrameHold[] {
  return holds.map((hold) => ({
    joint: jointIndex(skeleton, hold.joint, patch, "holds"),
    position: hold.position,
    orientation: hold.orientation,
    on: hold.on === null ? -1 : jointIndex(skeleton, hold.on, patch, "holds"),
  }));
}

/**
 * Edits every frame that has weight, one by one. `opsAt` gives the frame's edits, already scaled by the weight; its first argument is
 * the frame in the patch's own counting. Joints off the mask and frames without edits keep their bits.
 */
export function editMotion(
  motion: Motion,
  context: PatchContext,
  opsAt: (frame: number, weight: number, before: PoseFrame) => readonly FrameOp[],
  holds: readonly FrameHold[],
): Motion {
  const { skeleton, rig } = motion;
  if (!context.weights.some((w) => w > 0)) return motion;
  const clip = copyClip(motion.clip);
  const frame = new PoseFrame(skeleton, clip);
  const before = new PoseFrame(skeleton, clip);
  const freedom = maskedFreedom(skeleton, rig, context.joints);
  const standing = standingLimbs(motion);
  let written = false;
  for (let f = 0; f < clip.frameCount; f++) {
    if (context.weights[f] === 0) continue;
    before.load(motion.clip, f);
    const ops = opsAt(f + context.offset, context.weights[f], before);
    if (ops.length === 0) continue;
    frame.copyFrom(before);
    editFrame(frame, before, rig, ops, holds, standing(f), freedom);
    frame.store(clip, f, context.joints);
    written = true;
  }
  return written ? { ...motion, clip } : motion;
}

/** What the trunk may do when only some joints may be touched. */
export function maskedFreedom(skeleton: Skeleton, rig: Rig, joints: ReadonlySet<number> | null): Freedom {
  if (!joints) return FREE;
  const locked = new Set(skeleton.names.map((_, j) => j).filter((j) => !joints.has(j)));
  return { ...FREE, locked, move: joints.has(rig.mover) ? FREE.move : [0, 0, 0] };
}

/**
 * Which limbs stand at a frame of a motion that has been planted, and by how much: wholly in their contacts, by the plant's ramps before
 * and after. Without a plant none do.
 */
export function standingLimbs(motion: Motion): (frame: number) => readonly Stand[] {
  const { plant, rig, clip } = motion;
  if (!plant) return () => [];
  const perSecond = clip.fps / RAMP_RATE;
  const landing = Math.round(plant.settings.landingRampInFrames * perSecond);
  const lift = Math.round(plant.settings.liftRampInFrames * perSecond);
  const weights = rig.limbs.map(() => new Float64Array(clip.frameCount));
  for (const contact of motion.contacts) {
    const list = weights[limbOfPart(rig, contact.part)];
    if (!list || !contact.anchor.point) continue;
    const rampIn = contact.rampIn ?? landing;
    const rampOut = contact.rampOut ?? lift;
    for (let f = Math.max(0, contact.start - rampIn); f <= Math.min(clip.frameCount - 1, contact.end + rampOut); f++) {
      list[f] = Math.max(list[f], rangeWeight(f, contact.start, contact.end, rampIn, rampOut));
    }
  }
  return (frame) => weights.flatMap((list, limb) => (list[frame] > 0 ? [{ limb, weight: list[frame] }] : []));
}

export function limbOfPart(rig: Rig, part: ContactPart): number {
  const side = part.startsWith("left") ? "left" : "right";
  const kind = part.endsWith("Hand") || part.endsWith("Fore") ? "arm" : "leg";
  return rig.limbs.findIndex((limb) => limb.side === side && limb.kind === kind);
}

/** One frame of a motion as a motion of its own. */
export function pieceOf(motion: Motion, frame: number): Motion {
  const contacts: Contact[] = motion.contacts.map((c) => ({ ...c, start: c.start - frame, end: c.end - frame }));
  return { ...motion, contacts, clip: frameClip(motion.clip, frame), timeMap: motion.timeMap.slice(frame, frame + 1) };
}
