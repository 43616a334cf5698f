import type { CycleMap } from "@stride/motion";

/** Moments nearer than this are no cycle, seconds. */
const SHORTEST = 0.3;
/** What closes best is darkest; a third of the usual distance is as good as white. */
const WHITE = 0.45;

/**
 * How dark each point of the picture is, 0..1, row by row from the top: across the first moment, up the last one. Only what lies above the diagonal can be a cycle;
 * below it the picture is empty.
 */
export function mapColumns(map: CycleMap): Float32Array {
  const { size, apart, seconds } = map;
  const out = new Float32Array(size * size);
  const sorted = Float32Array.from(apart).sort();
  const usual = sorted[Math.floor(sorted.length * 0.6)] || 1;
  for (let row = 0; row < size; row++) {
    const to = size - 1 - row;
    for (let from = 0; from < to; from++) {
      const long = ((to - from) * seconds) / Math.max(1, size - 1);
      out[row * size + from] = long < SHORTEST ? 0 : Math.max(0, 1 - apart[from * size + to] / (WHITE * usual)) ** 1.5;
    }
  }
  return out;
}

/** The lowest place near a point of the picture (shares of its width and height), as a stretch in seconds; null below the diagonal. */
export function nearestLow(map: CycleMap, x: number, y: number): { readonly from: number; readonly to: number } | null {
  const { size, apart, seconds } = map;
  const step = seconds / Math.max(1, size - 1);
  const [px, py] = [Math.round(x * (size - 1)), Math.round(y * (size - 1))];
  const reach = Math.max(1, Math.round(size / 40));
  let best: { from: number; to: number; apart: number } | null = null;
  for (let from = Math.max(0, px - reach); from <= Math.min(size - 1, px + reach); from++)
    for (let to = Math.max(0, py - reach); to <= Math.min(size - 1, py + reach); to++) {
      if ((to - from) * step < SHORTEST) continue;
      const value = apart[from * size + to];
      if (!best || value < best.apart) best = { from, to, apart: value };
    }
  return best && { from: best.from * step, to: best.to * step };
}
