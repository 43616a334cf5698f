import { cross } from "../math/cross.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { ContactPoint } from "./contactPoints.ts";
import type { Rig } from "./rig.ts";
import type { Side } from "./roles.ts";
import { type Skin, skinnedVertices } from "./skin.ts";

/** A body's surface at rest: where its vertices stand in the world, the joint that moves each most, and all that move it much. */
export interface RestSurface {
  /** [vertex][3] metres */
  readonly positions: Float64Array;
  /** [vertex] */
  readonly joints: Int32Array;
  /** [joint] vertices that it moves by a good share, those of seams with its neighbours included */
  readonly moved: ReadonlyMap<number, readonly number[]>;
  readonly skeleton: Skeleton;
  readonly world: { readonly positions: Float64Array; readonly rotations: Float64Array };
}

/** A share of a vertex's weight that counts as moving it. */
const MUCH = 0.2;

/** The surface of a skin at rest, all its parts one behind the other. */
export function restSurface(skeleton: Skeleton, skin: Skin): RestSurface {
  const world = restWorld(skeleton);
  const all = skin.parts.map((part) => skinnedVertices(skin, part, world.positions, world.rotations));
  const positions = new Float64Array(all.reduce((sum, p) => sum + p.length, 0));
  const joints = new Int32Array(positions.length / 3);
  const moved = new Map<number, number[]>();
  let at = 0;
  skin.parts.forEach((part, i) => {
    positions.set(all[i], at * 3);
    for (let v = 0; v * 3 < all[i].length; v++) {
      let most = 0;
      for (let k = 0; k < 4; k++) {
        const weight = part.weights[v * 4 + k];
        if (weight > part.weights[v * 4 + most]) most = k;
        if (weight < MUCH) continue;
        const joint = skin.joints[part.binds[v * 4 + k]];
        const list = moved.get(joint) ?? [];
        list.push(at + v);
        moved.set(joint, list);
      }
      joints[at + v] = skin.joints[part.binds[v * 4 + most]];
    }
    at += all[i].length / 3;
  });
  return { positions, joints, moved, skeleton, world };
}

/** Fewest vertices that say where a foot's sole is. */
const ENOUGH = 12;

/** A way as left, up and forward of the body. */
type Way = readonly [number, number, number];

const FORWARD: Way = [0, 0, 1];
const BACKWARD: Way = [0, 0, -1];
const UP: Way = [0, 1, 0];

/** Where the surface is looked for around the joint of a point. */
interface Look {
  readonly id: RegExp;
  /** on two legs, and on four */
  readonly ways: readonly [Way, Way];
  /** how far from the joint at most, shares of the body's height */
  readonly within: readonly [number, number];
}
const LOOKS: readonly Look[] = [
  { id: /Knee$/, ways: [FORWARD, FORWARD], within: [0.07, 0.07] },
  { id: /Elbow$/, ways: [BACKWARD, BACKWARD], within: [0.07, 0.07] },
  { id: /^back$/, ways: [BACKWARD, UP], within: [0.2, 0.2] },
  { id: /^seat$/, ways: [[0, -0.7, -0.7], BACKWARD], within: [0.11, 0.2] },
  { id: /^head$/, ways: [[0, 1, -0.15], UP], within: [0.15, 0.15] },
];
/** What lies aside of the way counts so much against how far along it lies. */
const ASIDE = 0.7;
/** Points of the trunk lie in its middle: what lies to a side of it counts so much more. */
const OFF_MIDDLE = 1.5;
/** A palm lies no further than this from the middle of its hand, share of the body's height. */
const PALM_WITHIN = 0.045;

/**
 * Points of the trunk, of knees, elbows, palms and the tips of toes laid onto the surface, each the way that it would touch something; others, and where there is no surface, as they were. `height` is the body's, metres.
 */
export function pointsOnSkin(points: readonly ContactPoint[], surface: RestSurface, rig: Rig, body: BodyMap, height: number): ContactPoint[] {
  const { positions, rotations } = surface.world;
  const four = body.plan === "biped" ? 0 : 1;
  const [neck, tail] = [body.roles.neck ?? -1, body.roles.tail ?? -1];
  const v = new Float64Array(3);
  return points.map((point) => {
    const { joint, id, side } = point;
    if (id.endsWith("ToeTip")) {
      const tip = toeTipOn(surface, joint, rig, height);
      return tip ? { ...point, local: tip, modelled: false, placed: true } : point;
    }
    const look = LOOKS.find((one) => one.id.test(id));
    const hand = side !== null && id.endsWith("Hand");
    if (!look && !hand) return point;
    const from = positions.subarray(joint * 3, joint * 3 + 3).slice();
    if (hand) rotateVecFlat(v, 0, rotations, joint * 4, point.local, 0).forEach((part, c) => (from[c] += part));
    const way = look ? inWorld(rig, look.ways[four]) : palmWay(surface, rig, body, side as Side, from);
    // A neck or a tail that rises from the trunk is none of it.
    const own = (other: number) =>
      other === joint || surface.skeleton.parents[joint] === other || (surface.skeleton.parents[other] === joint && other !== neck && other !== tail);
    const within = (look ? look.within[four] : PALM_WITHIN) * height;
    const best = furthest(surface, hand ? (other) => other === joint : own, from, way, within, side === null ? rig.left : null);
    return best < 0 ? point : { ...point, local: triple(inFrameOf(surface, joint, best, v)), placed: true };
  });
}

