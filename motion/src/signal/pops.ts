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
/** What is left of the three frames' bends once a spike is taken out of them, at most, as a share of it: of a kink (a landing) 0.87 is left. */
const LEFT = 0.55;

/**
 * Frames (2..n−3: nearer to the ends nothing tells) that leap away for one frame and back: such a fault of one frame bends the course at it by s, and
 * by −s/2 on either side. The bends that the course has anyway there are taken to run evenly between those two frames before and behind; s is fitted
 * by least squares, has to be `least` radians and far more than what the frames around show, and has to explain the three, so that neither a
 * quick turn nor a landing counts. What the frames around show is taken from both sides, or from the quieter one: of a leg that stands on one side and swings on the other,
 * where something else tells whether the spike is one.
 */
export function popSpikes(lane: Lane, frameCount: number, least: number, bySide: "both" | "quieter" = "both"): number[] {
  return spikesIn(offMiddles(lane, frameCount), frameCount, least, bySide);
}

/** How far each frame of quaternions [frame][4] lies off the middle of its neighbours, as rotation vectors [frame][3] seen from that; zero for the first and the last. */
export function offMiddles(lane: Lane, frameCount: number): Float64Array {
  const offs = new Float64Array(frameCount * 3);
  for (let f = 1; f + 1 < frameCount; f++) {
    offMiddleVector(lane, f, _v);
    offs.set(_v, f * 3);
  }
  return offs;
}

/** The same of a course whose every frame's distance from the middle of its neighbours is known: [frame][3], in the unit of `least`. */
export function spikesIn(offs: Float64Array, frameCount: number, least: number, bySide: "both" | "quieter"): number[] {
  const size = (f: number) => Math.hypot(offs[f * 3], offs[f * 3 + 1], offs[f * 3 + 2]);
  const inside = (f: number) => f >= 1 && f + 1 < frameCount;
  const beside = (f: number, way: -1 | 1) => {
    const there = [2, 3, 4].map((d) => f + way * d).filter(inside);
    return there.length === 0 ? -1 : there.reduce((sum, g) => sum + size(g), 0) / there.length;
  };
  const spikes: number[] = [];
  for (let f = 2; f + 2 < frameCount; f++) {
    if (size(f) < least) continue;
    const around = [beside(f, -1), beside(f, 1)].filter((v) => v >= 0);
    if (around.length === 0) continue;
    const calm = bySide === "quieter" ? Math.min(...around) : around.reduce((sum, v) => sum + v, 0) / around.length;
    const { spike, left } = spikeAt(offs, f, inside);
    if (spike >= least && spike >= OVER_AROUND * calm && left <= LEFT * spike) spikes.push(f);
  }
  return spikes;
}

/** The spike that best explains the bends at a frame and its neighbours over what lies evenly between the frames around them, and what it leaves, radians. */
function spikeAt(offs: Float64Array, f: number, inside: (f: number) => boolean): { spike: number; left: number } {
  const [before, behind] = [inside(f - 2) ? f - 2 : f + 2, inside(f + 2) ? f + 2 : f - 2];
  let [spike, left] = [0, 0];
  for (let i = 0; i < 3; i++) {
    const [a, b] = [offs[before * 3 + i], offs[behind * 3 + i]];
    const own = [-1, 0, 1].map((d) => offs[(f + d) * 3 + i] - a - ((b - a) * (d + 2)) / 4);
    const s = (own[1] - (own[0] + own[2]) / 2) / 1.5;
    spike += s * s;
    left += (own[0] + s / 2) ** 2 + (own[1] - s) ** 2 + (own[2] + s / 2) ** 2;
  }
  return { spike: Math.sqrt(spike), left: Math.sqrt(left) };
}
