/**
 * Quaternion kernels on flat arrays. Layout x, y, z, w; unit length; `rotate(multiply(a, b), v) = rotate(a, rotate(b, v))`.
 * Every kernel reads its inputs before it writes, so `dst` may be a source. Nothing allocates.
 */
export type Floats = Float32Array | Float64Array | number[];
/** The same, to be read alone. */
export type ReadFloats = Float32Array | Float64Array | readonly number[];

/** Length of a vector: several times as quick as Math.hypot, whose care for numbers beyond 1e154 nothing here needs. */
export function length3(x: number, y: number, z: number): number {
  return Math.sqrt(x * x + y * y + z * z);
}

/** dst = a · b (Hamilton product). Returns dst. */
export function multiplyQuatFlat(dst: Floats, d: number, a: Floats, ao: number, b: Floats, bo: number): Floats {
  const ax = a[ao];
  const ay = a[ao + 1];
  const az = a[ao + 2];
  const aw = a[ao + 3];
  const bx = b[bo];
  const by = b[bo + 1];
  const bz = b[bo + 2];
  const bw = b[bo + 3];
  dst[d] = aw * bx + ax * bw + ay * bz - az * by;
  dst[d + 1] = aw * by - ax * bz + ay * bw + az * bx;
  dst[d + 2] = aw * bz + ax * by - ay * bx + az * bw;
  dst[d + 3] = aw * bw - ax * bx - ay * by - az * bz;
  return dst;
}

/** dst = inverse of the unit quaternion q. Returns dst. */
export function conjugateQuatFlat(dst: Floats, d: number, q: Floats, qo: number): Floats {
  dst[d] = -q[qo];
  dst[d + 1] = -q[qo + 1];
  dst[d + 2] = -q[qo + 2];
  dst[d + 3] = q[qo + 3];
  return dst;
}

/** dst = q turned vector v: v + 2w(u×v) + 2u×(u×v). Returns dst. */
export function rotateVecFlat(dst: Floats, d: number, q: Floats, qo: number, v: ReadFloats, vo: number): Floats {
  const x = q[qo];
  const y = q[qo + 1];
  const z = q[qo + 2];
  const w = q[qo + 3];
  const vx = v[vo];
  const vy = v[vo + 1];
  const vz = v[vo + 2];
  const tx = 2 * (y * vz - z * vy);
  const ty = 2 * (z * vx - x * vz);
  const tz = 2 * (x * vy - y * vx);
  dst[d] = vx + w * tx + y * tz - z * ty;
  dst[d + 1] = vy + w * ty + z * tx - x * tz;
  dst[d + 2] = vz + w * tz + x * ty - y * tx;
  return dst;
}

/** Normalises q in place; a zero quaternion becomes the identity. */
export function normalizeQuatFlat(q: Floats, o: number): void {
  const n = Math.sqrt(q[o] * q[o] + q[o + 1] * q[o + 1] + q[o + 2] * q[o + 2] + q[o + 3] * q[o + 3]);
  if (n === 0) {
    q[o + 3] = 1;
    return;
  }
  const s = 1 / n;
  q[o] *= s;
  q[o + 1] *= s;
  q[o + 2] *= s;
  q[o + 3] *= s;
}

export function dotQuatFlat(a: Floats, ao: number, b: Floats, bo: number): number {
  return a[ao] * b[bo] + a[ao + 1] * b[bo + 1] + a[ao + 2] * b[bo + 2] + a[ao + 3] * b[bo + 3];
}

/** Angle in radians, 0..π, between two orientations; q and -q count as equal. Accurate near zero (uses the chord). */
export function quatAngleFlat(a: Floats, ao: number, b: Floats, bo: number): number {
  const s = dotQuatFlat(a, ao, b, bo) < 0 ? -1 : 1;
  const dx = a[ao] - s * b[bo];
  const dy = a[ao + 1] - s * b[bo + 1];
  const dz = a[ao + 2] - s * b[bo + 2];
  const dw = a[ao + 3] - s * b[bo + 3];
  return 4 * Math.asin(Math.min(1, Math.sqrt(dx * dx + dy * dy + dz * dz + dw * dw) / 2));
}

/** dst = rotation of `angle` radians about the unit axis (x, y, z). */
export function axisAngleQuatFlat(dst: Floats, d: number, x: number, y: number, z: number, angle: number): Floats {
  const s = Math.sin(angle / 2);
  dst[d] = x * s;
  dst[d + 1] = y * s;
  dst[d + 2] = z * s;
  dst[d + 3] = Math.cos(angle / 2);
  return dst;
}

