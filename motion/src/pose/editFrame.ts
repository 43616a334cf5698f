import type { Rig } from "../character/rig.ts";
import { FREE, type Freedom, type Goal, type Residual, reachBody } from "../kinematics/bodyReach.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, expQuatFlat, multiplyQuatFlat, rotateVecFlat, slerpQuatFlat } from "../math/quat.ts";
import { type Space, spaceRotation } from "./spaces.ts";

/** An edit of one frame, its names resolved and its amounts scaled by whatever weight it has there. Radians, metres. */
export type FrameOp =
  | { readonly op: "turn"; readonly joint: number; readonly space: Space; readonly vector: ArrayLike<number>; readonly pivot: FramePivot | null }
  | { readonly op: "move"; readonly joint: number; readonly space: Space; readonly vector: ArrayLike<number> }
  /** local rotation, `weight` of the way from the pose's own */
  | { readonly op: "set"; readonly joint: number; readonly rotation: ArrayLike<number>; readonly weight: number }
  /** the body's place, moved in the world without reach */
  | { readonly op: "carry"; readonly vector: ArrayLike<number> };

export interface FramePivot {
  readonly joints: readonly number[];
  readonly point: ArrayLike<number> | null;
}

export interface FrameHold {
  readonly joint: number;
  readonly position: boolean;
  readonly orientation: boolean;
  readonly on: number;
}

/** A limb (index of rig.limbs) that rests on the ground, and how much of it is kept there: 1 while it rests, less on the way to it and from it. */
export interface Stand {
  readonly limb: number;
  readonly weight: number;
}

/** How far each hold (in order) is from where it should be: metres and radians. */
export type HoldReport = readonly Residual[];

const NO_TURN = [0, 0, 0] as const;

/** Largest rounds of bringing parts that ride on edited parts along with them. */
const RIDING_ROUNDS = 3;

/**
 * Edits one frame: turns, sets and moves of the body's place in their order, then everything that is to be somewhere (moved parts, holds)
 * in one whole-body reach. `frame` holds the pose and is changed; `before` must hold the same pose and stays. Limbs that stand
 * stay on the ground and the trunk never leaves them behind. Holds follow the course that their part has in
 * `before`. Without edits nothing is written, whatever is held.
 */
export function editFrame(
  frame: PoseFrame,
  before: PoseFrame,
  rig: Rig,
  ops: readonly FrameOp[],
  holds: readonly FrameHold[],
  standing: readonly Stand[],
  freedom: Freedom = FREE,
): HoldReport {
  const active = ops.filter((op) => (op.op === "set" ? op.weight > 0 : op.vector[0] !== 0 || op.vector[1] !== 0 || op.vector[2] !== 0));
  if (active.length === 0) return holds.map(() => ({ position: 0, orientation: 0 }));
  const locked = new Set(freedom.locked);
  let { hipsTurn } = freedom;
  for (const op of active) {
    if (op.op === "turn") turnPart(frame, rig, op);
    else if (op.op === "set") {
      const q = new Float64Array(4);
      slerpQuatFlat(q, 0, frame.rotations, op.joint * 4, op.rotation as Float64Array, 0, op.weight);
      frame.putLocal(op.joint, q);
    } else if (op.op === "carry") frame.moveWorld(rig.mover, op.vector[0], op.vector[1], op.vector[2]);
    frame.update();
    if (op.op === "turn" || op.op === "set") locked.add(op.joint);
    if (op.op !== "carry" && op.joint === rig.hips) hipsTurn = NO_TURN;
  }
  return settleFrame(frame, before, rig, active, holds, standing, { ...freedom, locked, hipsTurn });
}

