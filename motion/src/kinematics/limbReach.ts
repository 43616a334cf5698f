import type { RigLimb } from "../character/rig.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, multiplyQuatFlat, quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import type { Goal } from "./bodyReach.ts";
import type { PoseFrame } from "./poseFrame.ts";
import { makeTwoBoneReach, reachTwoBone } from "./twoBone.ts";

/** An end closer than this to its target is left as it is, so that it keeps its bits. */
const THERE = 1e-9;

const _q = /*@__PURE__*/ new Float64Array(4);
const _r = /*@__PURE__*/ new Float64Array(4);

/** Where the limb's end joint has to be for the goal's point to be at its target. */
export function endTarget(dst: Float64Array, frame: PoseFrame, limb: RigLimb, goal: Goal): void {
  const target = goal.position as ArrayLike<number>;
  const turn = goal.joint === limb.end && goal.orientation ? goal.orientation : null;
  if (goal.joint === limb.end && !goal.local) {
    for (let c = 0; c < 3; c++) dst[c] = target[c];
    return;
  }
  // The point as seen from the end joint, with the end turned as it shall be.
  frame.point(dst, goal.joint, goal.local);
  for (let c = 0; c < 3; c++) dst[c] -= frame.worldPositions[limb.end * 3 + c];
  if (turn) {
    conjugateQuatFlat(_r, 0, frame.worldRotations, limb.end * 4);
    multiplyQuatFlat(_r, 0, turn as Float64Array, 0, _r, 0);
    rotateVecFlat(dst, 0, _r, 0, dst, 0);
  }
  for (let c = 0; c < 3; c++) dst[c] = target[c] - dst[c];
}

const _reach = /*@__PURE__*/ makeTwoBoneReach();
const _target = /*@__PURE__*/ new Float64Array(3);
const _start = /*@__PURE__*/ new Float64Array(3);
const _hinge = /*@__PURE__*/ new Float64Array(3);
const _via = /*@__PURE__*/ new Float64Array(3);
const _end = /*@__PURE__*/ new Float64Array(4);

/** The limb's own part: shoulder, elbow and hand (thigh, knee and foot) so that the goal holds. */
export function reachLimb(frame: PoseFrame, limb: RigLimb, goal: Goal): void {
  frame.update();
  const { worldPositions: wp, worldRotations: wr } = frame;
  const own = goal.joint === limb.end ? goal.orientation : null;
  const turn = own ?? (goal.joint === limb.end && !goal.local ? null : wr.slice(limb.end * 4, limb.end * 4 + 4));
  if (turn) for (let i = 0; i < 4; i++) _end[i] = turn[i];
  if (goal.position) {
    endTarget(_target, frame, limb, goal);
    const e = limb.end * 3;
    const away = Math.hypot(_target[0] - wp[e], _target[1] - wp[e + 1], _target[2] - wp[e + 2]);
    if (away > THERE) {
      for (let c = 0; c < 3; c++) _start[c] = wp[limb.upper * 3 + c];
      rotateVecFlat(_hinge, 0, wr, limb.upper * 4, limb.hinge, 0);
      const { q, offset } = frame.parentRotation(limb.collar >= 0 ? limb.collar : limb.upper);
      rotateVecFlat(_via, 0, q as Float64Array, offset, limb.via, 0);
      reachTwoBone(_reach, wp, limb.upper * 3, wp, limb.lower * 3, wp, e, _start, _target, _hinge, _via);
      multiplyQuatFlat(_q, 0, _reach.upper, 0, wr, limb.upper * 4);
      multiplyQuatFlat(_r, 0, _reach.lower, 0, wr, limb.lower * 4);
      frame.setWorld(limb.upper, _q);
      frame.update();
      frame.setWorld(limb.lower, _r);
      frame.update();
    }
  }
  if (turn && quatAngleFlat(wr, limb.end * 4, _end, 0) > THERE) {
    frame.setWorld(limb.end, _end);
    frame.update();
  }
}

/** Turns the limb about the line from its start to its end so that its middle points at the target; its end stays as it is. */
export function swivel(frame: PoseFrame, limb: RigLimb, target: ArrayLike<number>): void {
  frame.update();
  const wp = frame.worldPositions;
  const [s, m, e] = [limb.upper * 3, limb.lower * 3, limb.end * 3];
  const length = Math.hypot(wp[e] - wp[s], wp[e + 1] - wp[s + 1], wp[e + 2] - wp[s + 2]);
  if (length < 1e-6) return;
  const axis = [0, 1, 2].map((c) => (wp[e + c] - wp[s + c]) / length);
  const square = (p: ArrayLike<number>, o: number) => {
    const v = [0, 1, 2].map((c) => p[o + c] - wp[s + c]);
    const along = v[0] * axis[0] + v[1] * axis[1] + v[2] * axis[2];
    return v.map((x, c) => x - along * axis[c]);
  };
  const from = square(wp, m);
  const to = square(target, 0);
  const dot = from[0] * to[0] + from[1] * to[1] + from[2] * to[2];
  const turned = axis[0] * (from[1] * to[2] - from[2] * to[1]) + axis[1] * (from[2] * to[0] - from[0] * to[2]) + axis[2] * (from[0] * to[1] - from[1] * to[0]);
  const angle = Math.atan2(turned, dot);
  if (Math.hypot(...from) < 1e-5 || Math.hypot(...to) < 1e-5 || Math.abs(angle) < THERE) return;
  const before = frame.worldRotations.slice(limb.end * 4, limb.end * 4 + 4);
  axisAngleQuatFlat(_q, 0, axis[0], axis[1], axis[2], angle);
  frame.turnWorld(limb.upper, _q);
  frame.update();
  frame.setWorld(limb.end, before);
  frame.update();
}
