import type { BodyMap } from "../character/bodyMap.ts";
import type { Character } from "../character/character.ts";
import { alignment, restDirections } from "../character/restDirections.ts";
import type { Rig } from "../character/rig.ts";
import type { Role } from "../character/roles.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import { ancestry, restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import type { PoseEdit } from "./edits.ts";
import { mirrorJoints, mirrorQuat, otherRole } from "./mirror.ts";
import { headingOf } from "./spaces.ts";
import { POSE_FORMAT, type StoredPose } from "./storedPose.ts";

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
export function takePose(frame: PoseFrame, character: Character, joints: Iterable<number> | null): StoredPose {
  const { skeleton, body, rig } = character;
  const roleOf = rolesByJoint(body);
  const directions = restDirections(character);
  const atRest = restWorld(skeleton).rotations;
  const rest: StoredPose["rest"] = {};
  const heading = headingOf(frame, rig);
  const rotations: Record<string, [number, number, number, number]> = {};
  for (const joint of joints ?? skeleton.names.keys()) {
    const way = directions.get(joint);
    if (way) rest[keyOf(joint, roleOf, skeleton)] = [way[0], way[1], way[2]];
    if (joint === rig.hips) {
      const q = axisAngleQuatFlat(new Float64Array(4), 0, 0, 1, 0, -heading);
      multiplyQuatFlat(q, 0, q, 0, frame.worldRotations, joint * 4);
      multiplyQuatFlat(q, 0, q, 0, inverseAt(atRest, joint), 0);
      rotations[keyOf(joint, roleOf, skeleton)] = quad(q);
    } else rotations[keyOf(joint, roleOf, skeleton)] = quad(fromRest(frame.rotations, joint, skeleton));
  }
  const p = frame.worldPositions;
  const h = rig.hips * 3;
  return { format: POSE_FORMAT, rotations, rest, heading, place: [p[h], p[h + 1], p[h + 2]] };
}

/** The pose seen in a mirror: sides change, headings and places stay. Twice is the same again. */
export function mirrorPose(pose: StoredPose, rig: Rig): StoredPose {
  const rotations: StoredPose["rotations"] = {};
  const rest: StoredPose["rest"] = {};
  const q = new Float64Array(4);
  const otherKey = (key: string) => (key.startsWith("=") ? key : (otherRole(key as Role) ?? key));
  for (const [key, rotation] of Object.entries(pose.rotations)) {
    mirrorQuat(q, 0, rotation, 0, rig);
    rotations[otherKey(key)] = quad(q);
  }
  for (const [key, [left, up, forward]] of Object.entries(pose.rest)) rest[otherKey(key)] = [-left, up, forward];
  return { ...pose, rotations, rest };
}

export interface PasteOptions {
  /** paste onto these joints only; null: all that the pose has */
  readonly joints: ReadonlySet<number> | null;
  /** in the world: the hips come to the pose's own heading and place; on the spot: they keep the frame's */
  readonly where: "world" | "spot";
  readonly amount: number;
  readonly label: string;
}

/** R_p·l·R⁻¹: a joint's local rotation as a turning against its parent in the axes of the world at rest. */
function fromRest(rotations: Float64Array, joint: number, skeleton: Skeleton): Float64Array {
  const atRest = restWorld(skeleton).rotations;
  const q = new Float64Array(4);
  multiplyQuatFlat(q, 0, rotations, joint * 4, inverseAt(atRest, joint), 0);
  const parent = skeleton.parents[joint];
  return parent < 0 ? q : (multiplyQuatFlat(q, 0, atRest, parent * 4, q, 0) as Float64Array);
}

function inverseAt(rotations: Float64Array, joint: number): Float64Array {
  return conjugateQuatFlat(new Float64Array(4), 0, rotations, joint * 4) as Float64Array;
}

/**
 * The edit that brings a frame into a stored pose, as differences from that frame: at it the pose is exact, around it the motion's own
 * life goes on. Where the pose was taken from a body with another rest pose, its bones are brought to point the same way: with T_j the
 * shortest turn from the direction that the bone had at rest there to the one it has here, and W the turning of a bone from its rest in the
 * world, W here = W there · T⁻¹, so that l = R_p⁻¹·T_p·(stored)·T⁻¹·R. Throws RangeError when the pose and the body share no part.
 */
export function pasteEdit(frame: PoseFrame, character: Character, pose: StoredPose, options: PasteOptions): PoseEdit {
  const { skeleton, body, rig } = character;
  const roleOf = rolesByJoint(body);
  const directions = restDirections(character);
  const atRest = restWorld(skeleton).rotations;
  const turns = skeleton.names.map((_, joint) => alignment(pose.rest[keyOf(joint, roleOf, skeleton)], directions.get(joint), rig));
  const rotations: PoseEdit["rotations"] = {};
  const q = new Float64Array(4);
  const heading = new Float64Array(4);
  let found = false;
  let moved: PoseEdit["moved"] = null;
  skeleton.names.forEach((_, joint) => {
    if (options.joints && !options.joints.has(joint)) return;
    const key = keyOf(joint, roleOf, skeleton);
    const target = pose.rotations[key];
    if (!target) return;
    found = true;
    multiplyQuatFlat(q, 0, target, 0, inverseAt(turns[joint], 0), 0);
    multiplyQuatFlat(q, 0, q, 0, atRest, joint * 4);
    if (joint === rig.hips) {
      axisAngleQuatFlat(heading, 0, 0, 1, 0, options.where === "world" ? pose.heading : headingOf(frame, rig));
      multiplyQuatFlat(q, 0, heading, 0, q, 0);
      const { q: above, offset } = frame.parentRotation(joint);
      multiplyQuatFlat(q, 0, conjugateQuatFlat(new Float64Array(4), 0, above as Float64Array, offset), 0, q, 0);
      const way = [0, 1, 2].map((c) => (pose.place[c] - frame.worldPositions[joint * 3 + c]) * 100) as [number, number, number];
      moved = options.where === "world" ? way : [0, way[1], 0];
    } else if (skeleton.parents[joint] >= 0) {
      const parent = skeleton.parents[joint];
      multiplyQuatFlat(q, 0, turns[parent], 0, q, 0);
      multiplyQuatFlat(q, 0, inverseAt(atRest, parent), 0, q, 0);
    }
    const difference = inverseAt(frame.rotations, joint);
    multiplyQuatFlat(difference, 0, difference, 0, q, 0);
    normalizeQuatFlat(difference, 0);
    rotations[key] = quad(difference);
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

/** The rest pose, standing where the frame's hips are and facing as it does: nothing turned against its parent. */
export function restPose(frame: PoseFrame, character: Character): StoredPose {
  const now = takePose(frame, character, null);
  const rotations = Object.fromEntries(Object.keys(now.rotations).map((key) => [key, [0, 0, 0, 1] as [number, number, number, number]]));
  return { ...now, rotations };
}
