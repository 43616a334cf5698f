import { axisAngleQuatFlat, conjugateQuatFlat, fromToQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import { betweenAxes } from "./betweenAxes.ts";
import type { Character } from "./character.ts";
import { restDirections } from "./restDirections.ts";
import type { Role } from "./roles.ts";

/** Which way a person's bones point in a T-pose, as left, up and forward. Other parts keep the way they rest. */
const WAYS: readonly (readonly [RegExp, readonly [number, number, number]])[] = [
  [/^left(UpperArm|Forearm|Hand|Index|Middle|Ring|Little)\d?$/, [1, 0, 0]],
  [/^right(UpperArm|Forearm|Hand|Index|Middle|Ring|Little)\d?$/, [-1, 0, 0]],
  [/(Thigh|Shin)$/, [0, -1, 0]],
];

/**
 * The same skeleton resting in a T-pose: upright, facing +Z, its left +X, arms and fingers straight out, legs straight down, its lowest joint or tip at height 0. Joints keep their own axes, so that
 * every motion of the one is a motion of the other.
 */
export function tPose(character: Pick<Character, "skeleton" | "body" | "rig">): Skeleton {
  const { skeleton, body, rig } = character;
  const { rotations } = restWorld(skeleton);
  const ways = restDirections(character);
  const roleOf = new Map((Object.entries(body.roles) as [Role, number][]).map(([role, joint]) => [joint, role]));
  const front = betweenAxes(rig, { left: [1, 0, 0], up: [0, 1, 0], forward: [0, 0, 1] });
  const n = skeleton.names.length;
  const world = new Float64Array(n * 4);
  const rest = new Float64Array(n * 4);
  // How far each joint has been turned out of the way it rests, from the front; what hangs on it goes along.
  const turns = new Float64Array(n * 4);
  const above = new Float64Array(4);
  const way = new Float64Array(3);
  for (let joint = 0; joint < n; joint++) {
    const parent = skeleton.parents[joint];
    if (parent < 0) turns.set([0, 0, 0, 1], joint * 4);
    else turns.copyWithin(joint * 4, parent * 4, parent * 4 + 4);
    const wanted = WAYS.find(([parts]) => parts.test(roleOf.get(joint) ?? ""))?.[1];
    const own = ways.get(joint);
    if (wanted && own) {
      // From the way that it would point after what is above it has turned, by the shortest way: no twist is added.
      rotateVecFlat(way, 0, turns, joint * 4, own, 0);
      const turn = opposite(way, wanted)
        ? axisAngleQuatFlat(new Float64Array(4), 0, 0, 1, 0, Math.PI)
        : fromToQuatFlat(new Float64Array(4), 0, way[0], way[1], way[2], ...wanted);
      multiplyQuatFlat(turns, joint * 4, turn, 0, turns, joint * 4);
    }
    multiplyQuatFlat(world, joint * 4, front, 0, rotations, joint * 4);
    multiplyQuatFlat(world, joint * 4, turns, joint * 4, world, joint * 4);
    conjugateQuatFlat(above, 0, parent < 0 ? IDENTITY : world, parent < 0 ? 0 : parent * 4);
    multiplyQuatFlat(rest, joint * 4, above, 0, world, joint * 4);
    normalizeQuatFlat(rest, joint * 4);
  }
  return onTheGround({ ...skeleton, restRotations: rest });
}

const IDENTITY = Float64Array.of(0, 0, 0, 1);

function opposite(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2] < -0.9999;
}

/** Roots moved so that the body stands over the middle with its lowest point at height 0. */
function onTheGround(skeleton: Skeleton): Skeleton {
  const { positions, rotations } = restWorld(skeleton);
  let low = Number.POSITIVE_INFINITY;
  for (let o = 1; o < positions.length; o += 3) low = Math.min(low, positions[o]);
  const tip = new Float64Array(3);
  for (const { joint, offset } of skeleton.tips) {
    rotateVecFlat(tip, 0, rotations, joint * 4, [...offset], 0);
    low = Math.min(low, positions[joint * 3 + 1] + tip[1]);
  }
  const offsets = skeleton.offsets.slice();
  skeleton.parents.forEach((parent, joint) => {
    if (parent < 0) offsets.set([0, offsets[joint * 3 + 1] - low, 0], joint * 3);
  });
  return { ...skeleton, offsets };
}
