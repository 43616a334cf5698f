import type { Floats } from "./quat.ts";

/** Axes in order of application from the parent inwards: `[2, 0, 1]` is Z·X·Y, the usual order of BVH channels. */
export type EulerOrder = readonly number[];

/** Cosine of the middle angle below which the outer two are one and the same turn. */
const LOCKED = 1e-6;

/** dst = product of single-axis rotations, `angles[i]` radians about axis `order[i]`; takes any number and order of axes (repeats too). */
export function eulerToQuatFlat(dst: Floats, d: number, order: EulerOrder, angles: Floats, ao: number): Floats {
  let x = 0;
  let y = 0;
  let z = 0;
  let w = 1;
  for (let i = 0; i < order.length; i++) {
    const half = angles[ao + i] * 0.5;
    const s = Math.sin(half);
    const c = Math.cos(half);
    const px = x;
    const py = y;
    const pz = z;
    const pw = w;
    // The product with a rotation about a coordinate axis, written out: half of its terms are zero.
    if (order[i] === 0) {
      x = px * c + pw * s;
      y = py * c + pz * s;
      z = pz * c - py * s;
      w = pw * c - px * s;
    } else if (order[i] === 1) {
      x = px * c - pz * s;
      y = py * c + pw * s;
      z = pz * c + px * s;
      w = pw * c - py * s;
    } else {
      x = px * c + py * s;
      y = py * c - px * s;
      z = pz * c + pw * s;
      w = pw * c - pz * s;
    }
  }
  dst[d] = x;
  dst[d + 1] = y;
  dst[d + 2] = z;
  dst[d + 3] = w;
  return dst;
}

/** A run of Euler angles in a table: degrees, the angle about order[i] at frame f standing at values[f · stride + columns[i]]. */
export interface EulerRun {
  readonly order: EulerOrder;
  readonly columns: ArrayLike<number>;
  readonly stride: number;
}

/**
 * Quaternions dst[f·4..f·4+3] of `frames` frames of Euler angles in degrees, each in the hemisphere of the one before: `before[bo..bo+3]`
 * for the first (four zeros when there is none). Quarter turns of the half angle are taken off in degrees, where that is exact.
 */
export function eulerRunToQuats(dst: Float32Array, run: EulerRun, values: Float64Array, frames: number, before: ArrayLike<number>, bo: number): void {
  const { order, columns, stride } = run;
  const channels = order.length;
  let bx = before[bo];
  let by = before[bo + 1];
  let bz = before[bo + 2];
  let bw = before[bo + 3];
  for (let f = 0, row = 0; f < frames; f++, row += stride) {
    let x = 0;
    let y = 0;
    let z = 0;
    let w = 1;
    for (let i = 0; i < channels; i++) {
      const degrees = values[row + columns[i]];
      // Many a channel never turns.
      if (degrees === 0) continue;
      const axis = order[i];
      let s: number;
      let c: number;
      if (degrees >= -90 && degrees <= 90) {
        const half = degrees * HALF_DEGREE;
        s = smallSin(half);
        c = Math.sqrt(1 - s * s);
      } else {
        const turns = Math.floor(degrees / 180 + 0.5);
        const half = (degrees - turns * 180) * HALF_DEGREE;
        const sin = smallSin(half);
        const cos = Math.sqrt(1 - sin * sin);
        // (sin, cos) of half + turns · 90°.
        const quarter = ((turns % 4) + 4) % 4;
        s = quarter === 0 ? sin : quarter === 1 ? cos : quarter === 2 ? -sin : -cos;
        c = quarter === 0 ? cos : quarter === 1 ? -sin : quarter === 2 ? -cos : sin;
      }
      const px = x;
      const py = y;
      const pz = z;
      const pw = w;
      if (i === 0) {
        // Nothing has turned yet.
        w = c;
        if (axis === 0) x = s;
        else if (axis === 1) y = s;
        else z = s;
      } else if (axis === 0) {
        x = px * c + pw * s;
        y = py * c + pz * s;
        z = pz * c - py * s;
        w = pw * c - px * s;
      } else if (axis === 1) {
        x = px * c - pz * s;
        y = py * c + pw * s;
        z = pz * c + px * s;
        w = pw * c - py * s;
      } else {
        x = px * c + py * s;
        y = py * c - px * s;
        z = pz * c + pw * s;
        w = pw * c - pz * s;
      }
    }
    if (x * bx + y * by + z * bz + w * bw < 0) {
      x = -x;
      y = -y;
      z = -z;
      w = -w;
    }
    const o = f * 4;
    dst[o] = bx = x;
    dst[o + 1] = by = y;
    dst[o + 2] = bz = z;
    dst[o + 3] = bw = w;
  }
}

