import { conjugateQuatFlat, dotQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";

type Lane = Float64Array | Float32Array;

const _q = /*@__PURE__*/ new Float64Array(4);
const _v = /*@__PURE__*/ new Float64Array(3);

/** How far frame f of quaternions [frame][4] lies off the middle of its neighbours, as a rotation vector seen from that middle: half the second difference of a course. */
function offMiddleVector(lane: Lane, f: number, out: Float64Array): void {
  const a = f * 4 - 4;
  const b = f * 4 + 4;
  const sign = dotQuatFlat(lane, a, lane, b) < 0 ? -1 : 1;
  for (let i = 0; i < 4; i++) _q[i] = lane[a + i] + sign * lane[b + i];
  normalizeQuatFlat(_q, 0);
  if (dotQuatFlat(_q, 0, lane, f * 4) < 0) for (let i = 0; i < 4; i++) _q[i] *= -1;
  conjugateQuatFlat(_q, 0, _q, 0);
  multiplyQuatFlat(_q, 0, _q, 0, lane, f * 4);
  logQuatFlat(out, 0, _q, 0);
}

/** The same as an angle, radians. */
export function offMiddle(lane: Lane, f: number): number {
  offMiddleVector(lane, f, _v);
  return Math.hypot(_v[0], _v[1], _v[2]);
}

/** How much larger a spike must be than what the frames around show. */
const OVER_AROUND = 3;
/**
 * How far the neighbours may be from minus half the spike, as a share of it, and how much further where the course bends anyway; never so far
 * that a kink (a landing, whose neighbours are off by nothing) would do.
 */
const HALF_WITHIN = 0.22;
const HALF_AT_MOST = 0.38;

/**
 * Frames (2..n−3: nearer to the ends nothing tells) that leap away for one frame and back: off the middle of their neighbours by a rotation s of at least `least` radians, while
 * both neighbours are off theirs by about −s/2, as only a fault of that one frame makes them; and by far more than what the frames around
 * show, so that neither a quick turn nor a landing counts.
 */
export function popSpikes(lane: Lane, frameCount: number, least: number): number[] {
  const offs = new Float64Array(frameCount * 3);
  for (let f = 1; f + 1 < frameCount; f++) {
    offMiddleVector(lane, f, _v);
    offs.set(_v, f * 3);
  }
  const size = (f: number) => Math.hypot(offs[f * 3], offs[f * 3 + 1], offs[f * 3 + 2]);
  const inside = (f: number) => f >= 1 && f + 1 < frameCount;
  const spikes: number[] = [];
  for (let f = 2; f + 2 < frameCount; f++) {
    const s = size(f);
    if (s < least) continue;
    let bend = 0;
    let count = 0;
    for (const d of [-4, -3, -2, 2, 3, 4]) {
      if (!inside(f + d)) continue;
      bend += size(f + d);
      count++;
    }
    if (count > 0) bend /= count;
    if (s < OVER_AROUND * bend) continue;
    const within = Math.min(HALF_AT_MOST * s, HALF_WITHIN * s + bend);
    const half = (g: number) => Math.hypot(...[0, 1, 2].map((i) => offs[g * 3 + i] + offs[f * 3 + i] / 2)) < within;
    if (count > 0 && half(f - 1) && half(f + 1)) spikes.push(f);
  }
  return spikes;
}
