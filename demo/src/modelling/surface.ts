import { MeshoptSimplifier } from "meshoptimizer";
import ndarray from "ndarray";
import surfaceNets from "surface-nets";
import { joined, type Point, type Stroke } from "./field.ts";

export type Colour = readonly [number, number, number];

/** One shell of a body, of one making: skin, a coat, a boot. */
export interface Shell {
  readonly name: string;
  readonly strokes: readonly Stroke[];
  /** side of a cell that it is meshed with, metres */
  readonly cell: number;
  /** triangles that are left, about */
  readonly triangles: number;
  /** sRGB 0..1 */
  readonly colour: (x: number, y: number, z: number) => Colour;
  /** joints that may move it, by name */
  readonly joints: RegExp;
}

/** A closed surface: [vertex][3] and [triangle][3]. */
export interface Surface {
  readonly positions: Float32Array;
  readonly indices: Uint32Array;
}

/** Farther out than any seam is soft, metres. */
const FAR = 1;

/** The strokes of a shell as a surface: sampled on a grid, meshed by surface nets, thinned where it is flat. */
export async function surfaceOf({ strokes, cell, triangles }: Shell): Promise<Surface> {
  const pad = 3 * cell;
  const low = [0, 1, 2].map((i) => Math.min(...strokes.filter((s) => !s.cut).map((s) => s.solid.box[0][i])) - pad);
  const high = [0, 1, 2].map((i) => Math.max(...strokes.filter((s) => !s.cut).map((s) => s.solid.box[1][i])) + pad);
  const size = [0, 1, 2].map((i) => Math.ceil((high[i] - low[i]) / cell) + 1) as [number, number, number];
  const field = new Float32Array(size[0] * size[1] * size[2]).fill(FAR);
  for (const { solid, soft, cut } of strokes) {
    const margin = soft + 2 * cell;
    const from = [0, 1, 2].map((i) => Math.max(0, Math.floor((solid.box[0][i] - margin - low[i]) / cell)));
    const to = [0, 1, 2].map((i) => Math.min(size[i] - 1, Math.ceil((solid.box[1][i] + margin - low[i]) / cell)));
    for (let i = from[0]; i <= to[0]; i++)
      for (let j = from[1]; j <= to[1]; j++)
        for (let k = from[2]; k <= to[2]; k++) {
          const at = (i * size[1] + j) * size[2] + k;
          field[at] = joined(field[at], solid.distance(low[0] + i * cell, low[1] + j * cell, low[2] + k * cell), soft, cut);
        }
  }
  const mesh = surfaceNets(ndarray(field, size), 0);
  const positions = Float32Array.from(mesh.positions.flatMap((p) => p.map((v, i) => low[i] + v * cell)));
  const indices = Uint32Array.from(mesh.cells.flat());
  await MeshoptSimplifier.ready;
  const [thinned] = MeshoptSimplifier.simplify(indices, positions, 3, triangles * 3, 0.01);
  return compacted(positions, thinned);
}

function compacted(positions: Float32Array, indices: Uint32Array): Surface {
  const place = new Map<number, number>();
  const kept: number[] = [];
  const out = indices.map((i) => {
    const known = place.get(i);
    if (known !== undefined) return known;
    place.set(i, place.size);
    kept.push(positions[i * 3], positions[i * 3 + 1], positions[i * 3 + 2]);
    return place.size - 1;
  });
  return { positions: Float32Array.from(kept), indices: out };
}

/** Normals of a shell's own field at its vertices: smoother than its triangles'. */
export function fieldNormals({ strokes, cell }: Shell, { positions }: Surface): Float32Array {
  const at = (x: number, y: number, z: number) => {
    let d = FAR;
    for (const { solid, soft, cut } of strokes) {
      const margin = soft + 2 * cell;
      const inside = [x, y, z].every((v, i) => v >= solid.box[0][i] - margin && v <= solid.box[1][i] + margin);
      if (inside) d = joined(d, solid.distance(x, y, z), soft, cut);
    }
    return d;
  };
  const out = new Float32Array(positions.length);
  const e = cell * 0.5;
  for (let o = 0; o < positions.length; o += 3) {
    const p = [positions[o], positions[o + 1], positions[o + 2]] as const;
    const n: Point = [
      at(p[0] + e, p[1], p[2]) - at(p[0] - e, p[1], p[2]),
      at(p[0], p[1] + e, p[2]) - at(p[0], p[1] - e, p[2]),
      at(p[0], p[1], p[2] + e) - at(p[0], p[1], p[2] - e),
    ];
    const length = Math.hypot(...n) || 1;
    for (let i = 0; i < 3; i++) out[o + i] = n[i] / length;
  }
  return out;
}
