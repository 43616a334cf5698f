import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { inFrameOf, type RestSurface } from "./onSkin.ts";
import { surfaceTable } from "./surfaceTable.ts";
import type { Volume } from "./volumes.ts";

/** Fewest vertices that say how thick a part is. */
const ENOUGH = 12;
/** The surface is taken where so many of its vertices lie within: seams, buttons and hems stick out. */
const WITHIN = 0.9;
/** How far beyond its ends a volume still has vertices, share of its length. */
const BEYOND = 0.15;

/** Volumes as thick as the mesh around them, in its middle, and with a table of where it is (of joints with one volume); where the mesh says nothing, as they were. Of several on one joint each has the vertices that are nearest to its axis. */
export function fittedVolumes(volumes: readonly Volume[], surface: RestSurface): Volume[] {
  // Stubs that lead from the trunk to a limb lie inside it: the widest have the surface.
  const widest = new Map<number, number>();
  for (const { joint, size } of volumes) widest.set(joint, Math.max(size[0], widest.get(joint) ?? 0));
  const byJoint = new Map<number, number[]>();
  volumes.forEach(({ joint, size }, i) => {
    if (size[0] >= (widest.get(joint) as number)) byJoint.set(joint, [...(byJoint.get(joint) ?? []), i]);
  });
  // [volume] places in its own frame: across, along, deep; and those of its joint alone.
  const seen: number[][] = volumes.map(() => []);
  const alone: number[][] = volumes.map(() => []);
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
        if (surface.joints[vertex] === joint && here.length === 1) alone[i].push(own[0], own[1], own[2]);
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
    const table = surfaceTable(
      alone[i].map((place, at) => place - (at % 3 === 0 ? x.middle : at % 3 === 2 ? z.middle : 0)),
      size[1],
    );
    return {
      ...volume,
      origin: [origin[0] + shift[0], origin[1] + shift[1], origin[2] + shift[2]],
      size: [x.half, size[1], z.half],
      ...(table && { table }),
    };
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
