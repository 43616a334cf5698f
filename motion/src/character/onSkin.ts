import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import type { ContactPoint } from "./contactPoints.ts";
import type { Rig } from "./rig.ts";
import { type Skin, skinnedVertices } from "./skin.ts";
import type { Volume } from "./volumes.ts";

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

/** Fewest vertices that say how thick a part is. */
const ENOUGH = 12;
/** The surface is taken where so many of its vertices lie within: seams, buttons and hems stick out. */
const WITHIN = 0.9;
/** How far beyond its ends a volume still has vertices, share of its length. */
const BEYOND = 0.15;

/** Volumes as thick as the mesh around them, and in its middle; where the mesh says nothing, as they were. Of several on one joint each has the vertices that are nearest to its axis. */
export function fittedVolumes(volumes: readonly Volume[], surface: RestSurface): Volume[] {
  // Stubs that lead from the trunk to a limb lie inside it: the widest have the surface.
  const widest = new Map<number, number>();
  for (const { joint, size } of volumes) widest.set(joint, Math.max(size[0], widest.get(joint) ?? 0));
  const byJoint = new Map<number, number[]>();
  volumes.forEach(({ joint, size }, i) => {
    if (size[0] >= (widest.get(joint) as number)) byJoint.set(joint, [...(byJoint.get(joint) ?? []), i]);
  });
  // [volume] places in its own frame: across, along, deep.
  const seen: number[][] = volumes.map(() => []);
  const v = new Float64Array(3);
  const own = new Float64Array(3);
  for (const [joint, here] of byJoint)
    for (const vertex of surface.moved.get(joint) ?? []) {
      inFrameOf(surface, joint, vertex, v);
      let [best, nearest, place] = [-1, Number.POSITIVE_INFINITY, [0, 0, 0]];
      for (const i of here) {
        const { origin, turn, size } = volumes[i];
        const d = [v[0] - origin[0], v[1] - origin[1], v[2] - origin[2]];
        rotateVecFlat(own, 0, conjugateQuatFlat(new Float64Array(4), 0, [...turn], 0), 0, d, 0);
        if (own[1] < -BEYOND * size[1] || own[1] > (1 + BEYOND) * size[1]) continue;
        const away = Math.hypot(own[0], own[2]);
        if (away < nearest) [best, nearest, place] = [i, away, [own[0], own[1], own[2]]];
      }
      if (best >= 0) seen[best].push(...place);
    }
  return volumes.map((volume, i) => {
    const x = extent(seen[i], 0, volume.size[0]);
    const z = extent(seen[i], 2, volume.size[2]);
    const shift = rotateVecFlat(new Float64Array(3), 0, [...volume.turn], 0, [x.middle, 0, z.middle], 0);
    const { origin, size } = volume;
    return { ...volume, origin: [origin[0] + shift[0], origin[1] + shift[1], origin[2] + shift[2]], size: [x.half, size[1], z.half] };
  });
}

/** A place beside the axis belongs to one side of it where it lies no more than about 55° off that side's direction. */
const TO_THE_SIDE = 0.7;

/** Middle and half width of a part across (0) or deep (2), of places in its frame [place][across, along, deep]; `known` half width where the surface does not reach round to both sides. */
function extent(places: readonly number[], axis: 0 | 2, known: number): { middle: number; half: number } {
  const list: number[] = [];
  for (let o = 0; o < places.length; o += 3) if (Math.abs(places[o + axis]) >= TO_THE_SIDE * Math.abs(places[o + 2 - axis])) list.push(places[o + axis]);
  const sides = [list.filter((v) => v < 0), list.filter((v) => v > 0)];
  if (sides.some((side) => side.length < ENOUGH / 2)) return { middle: 0, half: known };
  const [low, high] = sides.map((side) => side.sort((p, q) => Math.abs(p) - Math.abs(q))[Math.floor(WITHIN * (side.length - 1))]);
  return { middle: (low + high) / 2, half: (high - low) / 2 };
}

