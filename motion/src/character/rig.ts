import type { Clip } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { meanHinge } from "../kinematics/twoBone.ts";
import { cross } from "../math/cross.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry, jointsBetween, restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import { NECK_ROLES, type Role, SIDES, type Side, SPINE_ROLES } from "./roles.ts";

/** An arm or a leg as a reach uses it. */
export interface RigLimb {
  readonly side: Side;
  readonly kind: "arm" | "leg";
  readonly collar: number;
  readonly upper: number;
  readonly lower: number;
  readonly end: number;
  /** axis about which the middle joint bends, in the upper joint's frame */
  readonly hinge: Float64Array;
  /**
   * Direction, in the frame of the joint that the limb hangs on, whose opposite the limb hardly takes (an arm forward and out, its
   * opposite lies through the chest; a leg down and forward): the bend's plane is carried by way of it, so that its one singular place lies out of reach.
   */
  readonly via: Float64Array;
  readonly length: number;
}

/** What posing needs to know of a body, read once from the source clip. */
export interface Rig {
  readonly hips: number;
  /** the joint whose position samples carry the body: the hips, or the nearest joint above them that has some */
  readonly mover: number;
  readonly chest: number;
  readonly head: number;
  /** from the joint after the hips up to the chest */
  readonly spine: readonly number[];
  readonly limbs: readonly RigLimb[];
  /** the body's own axes at rest, in the world: its left, up and forward */
  readonly left: Float64Array;
  readonly up: Float64Array;
  readonly forward: Float64Array;
  /** the body's left in the hips' own frame */
  readonly hipsLeft: Float64Array;
  /** limb that each joint belongs to as end or below it; −1 elsewhere */
  readonly limbBelow: Int16Array;
}

/** Reads a body's rig off its source clip. */
export function rigOf(skeleton: Skeleton, clip: Clip, body: BodyMap): Rig {
  const { roles } = body;
  const hips = roles.hips ?? 0;
  const movers = ancestry(skeleton, hips).filter((j) => clip.positionJoints.includes(j));
  const chest = roles.chest ?? lastOf(SPINE_ROLES, roles) ?? hips;
  const head = roles.head ?? lastOf(NECK_ROLES, roles) ?? chest;
  const axes = restAxes(skeleton, roles);
  const limbs: RigLimb[] = [];
  for (const kind of ["leg", "arm"] as const) {
    for (const side of SIDES) {
      const limb = buildLimb(skeleton, clip, roles, side, kind, body.plan === "quadruped", axes);
      if (limb) limbs.push(limb);
    }
  }
  const limbBelow = new Int16Array(skeleton.names.length).fill(-1);
  for (let j = 0; j < skeleton.names.length; j++) limbs.forEach((limb, i) => ancestry(skeleton, j).includes(limb.end) && limbBelow.fill(i, j, j + 1));
  return {
    hips,
    mover: movers[0] ?? hips,
    chest,
    head,
    spine: jointsBetween(skeleton, chest, hips),
    limbs,
    ...axes,
    hipsLeft: rotateVecFlat(
      new Float64Array(3),
      0,
      conjugateQuatFlat(new Float64Array(4), 0, restWorld(skeleton).rotations, hips * 4),
      0,
      axes.left,
      0,
    ) as Float64Array,
    limbBelow,
  };
}

function lastOf(list: readonly Role[], roles: BodyMap["roles"]): number | undefined {
  return list.map((role) => roles[role]).findLast((joint) => joint !== undefined);
}

interface Axes {
  readonly left: Float64Array;
  readonly up: Float64Array;
  readonly forward: Float64Array;
}

