import type { BodyMap } from "../character/bodyMap.ts";
import type { Character } from "../character/character.ts";
import type { Rig } from "../character/rig.ts";
import type { Role } from "../character/roles.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, fromToQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry, restWorld, type Skeleton, tipOf } from "../skeleton/skeleton.ts";
import type { PoseEdit } from "./edits.ts";
import { mirrorJoints, mirrorQuat, otherRole } from "./mirror.ts";
import { headingOf } from "./spaces.ts";
import { POSE_FORMAT, type StoredPose } from "./storedPose.ts";

function keyOf(joint: number, roleOf: ReadonlyMap<number, Role>, skeleton: Skeleton): string {
  return roleOf.get(joint) ?? `=${skeleton.names[joint]}`;
}

/**
 * Which way each known part's bone points in the rest pose, as left, up and forward of the body: to the next known part below it, or to its
 * tip. Parts whose way is not known (a hand without fingers) are left out.
 */
function restDirections({ skeleton, body, rig }: Character): Map<number, Float64Array> {
  const { positions, rotations } = restWorld(skeleton);
  const known = new Set(Object.values(body.roles) as number[]);
  const out = new Map<number, Float64Array>();
  const v = new Float64Array(3);
  for (const joint of known) {
    const below = [...known].filter((j) => j !== joint && nearestKnown(skeleton, known, j) === joint);
    const next = below.length === 1 ? below[0] : below.find((j) => chainRole(body, joint, j));
    const tip = tipOf(skeleton, joint);
    if (next !== undefined) for (let i = 0; i < 3; i++) v[i] = positions[next * 3 + i] - positions[joint * 3 + i];
    else if (below.length === 0 && tip) rotateVecFlat(v, 0, rotations, joint * 4, [...tip], 0);
    else continue;
    const length = Math.hypot(v[0], v[1], v[2]);
    if (length < SHORTEST_BONE) continue;
    out.set(
      joint,
      Float64Array.from([rig.left, rig.up, rig.forward], (axis) => (axis[0] * v[0] + axis[1] * v[1] + axis[2] * v[2]) / length),
    );
  }
  return out;
}

/** Bones shorter than this point nowhere, metres. */
const SHORTEST_BONE = 1e-3;

function nearestKnown(skeleton: Skeleton, known: ReadonlySet<number>, joint: number): number {
  for (let j = skeleton.parents[joint]; j >= 0; j = skeleton.parents[j]) if (known.has(j)) return j;
  return -1;
}

/** Of several parts below one: the next of the trunk, or the middle finger of a hand. */
function chainRole(body: BodyMap, joint: number, below: number): boolean {
  const role = (Object.entries(body.roles) as [Role, number][]).find(([, j]) => j === below)?.[0] ?? "";
  return joint === body.roles.hips || /^(spine|chest)/.test(role) ? /^(spine|chest|neck|head)/.test(role) : /Middle$/.test(role);
}

/** Rotation, in the rest pose's world axes, that takes the direction a bone had at rest on one body to the one it has on another: by the shortest way. */
function alignment(from: readonly number[] | undefined, to: Float64Array | undefined, rig: Rig): Float64Array {
  const q = new Float64Array([0, 0, 0, 1]);
  if (!from || !to) return q;
  const world = (v: ArrayLike<number>) => [0, 1, 2].map((i) => v[0] * rig.left[i] + v[1] * rig.up[i] + v[2] * rig.forward[i]);
  const [a, b] = [world(from), world(to)];
  if (Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) < SAME_DIRECTION) return q;
  return fromToQuatFlat(q, 0, a[0], a[1], a[2], b[0], b[1], b[2]) as Float64Array;
}

/** Directions nearer than this are one: a body's own rest, read back. */
const SAME_DIRECTION = 1e-5;

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
