declare module "surface-nets" {
  import type { NdArray } from "ndarray";
  /** The surface on which a sampled field has a value: corners in cells, triangles wound outward of what lies below it. */
  export default function surfaceNets(
    field: NdArray<Float32Array>,
    level: number,
  ): { positions: [number, number, number][]; cells: [number, number, number][] };
}