/** The vertex that lies furthest along a way from a place, little aside of it (least of all along `left`, where it is given) and no further than `within`; −1 where none does. */
function furthest(
  { joints, positions }: RestSurface,
  own: (joint: number) => boolean,
  from: ArrayLike<number>,
  way: readonly number[],
  within: number,
  left: ArrayLike<number> | null,
): number {
  const size = Math.hypot(...way);
  let [best, most] = [-1, Number.NEGATIVE_INFINITY];
  for (const [vertex, joint] of joints.entries()) {
    if (!own(joint)) continue;
    const d = [0, 1, 2].map((c) => positions[vertex * 3 + c] - from[c]);
    const along = d.reduce((s, part, c) => s + (part * way[c]) / size, 0);
    const aside = Math.sqrt(Math.max(0, d.reduce((s, part) => s + part * part, 0) - along * along));
    if (along <= 0 || Math.hypot(along, aside) > within) continue;
    const off = left ? Math.abs(d.reduce((s, part, c) => s + part * left[c], 0)) : 0;
    const score = along - ASIDE * aside - OFF_MIDDLE * off;
    if (score > most) [best, most] = [vertex, score];
  }
  return best;
}

/**
 * The way that a palm faces at rest, in the world: square to the hand and to where its thumb points, which is forward where there is none. With the thumb forward the palm of an arm that is held out faces down.
 */
export function palmWay({ world: { positions } }: RestSurface, rig: Rig, { roles }: BodyMap, side: Side, middle: ArrayLike<number>): number[] {
  const at = (joint: number) => [0, 1, 2].map((c) => positions[joint * 3 + c]);
  const hand = at(roles[`${side}Hand`] as number);
  const along = [0, 1, 2].map((c) => middle[c] - hand[c]);
  const thumb = roles[`${side}Thumb2`] ?? roles[`${side}Thumb`];
  const little = roles[`${side}Little`] ?? roles[`${side}Ring`] ?? roles[`${side}Middle`];
  const across = thumb === undefined ? [...rig.forward] : at(thumb).map((part, c) => part - (little === undefined ? middle[c] : at(little)[c]));
  const [a, b] = side === "left" ? [along, across] : [across, along];
  return [...cross(a, b)];
}

function inWorld(rig: Rig, way: Way): number[] {
  return [0, 1, 2].map((c) => way[0] * rig.left[c] + way[1] * rig.up[c] + way[2] * rig.forward[c]);
}

/** Height over the lowest vertex that still belongs to a sole, metres share of the body's height. */
const SOLE = 0.008;

/**
 * Points that bear the body laid onto the sole of the mesh: a heel where it is lowest and furthest back, the ball of a foot under its toe joint, a hoof under its joint. By their ids, in their joints' frames, metres.
 */
export function solesOnSkin(points: readonly ContactPoint[], surface: RestSurface, rig: Rig, height: number): Record<string, [number, number, number]> {
  const out: Record<string, [number, number, number]> = {};
  const v = new Float64Array(3);
  const back = new Float64Array(4);
  for (const point of points) {
    if (!point.bears) continue;
    const foot = new Set([point.joint, point.named, ...surface.skeleton.names.keys()].filter((j) => isUnder(surface.skeleton, j, point.joint)));
    const own = [...surface.joints.keys()].filter((vertex) => foot.has(surface.joints[vertex]));
    if (own.length < ENOUGH) continue;
    const at = (vertex: number, axis: ArrayLike<number>) => [0, 1, 2].reduce((s, c) => s + axis[c] * surface.positions[vertex * 3 + c], 0);
    const low = Math.min(...own.map((vertex) => at(vertex, rig.up)));
    const sole = own.filter((vertex) => at(vertex, rig.up) < low + SOLE * height);
    const place = new Float64Array(3);
    if (point.id.endsWith("Heel")) {
      const rear = Math.min(...sole.map((vertex) => at(vertex, rig.forward)));
      const heel = sole.filter((vertex) => at(vertex, rig.forward) < rear + 2 * SOLE * height);
      // In the middle of what is there, however unevenly its vertices lie.
      const middle = (axis: ArrayLike<number>) => {
        const all = heel.map((vertex) => at(vertex, axis));
        return (Math.min(...all) + Math.max(...all)) / 2;
      };
      for (const axis of [rig.left, rig.up, rig.forward]) {
        const along = axis === rig.up ? low : middle(axis);
        for (let c = 0; c < 3; c++) place[c] += along * axis[c];
      }
    } else place.set([0, 1, 2].map((c) => surface.world.positions[point.named * 3 + c]));
    // Down to the sole.
    const over = [0, 1, 2].reduce((s, c) => s + rig.up[c] * place[c], 0) - low;
    for (let c = 0; c < 3; c++) v[c] = place[c] - over * rig.up[c] - surface.world.positions[point.joint * 3 + c];
    rotateVecFlat(v, 0, conjugateQuatFlat(back, 0, surface.world.rotations, point.joint * 4), 0, v, 0);
    out[point.id] = triple(v);
  }
  return out;
}