/** Left, up and forward of the body at rest, from where its legs hang. Without legs: +X, +Y, +Z. */
function restAxes(skeleton: Skeleton, roles: BodyMap["roles"]): Axes {
  const world = restWorld(skeleton).positions;
  const rest = (joint: number) => world.slice(joint * 3, joint * 3 + 3);
  const thighs = SIDES.map((side) => roles[`${side}Thigh`]);
  const feet = SIDES.map((side) => roles[`${side}Foot`]);
  if ([...thighs, ...feet].some((j) => j === undefined))
    return { left: Float64Array.of(1, 0, 0), up: Float64Array.of(0, 1, 0), forward: Float64Array.of(0, 0, 1) };
  const [lt, rt] = thighs.map((j) => rest(j as number));
  const [lf, rf] = feet.map((j) => rest(j as number));
  const across = unit(lt.map((v, i) => v - rt[i]));
  const rise = lt.map((v, i) => v + rt[i] - lf[i] - rf[i]);
  const forward = unit(cross(across, rise));
  return { left: across, up: unit(cross(forward, across)), forward };
}

function unit(v: Float64Array): Float64Array {
  const n = Math.hypot(v[0], v[1], v[2]) || 1;
  return v.map((x) => x / n);
}

function buildLimb(
  skeleton: Skeleton,
  clip: Clip,
  roles: BodyMap["roles"],
  side: Side,
  kind: "arm" | "leg",
  quadruped: boolean,
  axes: Axes,
): RigLimb | undefined {
  const names = kind === "leg" ? (["Thigh", "Shin", "Foot"] as const) : (["UpperArm", "Forearm", "Hand"] as const);
  const [upper, lower, end] = names.map((part) => roles[`${side}${part}`] ?? -1);
  if (upper < 0 || lower < 0 || end < 0) return undefined;
  if (jointsBetween(skeleton, end, upper).length === 0 || !ancestry(skeleton, end).includes(lower)) return undefined;
  const collar = kind === "arm" ? (roles[`${side}Collar`] ?? -1) : -1;
  const out = side === "left" ? 1 : -1;
  const shares = kind === "arm" && !quadruped ? [0.65 * out, 0.05, 0.75] : quadruped ? [0, -0.95, 0.3] : [0, -0.85, 0.5];
  const via = unit(Float64Array.from({ length: 3 }, (_, i) => shares[0] * axes.left[i] + shares[1] * axes.up[i] + shares[2] * axes.forward[i]));
  // As the joint that the limb hangs on sees it at rest.
  const above = skeleton.parents[collar >= 0 ? collar : upper];
  if (above >= 0) rotateVecFlat(via, 0, conjugateQuatFlat(new Float64Array(4), 0, restWorld(skeleton).rotations, above * 4), 0, via, 0);
  const frame = new PoseFrame(skeleton, clip);
  const bent = meanHinge(clip.frameCount, (f, points, rotation) => {
    frame.load(clip, f);
    [upper, lower, end].forEach((joint, k) => {
      for (let i = 0; i < 3; i++) points[k * 3 + i] = frame.worldPositions[joint * 3 + i];
    });
    for (let i = 0; i < 4; i++) rotation[i] = frame.worldRotations[upper * 4 + i];
  });
  const hinge = bent ?? usualHinge(skeleton, upper, lower, kind === "leg", axes);
  const world = restWorld(skeleton).positions;
  const span = (from: number, to: number) => Math.hypot(...[0, 1, 2].map((i) => world[to * 3 + i] - world[from * 3 + i]));
  return { side, kind, collar, upper, lower, end, hinge, via, length: span(upper, lower) + span(lower, end) };
}

/**
 * How a limb bends that is straight all along: knees so that the shin goes back, elbows so that the forearm comes forward. Start→middle × middle→end in the upper joint's
 * frame, square to the bone whatever pose it rests in.
 */
function usualHinge(skeleton: Skeleton, upper: number, lower: number, leg: boolean, { forward, up }: Axes): Float64Array {
  const { positions, rotations } = restWorld(skeleton);
  const bone = unit(Float64Array.from({ length: 3 }, (_, i) => positions[lower * 3 + i] - positions[upper * 3 + i]));
  const to = leg ? forward.map((v) => -v) : forward;
  let axis = cross(bone, to);
  // A limb that points that way itself bends up.
  if (Math.hypot(...axis) < 0.2) axis = cross(bone, up);
  return rotateVecFlat(new Float64Array(3), 0, conjugateQuatFlat(new Float64Array(4), 0, rotations, upper * 4), 0, unit(axis), 0) as Float64Array;
}
