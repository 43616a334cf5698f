import type { Character } from "../character/character.ts";
import { readName } from "../character/names.ts";
import type { Role } from "../character/roles.ts";
import { rigidFit } from "../kinematics/rigidFit.ts";
import { fromToQuatFlat, rotateVecFlat, setIdentityQuatFlat } from "../math/quat.ts";
import { otherRole } from "../pose/mirror.ts";
import { childrenOf, restWorld } from "../skeleton/skeleton.ts";

/** How a body's two sides answer each other. */
export interface MirrorPairs {
  /** [joint] the joint on the other side; a joint of the middle is its own */
  readonly partner: Int16Array;
  /** joints off the middle that have nothing to answer them */
  readonly unpaired: readonly number[];
  /** [joint][4] turn, in the rest pose's world axes, from where a joint's bones point to where those of its partner point in a mirror */
  readonly turns: Float64Array;
  /** the largest of these turns, and the joint that has it; 0 and −1 where the rest pose is its own mirror image */
  readonly askew: { readonly radians: number; readonly joint: number };
}

/** How far off each other's mirror image the rest places of a pair may lie, as a share of body height. */
const NEAR = 0.05;
/** Bones shorter than this point nowhere, metres; directions nearer than the angle are one, radians. */
const SHORTEST = 1e-4;
const SAME_WAY = 1e-4;

const known = new WeakMap<Character, MirrorPairs>();

/** dst = a vector seen in a mirror whose normal is the unit vector n. */
export function reflect(dst: Float64Array, d: number, v: ArrayLike<number>, o: number, n: ArrayLike<number>): void {
  const along = 2 * (v[o] * n[0] + v[o + 1] * n[1] + v[o + 2] * n[2]);
  const [x, y, z] = [v[o] - along * n[0], v[o + 1] - along * n[1], v[o + 2] - along * n[2]];
  dst[d] = x;
  dst[d + 1] = y;
  dst[d + 2] = z;
}

/** dst = S·q·S of a rotation, S the mirror with unit normal a: its axis reflected, its turn the other way round. */
export function reflectTurn(dst: Float64Array, d: number, q: ArrayLike<number>, o: number, a: ArrayLike<number>): void {
  const w = q[o + 3];
  reflect(dst, d, q, o, a);
  for (let i = 0; i < 3; i++) dst[d + i] = -dst[d + i];
  dst[d + 3] = w;
}

/** Which joints answer each other: by the parts that the body map knows, and below them by place, sides in their names put first. */
export function mirrorPairs(character: Character): MirrorPairs {
  const found = known.get(character);
  if (found) return found;
  const { skeleton, body, rig, height } = character;
  const n = skeleton.names.length;
  const { positions, rotations } = restWorld(skeleton);
  const partner = new Int16Array(n).fill(-1);
  for (const [role, joint] of Object.entries(body.roles) as [Role, number][]) {
    const other = otherRole(role);
    partner[joint] = other ? (body.roles[other] ?? -1) : joint;
  }
  const children = childrenOf(skeleton);
  const unpaired: number[] = [];
  const middle = rig.hips * 3;
  const off = new Float64Array(3);
  const image = (joint: number) => {
    for (let i = 0; i < 3; i++) off[i] = positions[joint * 3 + i] - positions[middle + i];
    reflect(off, 0, off, 0, rig.left);
    return [0, 1, 2].map((i) => off[i] + positions[middle + i]);
  };
  const apart = (a: ArrayLike<number>, joint: number) =>
    Math.hypot(a[0] - positions[joint * 3], a[1] - positions[joint * 3 + 1], a[2] - positions[joint * 3 + 2]);
  for (let j = 0; j < n; j++) {
    if (partner[j] >= 0) continue;
    const parent = skeleton.parents[j];
    const across = parent < 0 ? -1 : partner[parent];
    const place = image(j);
    const side = readName(skeleton.names[j]).side;
    const rivals = (parent < 0 || across < 0 ? [] : children[across]).filter(
      (c) => partner[c] < 0 && (side === undefined || c === j || readName(skeleton.names[c]).side !== side),
    );
    const best = rivals.reduce((a, c) => (a < 0 || apart(place, c) < apart(place, a) ? c : a), -1);
    if (best >= 0 && best !== j && apart(place, best) < NEAR * height && apart(place, best) < apart(place, j)) {
      partner[j] = best;
      partner[best] = j;
    } else {
      partner[j] = j;
      // Something of the middle answers itself; so does what hangs on one side only, wrongly.
      if (parent >= 0 && (across !== parent || apart(place, j) > NEAR * height)) unpaired.push(j);
    }
  }
  const above = new Set<number>();
  for (let j = rig.hips; j >= 0; j = skeleton.parents[j]) above.add(j);
  const turns = new Float64Array(n * 4);
  let askew = { radians: 0, joint: -1 };
  for (let j = 0; j < n; j++) {
    setIdentityQuatFlat(turns, j * 4);
    if (above.has(j)) continue;
    const bones = (joint: number): number[][] => [
      ...children[joint].map((c) => [0, 1, 2].map((i) => positions[c * 3 + i] - positions[joint * 3 + i])),
      ...skeleton.tips
        .filter((t) => t.joint === joint)
        .map((t) => Array.from(rotateVecFlat(new Float64Array(3), 0, rotations, joint * 4, [...t.offset], 0) as Float64Array)),
    ];
    const own = bones(j);
    const other = children[j].map((c) => partner[c]).concat(skeleton.tips.filter((t) => t.joint === j).map(() => -1));
    const theirs = bones(partner[j]);
    const order = children[partner[j]];
    const tipAt = order.length;
    const matched: [number[], number[]][] = own.flatMap((bone, i): [number[], number[]][] => {
      const at = other[i] >= 0 ? order.indexOf(other[i]) : theirs.length > tipAt ? tipAt : -1;
      if (at < 0 || Math.hypot(...bone) < SHORTEST || Math.hypot(...theirs[at]) < SHORTEST) return [];
      const v = new Float64Array(3);
      reflect(v, 0, theirs[at], 0, rig.left);
      return [[bone, Array.from(v)]];
    });
    const radians = turnBetween(turns, j * 4, matched);
    if (radians > askew.radians) askew = { radians, joint: j };
  }
  const pairs = { partner, unpaired, turns, askew };
  known.set(character, pairs);
  return pairs;
}

/** Writes the turn that takes bones to their images: by the shortest way for one, by the best fit for several. Returns its angle. */
function turnBetween(turns: Float64Array, o: number, bones: readonly (readonly [number[], number[]])[]): number {
  const unit = (v: readonly number[]) => v.map((x) => x / Math.hypot(...v));
  const ways = bones.map(([a, b]) => [unit(a), unit(b)] as const);
  if (ways.every(([a, b]) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) < SAME_WAY)) return 0;
  if (ways.length === 1) {
    const [[a, b]] = ways;
    fromToQuatFlat(turns, o, a[0], a[1], a[2], b[0], b[1], b[2]);
  } else {
    // The joint itself is among the places as often as it has bones, so that they are turned about it.
    const origin = ways.map(() => [0, 0, 0]);
    const opposite = (v: readonly number[]) => v.map((x) => -x);
    const fit = rigidFit(
      [...ways.map(([a]) => a), ...ways.map(([a]) => opposite(a)), ...origin],
      [...ways.map(([, b]) => b), ...ways.map(([, b]) => opposite(b)), ...origin],
    );
    turns.set(fit.turn, o);
  }
  return 2 * Math.acos(Math.min(1, Math.abs(turns[o + 3])));
}