/** The second half of `editFrame`: moves and holds, once turns are done (by it, or by a patch of its own kind). */
export function settleFrame(
  frame: PoseFrame,
  before: PoseFrame,
  rig: Rig,
  ops: readonly FrameOp[],
  holds: readonly FrameHold[],
  standing: readonly Stand[],
  freedom: Freedom,
): HoldReport {
  const moves = ops.filter((op) => op.op === "move");
  if (holds.length === 0 && moves.length === 0 && !standing.some(({ limb }) => ops.some((op) => reaches(frame, rig, op, limb)))) return [];
  const extents = rig.limbs.map((limb) => distance(before, limb.upper, limb.end));
  const extentOf = (joint: number) => extents[rig.limbBelow[joint]] ?? 0;
  const goals: Goal[] = [];
  const taken = new Set<number>();
  const q = new Float64Array(4);
  const v = new Float64Array(3);
  for (const hold of holds) {
    taken.add(hold.joint);
    goals.push(holdGoal(frame, before, hold, extentOf(hold.joint)));
  }
  const rides = holds.some((hold) => hold.on >= 0);
  const targets = new Map<number, { position: Float64Array; orientation: Float64Array | null }>();
  for (const op of moves) {
    const known = targets.get(op.joint);
    const limb = rig.limbs[rig.limbBelow[op.joint]];
    const position = known?.position ?? frame.worldPositions.slice(op.joint * 3, op.joint * 3 + 3);
    spaceRotation(q, before, rig, op.joint, op.space);
    rotateVecFlat(v, 0, q, 0, op.vector as Float64Array, 0);
    for (let c = 0; c < 3; c++) position[c] += v[c];
    targets.set(op.joint, { position, orientation: limb?.end === op.joint ? frame.worldRotations.slice(op.joint * 4, op.joint * 4 + 4) : null });
  }
  for (const [joint, target] of targets) {
    if (taken.has(joint)) continue;
    // A foot that stands is not moved off its place: that is said on the footfall chart, or not at all.
    const stands = standing.find((stand) => stand.limb === rig.limbBelow[joint])?.weight ?? 0;
    if (stands > 0) {
      for (let c = 0; c < 3; c++) target.position[c] += stands * (before.worldPositions[joint * 3 + c] - target.position[c]);
      if (target.orientation) slerpQuatFlat(target.orientation, 0, target.orientation, 0, before.worldRotations, joint * 4, stands);
    }
    taken.add(joint);
    goals.push({ joint, local: null, ...target, rank: "want", extent: extentOf(joint) });
  }
  const limbTaken = (i: number) => [...taken].some((joint) => rig.limbBelow[joint] === i);
  rig.limbs.forEach((limb, i) => {
    if (limbTaken(i)) return;
    // What stands stays; and when a part is moved, feet stay where they are while the body comes along.
    const weight = standing.find((stand) => stand.limb === i)?.weight ?? 0;
    if (weight === 0 && (moves.length === 0 || limb.kind !== "leg")) return;
    const position = frame.worldPositions.slice(limb.end * 3, limb.end * 3 + 3);
    for (let c = 0; c < 3; c++) position[c] += weight * (before.worldPositions[limb.end * 3 + c] - position[c]);
    const orientation = new Float64Array(4);
    slerpQuatFlat(orientation, 0, frame.worldRotations, limb.end * 4, before.worldRotations, limb.end * 4, weight);
    goals.push({ joint: limb.end, local: null, position, orientation, rank: "keep", extent: extents[i] });
  });
  if (goals.length === 0) return [];
  const hipsMoved = moves.some((op) => op.joint === rig.hips);
  const allowed = hipsMoved ? { ...freedom, hipsTurn: NO_TURN } : freedom;
  let residuals = reachBody(frame, rig, goals, allowed);
  for (let round = 0; rides && round < RIDING_ROUNDS; round++) {
    holds.forEach((hold, i) => {
      if (hold.on >= 0) goals[i] = holdGoal(frame, before, hold, extentOf(hold.joint));
    });
    residuals = reachBody(frame, rig, goals, allowed);
  }
  return residuals.slice(0, holds.length);
}

/** Does an edit move a limb's end? */
function reaches(frame: PoseFrame, rig: Rig, op: FrameOp, limb: number): boolean {
  if (op.op === "carry" || (op.op === "turn" && op.pivot !== null)) return true;
  return isAbove(frame, op.joint, rig.limbs[limb].end);
}

function distance(frame: PoseFrame, a: number, b: number): number {
  const p = frame.worldPositions;
  return Math.hypot(p[a * 3] - p[b * 3], p[a * 3 + 1] - p[b * 3 + 1], p[a * 3 + 2] - p[b * 3 + 2]);
}

