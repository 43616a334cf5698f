import { rotateVecFlat } from "../math/quat.ts";
import type { RestSurface } from "./onSkin.ts";
import type { Skin } from "./skin.ts";

/** A vertex of a skin as its joints carry it. */
export interface Carried {
  /** the joint that moves it most */
  readonly joint: number;
  /** the joints that move it, how much each, and where it is in each one's frame, metres */
  readonly by: readonly { readonly joint: number; readonly weight: number; readonly local: readonly [number, number, number] }[];
}

/** To faces, edges and corners of a cube. */
const CUBE: readonly (readonly number[])[] = [-1, 0, 1].flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].flatMap((z) => (x || y || z ? [[x, y, z]] : []))));

/**
 * The vertices that stick out furthest at rest, any of the `ways` [way][3], of those that each joint moves most: what of a skin comes near anything first. By themselves the ways are 26, to faces, edges and corners of a cube.
 */
export function skinExtremes(skin: Skin, surface: RestSurface, ways: readonly (readonly number[])[] = CUBE): Carried[] {
  const { joints, positions } = surface;
  const best = new Map<number, { readonly reach: number[]; readonly vertex: number[] }>();
  for (const [v, joint] of joints.entries()) {
    const of = best.get(joint) ?? { reach: ways.map(() => Number.NEGATIVE_INFINITY), vertex: ways.map(() => -1) };
    best.set(joint, of);
    ways.forEach(([x, y, z], i) => {
      const reach = positions[v * 3] * x + positions[v * 3 + 1] * y + positions[v * 3 + 2] * z;
      if (reach <= of.reach[i]) return;
      of.reach[i] = reach;
      of.vertex[i] = v;
    });
  }
  return carriedVertices(skin, surface, new Set([...best.values()].flatMap((of) => of.vertex)));
}

/** Vertices of a skin (counted over all its parts) as their joints carry them. */
export function carriedVertices(skin: Skin, { joints }: RestSurface, chosen: ReadonlySet<number>): Carried[] {
  const out: Carried[] = [];
  let first = 0;
  for (const part of skin.parts) {
    const count = part.positions.length / 3;
    for (let v = 0; v < count; v++) if (chosen.has(first + v)) out.push({ joint: joints[first + v], by: carriersOf(skin, part, v) });
    first += count;
  }
  return out;
}

function carriersOf({ joints, binds }: Skin, part: Skin["parts"][number], v: number): Carried["by"] {
  const [x, y, z] = part.positions.subarray(v * 3, v * 3 + 3);
  return [0, 1, 2, 3].flatMap((k) => {
    const weight = part.weights[v * 4 + k];
    if (weight === 0) return [];
    const bind = part.binds[v * 4 + k];
    const at = (c: number) => binds[bind * 16 + c] * x + binds[bind * 16 + 4 + c] * y + binds[bind * 16 + 8 + c] * z + binds[bind * 16 + 12 + c];
    return [{ joint: joints[bind], weight, local: [at(0), at(1), at(2)] as const }];
  });
}

const turned = new Float64Array(3);

/** Where a vertex stands in a pose: out[0..3), metres, of the joints' world places [joint][3] and rotations [joint][4]. */
export function placeOf(out: Float64Array, { by }: Pick<Carried, "by">, positions: ArrayLike<number>, rotations: Float64Array): Float64Array {
  out.fill(0);
  for (const { joint, weight, local } of by) {
    rotateVecFlat(turned, 0, rotations, joint * 4, local, 0);
    for (let c = 0; c < 3; c++) out[c] += weight * (positions[joint * 3 + c] + turned[c]);
  }
  return out;
}
