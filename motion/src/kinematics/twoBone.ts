import { type Floats, fromToQuatFlat, length3, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";

/** Result of a reach: world rotations to put before those that the chain had. */
export interface TwoBoneReach {
  /** upper' = upper · old world rotation of the upper bone (and of joints between the two) */
  readonly upper: Float64Array;
  /** lower' = lower · old world rotation of the lower bone */
  readonly lower: Float64Array;
  /** how far the end stays short of (or beyond) the target, metres; 0 within reach */
  shortfall: number;
}

export function makeTwoBoneReach(): TwoBoneReach {
  return { upper: new Float64Array(4), lower: new Float64Array(4), shortfall: 0 };
}

/** Below this bend (offset of the middle joint as a share of the upper bone) the hinge takes over the middle joint's direction. */
const STRAIGHT_SHARE = 0.03;
/** Sum of bends, m², below which a chain is straight all along. */
const NEVER_BENT = 1e-9;
/** Closest to full stretch that is solved exactly, as a share of the chain's length. */
export const FULL_STRETCH = 0.99995;

const _p = /*@__PURE__*/ new Float64Array(3);
const _k = /*@__PURE__*/ new Float64Array(3);
const _e = /*@__PURE__*/ new Float64Array(3);
const _aim = /*@__PURE__*/ new Float64Array(4);
const _q = /*@__PURE__*/ new Float64Array(4);

/**
 * Analytic two-bone reach. Start (hip), middle (knee), end (ankle) are world points of the pose as it is; `hip` is where the start now
 * stands and `target` where the end shall be. `hinge` is the world axis about which the middle joint bends (start→middle × middle→end
 * when bent), which keeps the bend's direction while the chain passes straight, and with `byHinge` is what it bends about so far as it bends more than it did: a chain that was all but straight has its
 * middle anywhere. Bone lengths are kept exactly; the plane of the
 * bend is the pose's own, turned by the smallest rotation that aims the chain, or with `via` (a world direction) by the smallest ones to
 * that direction and on to the target, which has its one singular place opposite `via`. Out of reach, the end stays on the line to the
 * target.
 *
 * With a = unit(end − start), the middle joint lies at x·a + y·p, x = (l1² − l2² + d²)/2d, y = √(l1² − x²) (law of cosines).
 */
export function reachTwoBone(
  out: TwoBoneReach,
  start: Floats,
  so: number,
  middle: Floats,
  mo: number,
  end: Floats,
  eo: number,
  hip: Floats,
  target: Floats,
  hinge: Floats,
  via: Floats | null = null,
  byHinge = false,
): void {
  const ux = middle[mo] - start[so];
  const uy = middle[mo + 1] - start[so + 1];
  const uz = middle[mo + 2] - start[so + 2];
  const vx = end[eo] - middle[mo];
  const vy = end[eo + 1] - middle[mo + 1];
  const vz = end[eo + 2] - middle[mo + 2];
  const l1 = length3(ux, uy, uz);
  const l2 = length3(vx, vy, vz);
  let ax = ux + vx;
  let ay = uy + vy;
  let az = uz + vz;
  const d0 = length3(ax, ay, az);
  if (d0 > 1e-9) {
    ax /= d0;
    ay /= d0;
    az /= d0;
  } else {
    ax = ux / l1;
    ay = uy / l1;
    az = uz / l1;
  }
  // Direction from the line start–end to the middle joint.
  const along = ux * ax + uy * ay + uz * az;
  _p[0] = ux - along * ax;
  _p[1] = uy - along * ay;
  _p[2] = uz - along * az;
  const bend = length3(_p[0], _p[1], _p[2]);
  const tx = target[0] - hip[0];
  const ty = target[1] - hip[1];
  const tz = target[2] - hip[2];
  const wanted = length3(tx, ty, tz);
  const d = Math.max(Math.abs(l1 - l2) * 1.0001 + 1e-9, Math.min((l1 + l2) * FULL_STRETCH, wanted));
  out.shortfall = Math.abs(wanted - d) < 1e-12 ? 0 : Math.abs(wanted - d);
  const x = (l1 * l1 - l2 * l2 + d * d) / (2 * d);
  const square = Math.sqrt(Math.max(0, l1 * l1 - x * x));
  const lack = STRAIGHT_SHARE * l1 - bend;
  const more = byHinge ? square - bend : 0;
  if (lack > 0 || more > 0) {
    let hx = ay * hinge[2] - az * hinge[1];
    let hy = az * hinge[0] - ax * hinge[2];
    let hz = ax * hinge[1] - ay * hinge[0];
    const n = length3(hx, hy, hz) || 1;
    hx /= n;
    hy /= n;
    hz /= n;
    // The less by the hinge, the further from it the chain bends by itself.
    const alike = bend > 1e-9 ? (_p[0] * hx + _p[1] * hy + _p[2] * hz) / bend : 1;
    const by = Math.max(lack, 0.5 * (1 + alike) * more);
    _p[0] += by * hx;
    _p[1] += by * hy;
    _p[2] += by * hz;
  }
  const y = square / (length3(_p[0], _p[1], _p[2]) || 1);
  _k[0] = ax * x + _p[0] * y;
  _k[1] = ay * x + _p[1] * y;
  _k[2] = az * x + _p[2] * y;
  _e[0] = ax * d - _k[0];
  _e[1] = ay * d - _k[1];
  _e[2] = az * d - _k[2];
  if (via) {
    fromToQuatFlat(_q, 0, ax, ay, az, via[0], via[1], via[2]);
    fromToQuatFlat(_aim, 0, via[0], via[1], via[2], tx, ty, tz);
    multiplyQuatFlat(_aim, 0, _aim, 0, _q, 0);
  } else fromToQuatFlat(_aim, 0, ax, ay, az, tx, ty, tz);
  fromToQuatFlat(_q, 0, ux, uy, uz, _k[0], _k[1], _k[2]);
  multiplyQuatFlat(out.upper, 0, _aim, 0, _q, 0);
  fromToQuatFlat(_q, 0, vx, vy, vz, _e[0], _e[1], _e[2]);
  multiplyQuatFlat(out.lower, 0, _aim, 0, _q, 0);
}

/**
 * The axis, in the upper joint's frame, about which a chain bends over a clip: the mean of start→middle × middle→end, which weighs
 * each frame by how far it is bent; null where it never is. `read` gives the three world points (9 numbers) and the upper joint's world rotation of a frame.
 */
export function meanHinge(frameCount: number, read: (frame: number, points: Float64Array, rotation: Float64Array) => void): Float64Array | null {
  const sum = new Float64Array(3);
  const points = new Float64Array(9);
  const rotation = new Float64Array(4);
  const n = new Float64Array(3);
  const step = Math.max(1, Math.floor(frameCount / 400));
  for (let f = 0; f < frameCount; f += step) {
    read(f, points, rotation);
    const [sx, sy, sz, mx, my, mz, ex, ey, ez] = points;
    n[0] = (my - sy) * (ez - mz) - (mz - sz) * (ey - my);
    n[1] = (mz - sz) * (ex - mx) - (mx - sx) * (ez - mz);
    n[2] = (mx - sx) * (ey - my) - (my - sy) * (ex - mx);
    for (let i = 0; i < 3; i++) rotation[i] = -rotation[i];
    rotateVecFlat(n, 0, rotation, 0, n, 0);
    for (let i = 0; i < 3; i++) sum[i] += n[i];
  }
  const length = length3(sum[0], sum[1], sum[2]);
  if (length < NEVER_BENT) return null;
  return sum.map((v) => v / length);
}