/** Where the surface is looked for around the joint of a point. */
interface Look {
  readonly id: RegExp;
  /** as left, up and forward of the body: on two legs, and on four */
  readonly ways: readonly [readonly [number, number, number], readonly [number, number, number]];
  /** how far from the joint at most, share of the body's height */
  readonly within: number;
}
const LOOKS: readonly Look[] = [
  {
    id: /Knee$/,
    ways: [
      [0, 0, 1],
      [0, 0, 1],
    ],
    within: 0.07,
  },
  {
    id: /Elbow$/,
    ways: [
      [0, 0, -1],
      [0, 0, -1],
    ],
    within: 0.07,
  },
  {
    id: /^back$/,
    ways: [
      [0, 0, -1],
      [0, 1, 0],
    ],
    within: 0.2,
  },
  {
    id: /^seat$/,
    ways: [
      [0, -0.7, -0.7],
      [0, 0, -1],
    ],
    within: 0.11,
  },
  {
    id: /^head$/,
    ways: [
      [0, 1, -0.15],
      [0, 1, 0],
    ],
    within: 0.15,
  },
];
/** What lies aside of the way counts so much against how far along it lies. */
const ASIDE = 0.7;

/** Points of the trunk, of knees and elbows laid onto the surface, each the way that it would touch something; others, and where there is no surface, as they were. `height` is the body's, metres. */
export function pointsOnSkin(points: readonly ContactPoint[], surface: RestSurface, rig: Rig, plan: "biped" | "quadruped", height: number): ContactPoint[] {
  const { parents } = surface.skeleton;
  return points.map((point) => {
    const look = LOOKS.find(({ id }) => id.test(point.id));
    if (!look) return point;
    const way = look.ways[plan === "biped" ? 0 : 1];
    const direction = [0, 1, 2].map((c) => way[0] * rig.left[c] + way[1] * rig.up[c] + way[2] * rig.forward[c]);
    const size = Math.hypot(...direction);
    const from = point.joint * 3;
    let [best, most] = [-1, Number.NEGATIVE_INFINITY];
    for (const [vertex, joint] of surface.joints.entries()) {
      if (joint !== point.joint && joint !== parents[point.joint] && parents[joint] !== point.joint) continue;
      const d = [0, 1, 2].map((c) => surface.positions[vertex * 3 + c] - surface.world.positions[from + c]);
      const along = d.reduce((s, v, c) => s + (v * direction[c]) / size, 0);
      const aside = Math.sqrt(Math.max(0, d.reduce((s, v) => s + v * v, 0) - along * along));
      if (along <= 0 || Math.hypot(along, aside) > look.within * height) continue;
      const score = along - ASIDE * aside;
      if (score > most) [best, most] = [vertex, score];
    }
    return best < 0 ? point : { ...point, local: triple(inFrameOf(surface, point.joint, best, new Float64Array(3))), placed: true };
  });
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
      for (const vertex of heel) for (let c = 0; c < 3; c++) place[c] += surface.positions[vertex * 3 + c] / heel.length;
    } else place.set([0, 1, 2].map((c) => surface.world.positions[point.named * 3 + c]));
    // Down to the sole.
    const over = [0, 1, 2].reduce((s, c) => s + rig.up[c] * place[c], 0) - low;
    for (let c = 0; c < 3; c++) v[c] = place[c] - over * rig.up[c] - surface.world.positions[point.joint * 3 + c];
    rotateVecFlat(v, 0, conjugateQuatFlat(back, 0, surface.world.rotations, point.joint * 4), 0, v, 0);
    out[point.id] = triple(v);
  }
  return out;
}

function isUnder({ parents }: Skeleton, joint: number, top: number): boolean {
  for (let j = joint; j >= 0; j = parents[j]) if (j === top) return true;
  return false;
}

function inFrameOf({ positions, world }: RestSurface, joint: number, vertex: number, dst: Float64Array): Float64Array {
  for (let c = 0; c < 3; c++) dst[c] = positions[vertex * 3 + c] - world.positions[joint * 3 + c];
  return rotateVecFlat(dst, 0, conjugateQuatFlat(new Float64Array(4), 0, world.rotations, joint * 4), 0, dst, 0) as Float64Array;
}

function triple(v: ArrayLike<number>): [number, number, number] {
  return [v[0], v[1], v[2]];
}
