import type { UpAxis } from "../format.ts";

/** How a BVH file said things, kept so that it can be written back the same way. */
export interface BvhLayout {
  readonly format: "bvh";
  readonly joints: readonly BvhJoint[];
  readonly frameTimeText: string;
  readonly frameTime: number;
  readonly upAxis: UpAxis;
  /** metres per file unit */
  readonly unitScale: number;
}

export function isBvhLayout(layout: unknown): layout is BvhLayout {
  return typeof layout === "object" && layout !== null && "format" in layout && layout.format === "bvh";
}

export interface BvhJoint {
  /** in file order of its CHANNELS line; axis 0, 1, 2 = x, y, z */
  readonly channels: readonly { readonly kind: "position" | "rotation"; readonly axis: 0 | 1 | 2 }[];
  /** as written in the file, file units and axes */
  readonly offset: readonly [number, number, number];
  /** does a position channel stand for the whole local position, or is the OFFSET added to it? */
  readonly positionMode: "add" | "replace";
}

/** File axes → ours (+Y up): x stays, the file's z becomes y, its y becomes −z. */
export function fromFileAxes(upAxis: UpAxis, v: Float64Array | Float32Array, o: number): void {
  if (upAxis === "y") return;
  const y = v[o + 1];
  v[o + 1] = v[o + 2];
  v[o + 2] = -y;
}

/** Ours → file axes; the inverse of `fromFileAxes`. Turns the vector part of quaternions alike. */
export function toFileAxes(upAxis: UpAxis, v: Float64Array | Float32Array, o: number): void {
  if (upAxis === "y") return;
  const y = v[o + 1];
  v[o + 1] = -v[o + 2];
  v[o + 2] = y;
}
