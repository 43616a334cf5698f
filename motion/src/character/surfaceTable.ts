import { median } from "../signal/robust.ts";

/** Rows along a volume and columns around it. */
const [ALONG, AROUND] = [8, 16];
/** The surface is taken where so many of a cell's vertices lie within: a button sticks out, and shells lie over each other. */
const WITHIN = 0.95;
/** A cell whose vertices lie so much further in than its row's middle has only those of a shell inside: it is as its neighbours. */
const INSIDE = 0.6;
/** How square the rim of an end is: 2 is an ellipse, more comes near to a flat end. */
const RIM = 4;
/** An end lies no less beyond its volume, metres. */
const THIN = 0.005;
/** Cells that have to have vertices, share of all. */
const ENOUGH = 0.25;

/** How far a mesh is from the axis of a volume: in cells along it (rows of their middles) and around it, and beyond its two ends; metres. */
export interface SurfaceTable {
  /** [row][column] */
  readonly radii: Float64Array;
  readonly ends: readonly [number, number];
}

/**
 * The table of a part's vertices `places` [place][across, along, deep] in its volume's frame, `length` long; null where they reach round too little of it. Cells without a vertex are as their neighbours.
 */
export function surfaceTable(places: readonly number[], length: number): SurfaceTable | null {
  const cells = Array.from({ length: ALONG * AROUND }, () => [] as number[]);
  const beyond: [number[], number[]] = [[], []];
  for (let o = 0; o < places.length; o += 3) {
    const [x, y, z] = [places[o], places[o + 1], places[o + 2]];
    if (y < 0) beyond[0].push(-y);
    else if (y > length) beyond[1].push(y - length);
    else cells[Math.min(ALONG - 1, Math.floor((y / length) * ALONG)) * AROUND + columnOf(x, z)].push(Math.hypot(x, z));
  }
  if (cells.filter((cell) => cell.length > 0).length < ENOUGH * cells.length) return null;
  const radii = Float64Array.from(cells, (cell) => (cell.length > 0 ? within(cell) : Number.NaN));
  for (let row = 0; row < ALONG; row++) {
    const own = radii.subarray(row * AROUND, (row + 1) * AROUND);
    const middle = median(Array.from(own).filter((r) => !Number.isNaN(r)));
    for (let c = 0; c < AROUND; c++) if (own[c] < INSIDE * middle) own[c] = Number.NaN;
  }
  while (radii.some(Number.isNaN)) fillOnce(radii);
  const mean = radii.reduce((sum, r) => sum + r, 0) / radii.length;
  const end = (list: number[]) => (list.length > 0 ? Math.max(within(list), THIN) : mean);
  return { radii, ends: [end(beyond[0]), end(beyond[1])] };
}

/** How far the surface is from the axis at a share along it (0..1), in a direction of unit length in the volume's frame (one that leaves an end goes over to how far the mesh goes on there), metres. */
export function surfaceRadius({ radii, ends }: SurfaceTable, along: number, x: number, y: number, z: number): number {
  const row = Math.max(0, Math.min(ALONG - 1, along * ALONG - 0.5));
  const r = Math.min(ALONG - 2, Math.floor(row));
  const column = (Math.atan2(z, x) / (2 * Math.PI)) * AROUND - 0.5;
  const c = Math.floor(column);
  const [a, b] = [c & (AROUND - 1), (c + 1) & (AROUND - 1)];
  const [u, v] = [row - r, column - c];
  const near = (1 - v) * radii[r * AROUND + a] + v * radii[r * AROUND + b];
  const far = (1 - v) * radii[(r + 1) * AROUND + a] + v * radii[(r + 1) * AROUND + b];
  const side = (1 - u) * near + u * far;
  if (Math.abs(y) < 1e-6) return side;
  const end = y > 0 ? ends[1] : ends[0];
  return ((Math.sqrt(x * x + z * z) / side) ** RIM + (Math.abs(y) / end) ** RIM) ** (-1 / RIM);
}

function columnOf(x: number, z: number): number {
  return Math.floor((Math.atan2(z, x) / (2 * Math.PI)) * AROUND) & (AROUND - 1);
}

function within(list: number[]): number {
  return list.sort((p, q) => p - q)[Math.floor(WITHIN * (list.length - 1))];
}

/** Gives cells without a value the mean of those beside them that have one. */
function fillOnce(radii: Float64Array): void {
  const before = radii.slice();
  for (let row = 0; row < ALONG; row++)
    for (let column = 0; column < AROUND; column++) {
      if (!Number.isNaN(before[row * AROUND + column])) continue;
      const beside = [
        before[row * AROUND + ((column + 1) & (AROUND - 1))],
        before[row * AROUND + ((column - 1) & (AROUND - 1))],
        ...(row > 0 ? [before[(row - 1) * AROUND + column]] : []),
        ...(row < ALONG - 1 ? [before[(row + 1) * AROUND + column]] : []),
      ].filter((v) => !Number.isNaN(v));
      if (beside.length > 0) radii[row * AROUND + column] = beside.reduce((sum, v) => sum + v, 0) / beside.length;
    }
}