/** How high over the lowest of a toe's places they still count as its sole, and the grain in which they are looked at: shares of the body's height. */
const TOE_SOLE = 0.03;
const LEVER = 1.5;
const GRAIN = 0.004;

/** The lowest places of the sole in front of a toe's joint, one a grain: [place][3] in the joint's frame, metres; empty where the mesh has none there. */
export function toeSole(toe: number, surface: RestSurface, rig: Rig, height: number): Float64Array {
  const { positions, world, skeleton, joints } = surface;
  const along = (o: number, axis: ArrayLike<number>) => [0, 1, 2].reduce((s, c) => s + axis[c] * (positions[o * 3 + c] - world.positions[toe * 3 + c]), 0);
  // What lies below the joint rather than in front of it is raised by no bend.
  const own = [...joints.keys()].filter((v) => isUnder(skeleton, joints[v], toe) && along(v, rig.forward) > LEVER * Math.abs(along(v, rig.up)));
  const low = own.reduce((least, v) => Math.min(least, along(v, rig.up)), Number.POSITIVE_INFINITY);
  const grains = new Map<string, number>();
  for (const v of own) {
    const up = along(v, rig.up);
    if (up > low + TOE_SOLE * height) continue;
    const key = [rig.forward, rig.left].map((axis) => Math.round(along(v, axis) / (GRAIN * height))).join();
    const known = grains.get(key);
    if (known === undefined || up < along(known, rig.up)) grains.set(key, v);
  }
  const out = new Float64Array(grains.size * 3);
  const v = new Float64Array(3);
  [...grains.values()].forEach((vertex, i) => {
    out.set(inFrameOf(surface, toe, vertex, v), i * 3);
  });
  return out;
}

/** The middle of the front of a toe's sole, in the joint's frame, metres; null where the mesh has none. */
function toeTipOn(surface: RestSurface, toe: number, rig: Rig, height: number): [number, number, number] | null {
  const sole = toeSole(toe, surface, rig, height);
  const v = new Float64Array(3);
  const places = Array.from({ length: sole.length / 3 }, (_, i) => {
    rotateVecFlat(v, 0, surface.world.rotations, toe * 4, sole, i * 3);
    return [rig.left, rig.up, rig.forward].map((axis) => axis[0] * v[0] + axis[1] * v[1] + axis[2] * v[2]);
  });
  const low = Math.min(...places.map(([, up]) => up));
  const flat = places.filter(([, up]) => up < low + SOLE * height);
  if (flat.length === 0) return null;
  const front = Math.max(...flat.map(([, , forward]) => forward));
  const row = flat.filter(([, , forward]) => forward > front - SOLE * height);
  const middle = (axis: number) => (Math.min(...row.map((place) => place[axis])) + Math.max(...row.map((place) => place[axis]))) / 2;
  const at = [middle(0), low, front];
  const own = [0, 1, 2].map((c) => at[0] * rig.left[c] + at[1] * rig.up[c] + at[2] * rig.forward[c]);
  rotateVecFlat(v, 0, conjugateQuatFlat(new Float64Array(4), 0, surface.world.rotations, toe * 4), 0, own, 0);
  return triple(v);
}

function isUnder({ parents }: Skeleton, joint: number, top: number): boolean {
  for (let j = joint; j >= 0; j = parents[j]) if (j === top) return true;
  return false;
}

export function inFrameOf({ positions, world }: RestSurface, joint: number, vertex: number, dst: Float64Array): Float64Array {
  for (let c = 0; c < 3; c++) dst[c] = positions[vertex * 3 + c] - world.positions[joint * 3 + c];
  return rotateVecFlat(dst, 0, conjugateQuatFlat(new Float64Array(4), 0, world.rotations, joint * 4), 0, dst, 0) as Float64Array;
}

function triple(v: ArrayLike<number>): [number, number, number] {
  return [v[0], v[1], v[2]];
}