/** dst = the smallest rotation that turns direction (ax, ay, az) onto (bx, by, bz); neither needs unit length. */
export function fromToQuatFlat(dst: Floats, d: number, ax: number, ay: number, az: number, bx: number, by: number, bz: number): Floats {
  const la = Math.sqrt(ax * ax + ay * ay + az * az);
  const lb = Math.sqrt(bx * bx + by * by + bz * bz);
  if (la === 0 || lb === 0) return setIdentityQuatFlat(dst, d);
  const w = 1 + (ax * bx + ay * by + az * bz) / (la * lb);
  if (w < 1e-14) {
    // Opposite directions: half a turn about any axis square to a.
    const useX = Math.abs(ax) < 0.8 * la;
    const px = useX ? 0 : -az;
    const py = useX ? az : 0;
    const pz = useX ? -ay : ax;
    const n = 1 / Math.hypot(px, py, pz);
    dst[d] = px * n;
    dst[d + 1] = py * n;
    dst[d + 2] = pz * n;
    dst[d + 3] = 0;
    return dst;
  }
  dst[d] = (ay * bz - az * by) / (la * lb);
  dst[d + 1] = (az * bx - ax * bz) / (la * lb);
  dst[d + 2] = (ax * by - ay * bx) / (la * lb);
  dst[d + 3] = w;
  normalizeQuatFlat(dst, d);
  return dst;
}

export function setIdentityQuatFlat(dst: Floats, d: number): Floats {
  dst[d] = 0;
  dst[d + 1] = 0;
  dst[d + 2] = 0;
  dst[d + 3] = 1;
  return dst;
}

/** dst = spherical interpolation a→b the short way, t in 0..1; t = 0 and t = 1 return a and b bit for bit (b up to sign). */
export function slerpQuatFlat(dst: Floats, d: number, a: Floats, ao: number, b: Floats, bo: number, t: number): Floats {
  if (t === 0) {
    const [x, y, z, w] = [a[ao], a[ao + 1], a[ao + 2], a[ao + 3]];
    dst[d] = x;
    dst[d + 1] = y;
    dst[d + 2] = z;
    dst[d + 3] = w;
    return dst;
  }
  let cos = dotQuatFlat(a, ao, b, bo);
  const sign = cos < 0 ? -1 : 1;
  cos *= sign;
  let wa = 1 - t;
  let wb = t;
  if (cos < 0.9999 && t !== 0 && t !== 1) {
    const angle = Math.acos(cos);
    const s = 1 / Math.sin(angle);
    wa = Math.sin((1 - t) * angle) * s;
    wb = Math.sin(t * angle) * s;
  }
  wb *= sign;
  const x = wa * a[ao] + wb * b[bo];
  const y = wa * a[ao + 1] + wb * b[bo + 1];
  const z = wa * a[ao + 2] + wb * b[bo + 2];
  const w = wa * a[ao + 3] + wb * b[bo + 3];
  dst[d] = x;
  dst[d + 1] = y;
  dst[d + 2] = z;
  dst[d + 3] = w;
  if (t !== 0 && t !== 1) normalizeQuatFlat(dst, d);
  return dst;
}

/** Rotation vector (axis × angle, radians, short way) of the unit quaternion at q[o]; the map's inverse is `expQuatFlat`. */
export function logQuatFlat(dst: Floats, d: number, q: Floats, o: number): Floats {
  const s = q[o + 3] < 0 ? -1 : 1;
  const x = q[o] * s;
  const y = q[o + 1] * s;
  const z = q[o + 2] * s;
  const n = length3(x, y, z);
  const k = n < 1e-12 ? 2 : (2 * Math.atan2(n, q[o + 3] * s)) / n;
  dst[d] = x * k;
  dst[d + 1] = y * k;
  dst[d + 2] = z * k;
  return dst;
}

/** Unit quaternion of a rotation vector (radians). */
export function expQuatFlat(dst: Floats, d: number, v: Floats, o: number): Floats {
  const x = v[o];
  const y = v[o + 1];
  const z = v[o + 2];
  const angle = length3(x, y, z);
  const k = angle < 1e-12 ? 0.5 : Math.sin(angle / 2) / angle;
  dst[d] = x * k;
  dst[d + 1] = y * k;
  dst[d + 2] = z * k;
  dst[d + 3] = Math.cos(angle / 2);
  return dst;
}
