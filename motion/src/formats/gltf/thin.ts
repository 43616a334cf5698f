import { quatAngleFlat, slerpQuatFlat } from "../../math/quat.ts";

/**
 * Frames of a track of rotations [frame][4] that are kept as keys so that, LINEAR (the shorter great arc, glTF 2.0 appendix C) between them, no frame is turned by more than so many degrees from what it was.
 * Split where it is worst until none is (Ramer 1972; Douglas & Peucker 1973). The first and the last frame are always kept.
 */
export function keptRotations(values: Float32Array, degrees: number): number[] {
  const q = new Float64Array(4);
  return kept(values.length / 4, (Math.PI / 180) * degrees, (a, b, f) => {
    slerpQuatFlat(q, 0, values, a * 4, values, b * 4, (f - a) / (b - a));
    return quatAngleFlat(q, 0, values, f * 4);
  });
}

/** The same for places [frame][3], `most` in their own unit. */
export function keptPlaces(values: Float32Array, most: number): number[] {
  return kept(values.length / 3, most, (a, b, f) => {
    const t = (f - a) / (b - a);
    let sum = 0;
    for (let i = 0; i < 3; i++) sum += (values[a * 3 + i] + t * (values[b * 3 + i] - values[a * 3 + i]) - values[f * 3 + i]) ** 2;
    return Math.sqrt(sum);
  });
}

function kept(frames: number, most: number, off: (a: number, b: number, frame: number) => number): number[] {
  const keep = new Uint8Array(frames).fill(0);
  keep[0] = 1;
  keep[frames - 1] = 1;
  const stretches: [number, number][] = [[0, frames - 1]];
  for (let next = stretches.pop(); next; next = stretches.pop()) {
    const [a, b] = next;
    let [worst, at] = [most, -1];
    for (let f = a + 1; f < b; f++) {
      const by = off(a, b, f);
      if (by > worst) [worst, at] = [by, f];
    }
    if (at < 0) continue;
    keep[at] = 1;
    stretches.push([a, at], [at, b]);
  }
  return Array.from(keep.keys()).filter((f) => keep[f] === 1);
}