const HALF_DEGREE = Math.PI / 360;

/** sin x for |x| ≤ π/4 by its series to x¹³, within 2e-16; terms in pairs, so that they need not wait for one another. The cosine is √(1 − sin²), as near there. */
function smallSin(x: number): number {
  const z = x * x;
  const zz = z * z;
  return x * (1 - z * (1 / 6) + zz * (1 / 120 - z * (1 / 5040) + zz * (1 / 362880 - z * (1 / 39916800) + zz * (1 / 6227020800))));
}

/**
 * Angles (radians) about three different axes in `order` that make the rotation at q[qo].
 * Of the two solutions (a, b, c) and (a+π, π−b, c+π) and their whole turns, the one nearest `near` is written, so that a curve of
 * angles does not jump. At gimbal lock (|b| = π/2) the first angle is kept as in `near`. `near` may be `dst` itself.
 */
export function quatToEulerFlat(dst: Floats, d: number, order: EulerOrder, q: Floats, qo: number, near: Floats, no: number): Floats {
  const i = order[0];
  const j = order[1];
  const k = order[2];
  // Even permutations (0,1,2),(1,2,0),(2,0,1) have sign +1.
  const e = (i + 1) % 3 === j ? 1 : -1;
  const qi = q[qo + i];
  const qj = q[qo + j];
  const qk = q[qo + k];
  const w = q[qo + 3];
  const n0 = near[no];
  const n1 = near[no + 1];
  const n2 = near[no + 2];
  const sinB = 2 * (w * qj + e * qi * qk);
  const cosB = Math.hypot(1 - 2 * (qj * qj + qk * qk), 2 * (w * qk - e * qi * qj));
  // At gimbal lock any first angle will do: keep the one that came before.
  const a = cosB < LOCKED && Math.abs(sinB) > 0.5 ? n0 : Math.atan2(2 * (w * qi - e * qj * qk), 1 - 2 * (qi * qi + qj * qj));
  // What is left once the first rotation is taken off, r = (cos b/2 + j sin b/2)(cos c/2 + k sin c/2), gives the others exactly, so that
  // noise near the lock cannot make the three disagree.
  const ca = Math.cos(a / 2);
  const sa = Math.sin(a / 2);
  const ri = ca * qi - sa * w;
  const rj = ca * qj + e * sa * qk;
  const rk = ca * qk - e * sa * qj;
  const rw = ca * w + sa * qi;
  const b = 2 * (Math.hypot(rw, rj) >= Math.hypot(ri, rk) ? Math.atan2(rj, rw) : Math.atan2(e * ri, rk));
  const c = 2 * (Math.hypot(rw, rk) >= Math.hypot(ri, rj) ? Math.atan2(rk, rw) : Math.atan2(e * ri, rj));
  const a1 = nearestTurn(a, n0);
  const b1 = nearestTurn(b, n1);
  const c1 = nearestTurn(c, n2);
  const a2 = nearestTurn(a + Math.PI, n0);
  const b2 = nearestTurn(Math.PI - b, n1);
  const c2 = nearestTurn(c + Math.PI, n2);
  const first = Math.abs(a1 - n0) + Math.abs(b1 - n1) + Math.abs(c1 - n2);
  const second = Math.abs(a2 - n0) + Math.abs(b2 - n1) + Math.abs(c2 - n2);
  dst[d] = first <= second ? a1 : a2;
  dst[d + 1] = first <= second ? b1 : b2;
  dst[d + 2] = first <= second ? c1 : c2;
  return dst;
}

/** The angle equal to `angle` modulo whole turns that lies nearest to `near`. */
export function nearestTurn(angle: number, near: number): number {
  return angle + Math.round((near - angle) / (2 * Math.PI)) * 2 * Math.PI;
}
