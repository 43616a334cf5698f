import { z } from "zod";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import type { Rig } from "../kinematics/rig.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, multiplyQuatFlat } from "../math/quat.ts";
import type { BodyMap } from "../skeleton/bodyMap.ts";
import type { Role } from "../skeleton/roles.ts";
import { ancestry, type Skeleton } from "../skeleton/skeleton.ts";
import type { PoseEdit } from "./edits.ts";
import { mirrorJoints, mirrorQuat, otherRole } from "./mirror.ts";
import { headingOf } from "./spaces.ts";

const quaternion = z.tuple([z.number(), z.number(), z.number(), z.number()]);

export const POSE_FORMAT = "patch-stride.pose/1";

/**
 * A pose that can be pasted onto any body: local rotations by part ("leftHand") or, for joints without a known part, by name
 * ("=Lantern"). The hips' rotation is relative to the body's heading; `place` is the hips' place (world, metres) when it was taken.
 */
export const storedPoseSchema = z.strictObject({
  format: z.literal(POSE_FORMAT),
  rotations: z.record(z.string().min(1).max(201), quaternion),
  heading: z.number(),
  place: z.tuple([z.number(), z.number(), z.number()]),
});
export type StoredPose = z.infer<typeof storedPoseSchema>;

function keyOf(joint: number, roleOf: ReadonlyMap<number, Role>, skeleton: Skeleton): string {
  return roleOf.get(joint) ?? `=${skeleton.names[joint]}`;
}

function rolesByJoint(body: BodyMap): Map<number, Role> {
  return new Map((Object.entries(body.roles) as [Role, number][]).map(([role, joint]) => [joint, role]));
}

function quad(q: ArrayLike<number>, o = 0): [number, number, number, number] {
  return [q[o], q[o + 1], q[o + 2], q[o + 3]];
}

/** Takes a pose off a frame: of the given joints, or of all. */
export function takePose(frame: PoseFrame, rig: Rig, body: BodyMap, joints: Iterable<number> | null): StoredPose {
  const roleOf = rolesByJoint(body);
  const { skeleton } = frame;
  const heading = headingOf(frame, rig);
  const rotations: Record<string, [number, number, number, number]> = {};
  for (const joint of joints ?? skeleton.names.keys()) {
    if (joint === rig.hips) {
      const q = axisAngleQuatFlat(new Float64Array(4), 0, 0, 1, 0, -heading);
      multiplyQuatFlat(q, 0, q, 0, frame.worldRotations, joint * 4);
      rotations[keyOf(joint, roleOf, skeleton)] = quad(q);
    } else rotations[keyOf(joint, roleOf, skeleton)] = quad(frame.rotations, joint * 4);
  }
  const p = frame.worldPositions;
  const h = rig.hips * 3;
  return { format: POSE_FORMAT, rotations, heading, place: [p[h], p[h + 1], p[h + 2]] };
}

/** The pose seen in a mirror: sides change, headings and places stay. Twice is the same again. */
export function mirrorPose(pose: StoredPose, rig: Rig): StoredPose {
  const rotations: StoredPose["rotations"] = {};
  const q = new Float64Array(4);
  for (const [key, rotation] of Object.entries(pose.rotations)) {
    mirrorQuat(q, 0, rotation, 0, rig);
    rotations[key.startsWith("=") ? key : (otherRole(key as Role) ?? key)] = quad(q);
  }
  return { ...pose, rotations };
}

export interface PasteOptions {
  /** paste onto these joints only; null: all that the pose has */
  readonly joints: ReadonlySet<number> | null;
  /** in the world: the hips come to the pose's own heading and place; on the spot: they keep the frame's */
  readonly where: "world" | "spot";
  readonly amount: number;
  readonly label: string;
}

/**
 * The edit that brings a frame into a stored pose, as differences from that frame: at it the pose is exact, around it the motion's own
 * life goes on. Throws RangeError when the pose and the body share no part.
 */
export function pasteEdit(frame: PoseFrame, rig: Rig, body: BodyMap, pose: StoredPose, options: PasteOptions): PoseEdit {
  const roleOf = rolesByJoint(body);
  const rotations: PoseEdit["rotations"] = {};
  const q = new Float64Array(4);
  let found = false;
  let moved: PoseEdit["moved"] = null;
  frame.skeleton.names.forEach((name, joint) => {
    if (options.joints && !options.joints.has(joint)) return;
    const target = pose.rotations[keyOf(joint, roleOf, frame.skeleton)];
    if (!target) return;
    found = true;
    if (joint === rig.hips) {
      const heading = options.where === "world" ? pose.heading : headingOf(frame, rig);
      axisAngleQuatFlat(q, 0, 0, 1, 0, heading);
      multiplyQuatFlat(q, 0, q, 0, target, 0);
      const { q: parent, offset } = frame.parentRotation(joint);
      const inverse = conjugateQuatFlat(new Float64Array(4), 0, parent as Float64Array, offset);
      multiplyQuatFlat(q, 0, inverse, 0, q, 0);
      const o = joint * 3;
      const way = [0, 1, 2].map((c) => (pose.place[c] - frame.worldPositions[o + c]) * 100) as [number, number, number];
      moved = options.where === "world" ? way : [0, way[1], 0];
    } else q.set(target);
    const difference = conjugateQuatFlat(new Float64Array(4), 0, frame.rotations, joint * 4);
    multiplyQuatFlat(difference, 0, difference, 0, q, 0);
    rotations[name] = quad(difference);
  });
  if (!found) throw new RangeError("the pose and this body share no part, so nothing would be written");
  return { op: "pose", label: options.label, rotations, additive: true, amount: options.amount, moved };
}

/** Joints of a limb with its collarbone and everything that hangs on it, or the joint and what is below it where it is no limb's. */
export function limbJoints(skeleton: Skeleton, rig: Rig, joint: number): Set<number> {
  const limb = rig.limbs.find((l) => ancestry(skeleton, joint).includes(l.collar >= 0 ? l.collar : l.upper));
  const top = limb ? (limb.collar >= 0 ? limb.collar : limb.upper) : joint;
  return new Set([...skeleton.names.keys()].filter((j) => ancestry(skeleton, j).includes(top)));
}

/** The joints on the other side of these. */
export function mirroredSet(joints: ReadonlySet<number>, skeleton: Skeleton, body: BodyMap): Set<number> {
  const pairs = mirrorJoints(skeleton.names.length, body);
  return new Set([...joints].map((j) => pairs[j]));
}

/** The rest pose, standing where the frame's hips are and facing as it does. */
export function restPose(frame: PoseFrame, rig: Rig, body: BodyMap): StoredPose {
  const now = takePose(frame, rig, body, null);
  const rotations = Object.fromEntries(Object.keys(now.rotations).map((key) => [key, [0, 0, 0, 1] as [number, number, number, number]]));
  return { ...now, rotations };
}
