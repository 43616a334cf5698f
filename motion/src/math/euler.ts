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
  if (run.order.length === 3 && new Set(run.order).size === 3) threeTurns(dst, run, values, frames, before, bo);
  else for (let f = 0; f < frames; f++) anyTurns(dst, run, values, f, f > 0 ? dst : before, f > 0 ? f * 4 - 4 : bo);
}

/**
 * Of turns about three different axes i, j, k, as nearly all files have them. Their product, with e = 1 where (i, j, k) is an even permutation of the
 * axes and −1 where it is odd, and each turn's half angle as s and c: (sᵢcⱼcₖ + e·cᵢsⱼsₖ, cᵢsⱼcₖ − e·sᵢcⱼsₖ, cᵢcⱼsₖ + e·sᵢsⱼcₖ; cᵢcⱼcₖ − e·sᵢsⱼsₖ).
 */
function threeTurns(dst: Float32Array, run: EulerRun, values: Float64Array, frames: number, before: ArrayLike<number>, bo: number): void {
  const [i, j, k] = run.order;
  const e = (i + 1) % 3 === j ? 1 : -1;
  const { columns, stride } = run;
  const firstColumn = columns[0];
  const secondColumn = columns[1];
  const thirdColumn = columns[2];
  let bi = before[bo + i];
  let bj = before[bo + j];
  let bk = before[bo + k];
  let bw = before[bo + 3];
  for (let f = 0, row = 0; f < frames; f++, row += stride) {
    const first = values[row + firstColumn];
    const second = values[row + secondColumn];
    const third = values[row + thirdColumn];
    const o = f * 4;
    if (Math.abs(first) > 90 || Math.abs(second) > 90 || Math.abs(third) > 90) {
      anyTurns(dst, run, values, f, f > 0 ? dst : before, f > 0 ? o - 4 : bo);
      bi = dst[o + i];
      bj = dst[o + j];
      bk = dst[o + k];
      bw = dst[o + 3];
      continue;
    }
    // Many a channel never turns.
    let si = 0;
    let ci = 1;
    if (first !== 0) {
      si = smallSin(first * HALF_DEGREE);
      ci = Math.sqrt(1 - si * si);
    }
    let sj = 0;
    let cj = 1;
    if (second !== 0) {
      sj = smallSin(second * HALF_DEGREE);
      cj = Math.sqrt(1 - sj * sj);
    }
    let sk = 0;
    let ck = 1;
    if (third !== 0) {
      sk = smallSin(third * HALF_DEGREE);
      ck = Math.sqrt(1 - sk * sk);
    }
    const ss = e * sj * sk;
    const cc = cj * ck;
    const sc = sj * ck;
    const cs = cj * sk;
    let qi = si * cc + ci * ss;
    let qj = ci * sc - e * si * cs;
    let qk = ci * cs + e * si * sc;
    let w = ci * cc - si * ss;
    if (qi * bi + qj * bj + qk * bk + w * bw < 0) {
      qi = -qi;
      qj = -qj;
      qk = -qk;
      w = -w;
    }
    dst[o + i] = bi = qi;
    dst[o + j] = bj = qj;
    dst[o + k] = bk = qk;
    dst[o + 3] = bw = w;
  }
}

/** Of one frame, with any number of turns, axes as often as they come, and angles of any size. */
function anyTurns(dst: Float32Array, { order, columns, stride }: EulerRun, values: Float64Array, f: number, before: ArrayLike<number>, bo: number): void {
  let x = 0;
  let y = 0;
  let z = 0;
  let w = 1;
  for (let i = 0; i < order.length; i++) {
    const degrees = values[f * stride + columns[i]];
    const turns = Math.floor(degrees / 180 + 0.5);
    const half = (degrees - turns * 180) * HALF_DEGREE;
    const sin = smallSin(half);
    const cos = Math.sqrt(1 - sin * sin);
    // (sin, cos) of half + turns · 90°.
    const quarter = ((turns % 4) + 4) % 4;
    const s = quarter === 0 ? sin : quarter === 1 ? cos : quarter === 2 ? -sin : -cos;
    const c = quarter === 0 ? cos : quarter === 1 ? -sin : quarter === 2 ? -cos : sin;
    const px = x;
    const py = y;
    const pz = z;
    const pw = w;
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
  const sign = x * before[bo] + y * before[bo + 1] + z * before[bo + 2] + w * before[bo + 3] < 0 ? -1 : 1;
  const o = f * 4;
  dst[o] = sign * x;
  dst[o + 1] = sign * y;
  dst[o + 2] = sign * z;
  dst[o + 3] = sign * w;
}

const HALF_DEGREE = Math.PI / 360;

/** sin x for |x| ≤ π/4 by its series to x¹¹, within 7e-12, a ten thousandth of what a sample can hold; terms in pairs, so that they need not wait for one another. */
function smallSin(x: number): number {
  const z = x * x;
  const zz = z * z;
  return x * (1 - z * (1 / 6) + zz * (1 / 120 - z * (1 / 5040) + zz * (1 / 362880 - z * (1 / 39916800))));
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
