import { dotQuatFlat, quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";

const _between = /*@__PURE__*/ new Float64Array(4);

/** How far frame f of quaternions [frame][4] lies off the middle of its neighbours, radians: half the second difference of a course. */
export function offMiddle(lane: Float64Array | Float32Array, f: number, stride = 4, offset = 0): number {
  const a = offset + (f - 1) * stride;
  const b = offset + (f + 1) * stride;
  slerpQuatFlat(_between, 0, lane, a, lane, b, 0.5);
  if (dotQuatFlat(_between, 0, lane, offset + f * stride) < 0) for (let i = 0; i < 4; i++) _between[i] *= -1;
  return quatAngleFlat(_between, 0, lane, offset + f * stride);
}

/**
 * Frames (1..n−2) that jump away for one frame and back: off the middle of their neighbours by at least `least` radians, and by over
 * three times what the frames around show (so that a quick turn, which is off for several frames, does not count).
 */
export function popSpikes(lane: Float64Array | Float32Array, frameCount: number, least: number, stride = 4, offset = 0): number[] {
  const spikes: number[] = [];
  for (let f = 1; f + 1 < frameCount; f++) {
    const off = offMiddle(lane, f, stride, offset);
    if (off < least) continue;
    let around = 0;
    let count = 0;
    for (const d of [-4, -3, -2, 2, 3, 4]) {
      const g = f + d;
      if (g < 1 || g + 1 >= frameCount) continue;
      around += offMiddle(lane, g, stride, offset);
      count++;
    }
    if (count > 0 && off <= 3 * (around / count)) continue;
    // A spike throws its neighbours' middles off too, by half as much: only the top of it counts.
    const before = f > 1 ? offMiddle(lane, f - 1, stride, offset) : 0;
    const after = f + 2 < frameCount ? offMiddle(lane, f + 1, stride, offset) : 0;
    if (off >= before && off > after) spikes.push(f);
  }
  return spikes;
}