/** Where a held part has to be: on its course in the world, or on the course it has relative to the part that it rides on. */
function holdGoal(frame: PoseFrame, before: PoseFrame, hold: FrameHold, extent: number): Goal {
  const position = before.worldPositions.slice(hold.joint * 3, hold.joint * 3 + 3);
  const orientation = before.worldRotations.slice(hold.joint * 4, hold.joint * 4 + 4);
  if (hold.on >= 0) {
    const turn = new Float64Array(4);
    conjugateQuatFlat(turn, 0, before.worldRotations, hold.on * 4);
    multiplyQuatFlat(turn, 0, frame.worldRotations, hold.on * 4, turn, 0);
    for (let c = 0; c < 3; c++) position[c] -= before.worldPositions[hold.on * 3 + c];
    rotateVecFlat(position, 0, turn, 0, position, 0);
    for (let c = 0; c < 3; c++) position[c] += frame.worldPositions[hold.on * 3 + c];
    multiplyQuatFlat(orientation, 0, turn, 0, orientation, 0);
  }
  return {
    joint: hold.joint,
    local: null,
    position: hold.position ? position : null,
    orientation: hold.orientation ? orientation : null,
    rank: "keep",
    extent,
  };
}

/**
 * Turns a part. Without a pivot the part and what hangs on it turn. With one: the hips turn the whole body about the pivot; a joint
 * between the pivot's part and the hips turns the other side, so that the pivot's side stays; any other joint turns as ever.
 */
function turnPart(frame: PoseFrame, rig: Rig, op: Extract<FrameOp, { op: "turn" }>): void {
  const turn = new Float64Array(4);
  if (!op.pivot && (op.space === "own" || op.space === "parent")) {
    // In axes of its own or its parent's the joint's local rotation is all that there is to it.
    expQuatFlat(turn, 0, op.vector as Float64Array, 0);
    const at = op.joint * 4;
    if (op.space === "own") multiplyQuatFlat(turn, 0, frame.rotations, at, turn, 0);
    else multiplyQuatFlat(turn, 0, turn, 0, frame.rotations, at);
    frame.putLocal(op.joint, turn);
    return;
  }
  const v = new Float64Array(3);
  spaceRotation(turn, frame, rig, op.joint, op.space);
  rotateVecFlat(v, 0, turn, 0, op.vector as Float64Array, 0);
  expQuatFlat(turn, 0, v, 0);
  const { pivot } = op;
  const whole = op.joint === rig.hips || isAbove(frame, op.joint, rig.hips);
  const onTheWay = pivot !== null && !whole && pivot.joints.length > 0 && pivot.joints.every((joint) => isAbove(frame, op.joint, joint));
  if (!pivot || (!whole && !onTheWay)) {
    frame.turnWorld(op.joint, turn);
    return;
  }
  const centre = onTheWay ? frame.worldPositions.slice(op.joint * 3, op.joint * 3 + 3) : pivotPoint(frame, pivot, op.joint);
  const kept = frame.worldRotations.slice(op.joint * 4, op.joint * 4 + 4);
  const hips = frame.worldPositions.slice(rig.hips * 3, rig.hips * 3 + 3);
  for (let c = 0; c < 3; c++) v[c] = hips[c] - centre[c];
  rotateVecFlat(v, 0, turn, 0, v, 0);
  frame.turnWorld(rig.hips, turn);
  frame.moveWorld(rig.mover, centre[0] + v[0] - hips[0], centre[1] + v[1] - hips[1], centre[2] + v[2] - hips[2]);
  frame.update();
  if (onTheWay) frame.setWorld(op.joint, kept);
}

/** Middle of the pivot's parts, or its free point; the joint itself when it names neither. */
export function pivotPoint(frame: PoseFrame, pivot: FramePivot, joint: number): Float64Array {
  if (pivot.point) return Float64Array.from(pivot.point);
  const list = pivot.joints.length > 0 ? pivot.joints : [joint];
  const sum = new Float64Array(3);
  for (const j of list) for (let c = 0; c < 3; c++) sum[c] += frame.worldPositions[j * 3 + c] / list.length;
  return sum;
}

/** Is `ancestor` the joint itself or above it? */
function isAbove(frame: PoseFrame, ancestor: number, joint: number): boolean {
  for (let j = joint; j >= 0; j = frame.skeleton.parents[j]) if (j === ancestor) return true;
  return false;
}
