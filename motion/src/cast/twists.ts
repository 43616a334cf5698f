import type { Character } from "../character/character.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, multiplyQuatFlat } from "../math/quat.ts";
import { restWorld } from "../skeleton/skeleton.ts";

/** A joint beside a forearm's or shin's bone that takes a share of how its end is twisted against it. */
export interface Twist {
  readonly joint: number;
  /** the bone's joint and the one at its end */
  readonly bone: number;
  readonly end: number;
  /** how far along the bone it sits, 0..1: so much of the end's twist it takes */
  readonly share: number;
  /** the bone's direction in its joint's frame */
  readonly axis: readonly [number, number, number];
  /** the end's rotation against the bone at rest, and its own */
  readonly endRest: Float64Array;
  readonly ownRest: Float64Array;
}

const NAMED = /twist|roll/i;
const BONES = [
  ["leftForearm", "leftHand"],
  ["rightForearm", "rightHand"],
  ["leftShin", "leftFoot"],
  ["rightShin", "rightFoot"],
] as const;

/** The twist joints of a body: named so, hanging on a forearm or a shin, and no part of their own. */
export function twistsOf({ skeleton, body }: Character): Twist[] {
  const placed = new Set(Object.values(body.roles));
  const { positions: p, rotations: q } = restWorld(skeleton);
  const between = (from: number, to: number) => {
    const out = conjugateQuatFlat(new Float64Array(4), 0, q, from * 4) as Float64Array;
    return multiplyQuatFlat(out, 0, out, 0, q, to * 4) as Float64Array;
  };
  return BONES.flatMap(([boneRole, endRole]) => {
    const [bone, end] = [body.roles[boneRole], body.roles[endRole]];
    if (bone === undefined || end === undefined) return [];
    const way = [0, 1, 2].map((c) => p[end * 3 + c] - p[bone * 3 + c]);
    const length = Math.hypot(...way);
    if (!(length > 0)) return [];
    const along = (joint: number) => [0, 1, 2].reduce((sum, c) => sum + (way[c] * (p[joint * 3 + c] - p[bone * 3 + c])) / length ** 2, 0);
    // The direction as the bone's joint has it.
    const back = conjugateQuatFlat(new Float64Array(4), 0, q, bone * 4);
    const axis = turned(
      back as Float64Array,
      way.map((v) => v / length),
    );
    return [...skeleton.names.keys()]
      .filter((joint) => skeleton.parents[joint] === bone && !placed.has(joint) && NAMED.test(skeleton.names[joint]))
      .map((joint) => ({
        joint,
        bone,
        end,
        share: Math.max(0, Math.min(1, along(joint))),
        axis,
        endRest: between(bone, end),
        ownRest: between(bone, joint),
      }));
  });
}

function turned([x, y, z, w]: Float64Array, [a, b, c]: readonly number[]): [number, number, number] {
  const [tx, ty, tz] = [2 * (y * c - z * b), 2 * (z * a - x * c), 2 * (x * b - y * a)];
  return [a + w * tx + y * tz - z * ty, b + w * ty + z * tx - x * tz, c + w * tz + x * ty - y * tx];
}

const _d = /*@__PURE__*/ new Float64Array(4);
const _r = /*@__PURE__*/ new Float64Array(4);

/**
 * The world rotation of a twist joint, given those of its bone and of the bone's end ([4] each): the end's turn against rest, D = (B⁻¹·E)·rest⁻¹, has the twist
 * 2·atan2(d·a, w) about the bone's axis a (swing–twist decomposition); the joint turns by its share of it.
 */
export function twistMutable(
  dst: Float64Array,
  o: number,
  { share, axis, endRest, ownRest }: Twist,
  bone: Float64Array,
  b: number,
  end: Float64Array,
  e: number,
): void {
  conjugateQuatFlat(_d, 0, bone, b);
  multiplyQuatFlat(_d, 0, _d, 0, end, e);
  multiplyQuatFlat(_d, 0, _d, 0, conjugateQuatFlat(_r, 0, endRest, 0), 0);
  const angle = 2 * Math.atan2(_d[0] * axis[0] + _d[1] * axis[1] + _d[2] * axis[2], _d[3]);
  const least = angle > Math.PI ? angle - 2 * Math.PI : angle < -Math.PI ? angle + 2 * Math.PI : angle;
  axisAngleQuatFlat(_r, 0, axis[0], axis[1], axis[2], share * least);
  multiplyQuatFlat(dst, o, bone, b, _r, 0);
  multiplyQuatFlat(dst, o, dst, o, ownRest, 0);
}
