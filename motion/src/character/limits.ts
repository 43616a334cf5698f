import { type Clip, readRotation } from "../clip/clip.ts";
import { cross } from "../math/cross.ts";
import { conjugateQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { restWorld, type Skeleton, tipOf } from "../skeleton/skeleton.ts";
import type { Character } from "./character.ts";

/** How far a joint may go from how it rests, degrees, each from the least to the most. */
export interface JointRange {
  readonly bend: readonly [number, number];
  readonly side: readonly [number, number];
  readonly twist: readonly [number, number];
}
export const LIMIT_WAYS = ["bend", "side", "twist"] as const;
export type LimitWay = (typeof LIMIT_WAYS)[number];

/** A joint and what it may do. */
export interface JointLimit extends JointRange {
  readonly joint: number;
}

/** A joint's own axes: along its bone, and the two about which it bends and goes sideways; unit vectors in its frame. */
export interface LimitAxes {
  readonly bone: Float64Array;
  readonly bend: Float64Array;
  readonly side: Float64Array;
}

/** A bone that runs along the body's left bends about its up instead. */
const ALONG = 0.8;
const DEGREES = 180 / Math.PI;

/**
 * The axes of every joint that has a bone: it twists about the bone; limbs bend about the hinge of their middle joint, other parts about the body's left (arms that are held out, about its up).
 */
export function limitAxes({ skeleton, rig }: Pick<Character, "skeleton" | "rig">): (LimitAxes | null)[] {
  const { positions, rotations } = restWorld(skeleton);
  const back = new Float64Array(4);
  const inFrame = (joint: number, v: Float64Array) => {
    conjugateQuatFlat(back, 0, rotations, joint * 4);
    return rotateVecFlat(new Float64Array(3), 0, back, 0, v, 0) as Float64Array;
  };
  const hingeOf = new Map(rig.limbs.map((limb) => [limb.lower, { hinge: limb.hinge, upper: limb.upper }]));
  return skeleton.names.map((_, joint) => {
    const bone = boneOf(skeleton, positions, joint);
    if (!bone) return null;
    const along = inFrame(joint, bone);
    const limb = hingeOf.get(joint);
    let about: Float64Array;
    if (limb) {
      // The hinge is told in the upper joint's frame.
      const world = rotateVecFlat(new Float64Array(3), 0, rotations, limb.upper * 4, limb.hinge, 0) as Float64Array;
      about = inFrame(joint, world);
    } else {
      const across = Math.abs(bone[0] * rig.left[0] + bone[1] * rig.left[1] + bone[2] * rig.left[2]) > ALONG;
      about = inFrame(joint, across ? rig.up : rig.left);
    }
    const bend = unitSquare(about, along);
    return bend && { bone: along, bend, side: cross(along, bend) };
  });
}

/** Direction from a joint to what hangs on it at rest, in the world: the middle of its children, or its tip. Null where nothing says. */
function boneOf(skeleton: Skeleton, positions: ArrayLike<number>, joint: number): Float64Array | null {
  const children = Array.from(skeleton.parents).flatMap((parent, j) => (parent === joint ? [j] : []));
  const v = new Float64Array(3);
  for (const child of children) for (let c = 0; c < 3; c++) v[c] += (positions[child * 3 + c] - positions[joint * 3 + c]) / children.length;
  const tip = children.length === 0 ? tipOf(skeleton, joint) : undefined;
  if (tip) rotateVecFlat(v, 0, restWorld(skeleton).rotations, joint * 4, [...tip], 0);
  const length = Math.hypot(...v);
  return length > 1e-6 ? v.map((x) => x / length) : null;
}

function unitSquare(v: Float64Array, to: Float64Array): Float64Array | null {
  const along = v[0] * to[0] + v[1] * to[1] + v[2] * to[2];
  const out = v.map((x, c) => x - along * to[c]);
  const length = Math.hypot(...out);
  return length > 1e-6 ? out.map((x) => x / length) : null;
}

const _q = /*@__PURE__*/ new Float64Array(4);
const _t = /*@__PURE__*/ new Float64Array(4);

/**
 * How a joint is turned against its rest, as bend, side and twist in degrees: dst[0..3). With q = rest⁻¹ · local, the twist about the bone b is 2·atan2(q·b, w) (swing–twist decomposition), and the
 * swing's rotation vector, which is square to b, has the bend and the side as its parts.
 */
export function jointAngles(dst: Float64Array, { bone, bend, side }: LimitAxes, rest: Float64Array, r: number, local: Float64Array): Float64Array {
  conjugateQuatFlat(_q, 0, rest, r);
  multiplyQuatFlat(_q, 0, _q, 0, local, 0);
  if (_q[3] < 0) for (let i = 0; i < 4; i++) _q[i] = -_q[i];
  const along = _q[0] * bone[0] + _q[1] * bone[1] + _q[2] * bone[2];
  const size = Math.hypot(along, _q[3]);
  let twist = 0;
  if (size > 1e-9) {
    twist = 2 * Math.atan2(along, _q[3]);
    for (let i = 0; i < 3; i++) _t[i] = (-along * bone[i]) / size;
    _t[3] = _q[3] / size;
    multiplyQuatFlat(_q, 0, _q, 0, _t, 0);
  }
  const half = Math.hypot(_q[0], _q[1], _q[2]);
  const factor = half > 1e-12 ? (2 * Math.atan2(half, _q[3])) / half : 2;
  dst[0] = DEGREES * factor * (_q[0] * bend[0] + _q[1] * bend[1] + _q[2] * bend[2]);
  dst[1] = DEGREES * factor * (_q[0] * side[0] + _q[1] * side[1] + _q[2] * side[2]);
  dst[2] = DEGREES * twist;
  return dst;
}

/** Of all frames so many are left out at either end, so that a spike is no limit; and what is left is widened by so many degrees. */
const SPIKES = 0.002;
const ROOM = 5;
const HAIR = 0.01;

/**
 * What the known parts of a body do in clips of it: how far each joint goes, to whole degrees, a little room around it. Clips are on skeletons of the same names; joints that a clip has not are left out there.
 */
export function measuredLimits(
  character: Pick<Character, "skeleton" | "rig" | "body">,
  clips: readonly { readonly skeleton: Skeleton; readonly clip: Clip }[],
): JointLimit[] {
  const axes = limitAxes(character);
  const { skeleton, body } = character;
  const q = new Float64Array(4);
  const angles = new Float64Array(3);
  return [...new Set(Object.values(body.roles) as number[])]
    .sort((a, b) => a - b)
    .flatMap((joint): JointLimit[] => {
      const own = axes[joint];
      if (!own || skeleton.parents[joint] < 0 || joint === body.roles.hips) return [];
      const seen: [number[], number[], number[]] = [[], [], []];
      for (const { skeleton: other, clip } of clips) {
        const there = other.names.indexOf(skeleton.names[joint]);
        if (there < 0) continue;
        for (let f = 0; f < clip.frameCount; f++) {
          readRotation(clip, there, f, q, 0);
          jointAngles(angles, own, skeleton.restRotations, joint * 4, q);
          seen.forEach((list, i) => list.push(angles[i]));
        }
      }
      if (seen[0].length === 0) return [];
      const [bend, side, twist] = seen.map((list): [number, number] => {
        list.sort((a, b) => a - b);
        const cut = Math.floor(SPIKES * (list.length - 1));
        // Samples are single precision: a hair over a whole degree is that degree.
        const [low, high] = [Math.floor(list[cut] - ROOM + HAIR), Math.ceil(list[list.length - 1 - cut] + ROOM - HAIR)];
        // A joint may always stand as it rests.
        return [Math.max(-180, Math.min(0, low)), Math.min(180, Math.max(0, high))];
      });
      return [{ joint, bend, side, twist }];
    });
}

/** A stretch of frames in which a joint is past what it may do; value: how far at most, degrees. */
export interface PastLimit {
  readonly joint: number;
  readonly way: LimitWay;
  readonly start: number;
  readonly end: number;
  readonly value: number;
  /** the frame at which it is furthest */
  readonly at: number;
}

/** So much past a limit is none, degrees: limits are told to whole degrees. */
const SLACK = 1;

/** Where a joint of a clip goes past what it may do. Nothing is held back anywhere; this is how it is told. */
export function pastLimit({ restRotations }: Pick<Skeleton, "restRotations">, limit: JointLimit, axes: LimitAxes, clip: Clip): PastLimit[] {
  const q = new Float64Array(4);
  const angles = new Float64Array(3);
  const out: PastLimit[] = [];
  const open: (PastLimit | null)[] = [null, null, null];
  for (let f = 0; f <= clip.frameCount; f++) {
    if (f < clip.frameCount) {
      readRotation(clip, limit.joint, f, q, 0);
      jointAngles(angles, axes, restRotations, limit.joint * 4, q);
    }
    LIMIT_WAYS.forEach((way, i) => {
      const [low, high] = limit[way];
      const by = f < clip.frameCount ? Math.max(low - angles[i], angles[i] - high) : 0;
      const known = open[i];
      if (by > SLACK) {
        if (!known) open[i] = { joint: limit.joint, way, start: f, end: f, value: by, at: f };
        else open[i] = { ...known, end: f, ...(by > known.value && { value: by, at: f }) };
      } else if (known) {
        out.push(known);
        open[i] = null;
      }
    });
  }
  return out;
}

/** The same for all joints of a body, furthest first. */
export function pastLimits(character: Pick<Character, "skeleton" | "rig" | "limits">, clip: Clip): PastLimit[] {
  if (character.limits.length === 0) return [];
  const axes = limitAxes(character);
  return character.limits
    .flatMap((limit) => {
      const own = axes[limit.joint];
      return own ? pastLimit(character.skeleton, limit, own, clip) : [];
    })
    .sort((a, b) => b.value - a.value);
}
