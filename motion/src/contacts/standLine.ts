import { solveSymmetricMutable } from "../math/solve.ts";

/** A part that stands, over the frames of its stand, and what carries it. */
export interface Stand {
  /** first frame, and how many */
  readonly start: number;
  readonly length: number;
  /** the part's course over the clip [frame][3] */
  readonly course: Float64Array;
  /** courses [frame][3] of the joints that carry it, up to the root */
  readonly carriers: readonly Float64Array[];
  /** rise of the ground per metre along x and z */
  readonly slope: readonly [number, number];
}

/** Weights [frame of the stand][3] of the places whose sum is the velocity along x and along z, m/s, and the covariance of both (xx, xz, zz). */
export interface StandWeights {
  readonly along: readonly [Float64Array, Float64Array];
  readonly covariance: readonly [number, number, number];
}

/** What places of a stand differ by beyond the trembling of joints, metres: any way, and in height. */
const ANY_WAY = 0.0002;
const IN_HEIGHT = 0.001;

/** How what carries a part trembles: its joints by an angle about each axis, radians, and the body as a whole by a way along each, metres (1 σ). */
export interface Trembling {
  readonly angle: number;
  readonly way: number;
}

/** Mean variance of a part's place along a level axis over a stand where each joint that carries it trembles by one radian about any axis, m². */
export function leverage({ start, length, course, carriers }: Stand): number {
  const m = new Float64Array(6);
  let sum = 0;
  for (let f = start; f < start + length; f++) {
    tremblingOf(m, course, carriers, f);
    sum += (m[0] + m[5]) / 2;
  }
  return sum / length;
}

/**
 * How fast a part moves along x and z while it stands, as weights of its places; null where there are too few. A leg that trembles takes its foot across the way to the joints that carry it, and hardly along: a place that is known to be on the ground tells where it
 * is the better the more the leg leans. So the straight line on the ground at one height is fitted that makes the places likeliest, each with the covariance
 * σ²·Σ [r]×ᵀ[r]× of the carriers' ways r to it (generalised least squares; Aitken 1935). Without trembling that is the usual line of least squares.
 * Where the body's own place trembles as well, the foot does so any way. `uneven` is what heights differ by of their own, metres.
 */
export function standWeights(stand: Stand, trembling: Trembling, uneven: number, fps: number): StandWeights | null {
  const { length } = stand;
  const seen = seenFrames(stand, trembling, uneven);
  const times = Float64Array.from({ length }, (_, i) => (i - (length - 1) / 2) / fps);
  // Seen from within: what was found to rest may reach a frame into the swing, and shows it by lying far off the line through the others.
  const edge = Math.min(2, (length - 4) / 2);
  const counts = Float64Array.from({ length }, (_, i) => Math.min(1, Math.max(0, Math.min(i, length - 1 - i) + 1 - edge)));
  for (let round = 0; round < ROUNDS; round++) if (!reweigh(counts, stand, seen, times)) return null;
  const normal = normalOf(seen, counts, times);
  const unknowns = [VX, VZ].map((u) => {
    const unit = new Float64Array(5);
    unit[u] = 1;
    return solveSymmetricMutable(normal.slice(), unit, 5) ? unit : null;
  });
  const [x, z] = unknowns;
  if (!x || !z) return null;
  const weights = (of: Float64Array) => {
    const out = new Float64Array(length * 3);
    for (let i = 0; i < length; i++)
      for (let k = 0; k < 3; k++) {
        const { told } = seen;
        const [first, second] = [of[X] + of[VX] * times[i], of[Z] + of[VZ] * times[i]];
        out[i * 3 + k] = counts[i] * (first * told[i * 9 + k] + second * told[i * 9 + 3 + k] + of[C] * told[i * 9 + 6 + k]);
      }
    return out;
  };
  return { along: [weights(x), weights(z)], covariance: [x[VX], x[VZ], z[VZ]] };
}

/** The unknowns: place and velocity on x and z, and the height where both are none. */
const [X, VX, Z, VZ, C] = [0, 1, 2, 3, 4];
/** Fits of a line before the last, each with frames weighted by how far they are off the one before. */
const ROUNDS = 3;
/** A frame so many deviations off counts for nothing (Tukey's biweight). */
const FAR_OFF = 4.5;

/**
 * What each frame tells. A place on the ground is A·(x, z, c), the columns of A being (1, slope on x, 0), (0, slope on z, 1) and (0, 1, 0); with the inverse W of
 * the place's covariance: W [frame][9], AᵀW [frame][9], and AᵀWA [frame][6] as xx, xz, xc, zz, zc, cc.
 */
interface Seen {
  readonly precision: Float64Array;
  readonly told: Float64Array;
  readonly squares: Float64Array;
}

function seenFrames({ start, length, course, carriers, slope: [sx, sz] }: Stand, trembling: Trembling, uneven: number): Seen {
  const v = trembling.angle ** 2;
  const anyWay = ANY_WAY ** 2 + trembling.way ** 2;
  const precision = new Float64Array(length * 9);
  const told = new Float64Array(length * 9);
  const squares = new Float64Array(length * 6);
  const m = new Float64Array(6);
  const height = IN_HEIGHT ** 2 + trembling.way ** 2 + uneven * uneven;
  for (let i = 0, o = 0, s = 0; i < length; i++, o += 9, s += 6) {
    tremblingOf(m, course, carriers, start + i);
    invertSymmetric3(precision, o, v * m[0] + anyWay, v * m[1], v * m[2], v * m[3] + height, v * m[4], v * m[5] + anyWay);
    for (let k = 0; k < 3; k++) {
      const [x, y, z] = [precision[o + k], precision[o + 3 + k], precision[o + 6 + k]];
      told[o + k] = x + sx * y;
      told[o + 3 + k] = z + sz * y;
      told[o + 6 + k] = y;
    }
    squares[s] = told[o] + sx * told[o + 1];
    squares[s + 1] = told[o + 2] + sz * told[o + 1];
    squares[s + 2] = told[o + 1];
    squares[s + 3] = told[o + 5] + sz * told[o + 4];
    squares[s + 4] = told[o + 4];
    squares[s + 5] = told[o + 7];
  }
  return { precision, told, squares };
}

/** Normal equations of the five unknowns, row by row. */
function normalOf({ squares }: Seen, counts: Float64Array, times: Float64Array): Float64Array {
  const out = new Float64Array(25);
  for (let i = 0, s = 0; i < counts.length; i++, s += 6) {
    const w = counts[i];
    if (w === 0) continue;
    const t = w * times[i];
    const tt = t * times[i];
    const [xx, xz, xc, zz, zc, cc] = [squares[s], squares[s + 1], squares[s + 2], squares[s + 3], squares[s + 4], squares[s + 5]];
    out[0] += w * xx;
    out[1] += t * xx;
    out[2] += w * xz;
    out[3] += t * xz;
    out[4] += w * xc;
    out[6] += tt * xx;
    out[8] += tt * xz;
    out[9] += t * xc;
    out[12] += w * zz;
    out[13] += t * zz;
    out[14] += w * zc;
    out[18] += tt * zz;
    out[19] += t * zc;
    out[24] += w * cc;
  }
  out[7] = out[3];
  for (let u = 1; u < 5; u++) for (let v = 0; v < u; v++) out[u * 5 + v] = out[v * 5 + u];
  return out;
}

/** Sets how much each frame counts, by how far it is off the line through them in deviations of its own; false where there is none. */
function reweigh(counts: Float64Array, { start, course, slope: [sx, sz] }: Stand, seen: Seen, times: Float64Array): boolean {
  const { precision: p, told } = seen;
  const line = new Float64Array(5);
  for (let i = 0, o = start * 3, q = 0; i < counts.length; i++, o += 3, q += 9) {
    const [x, y, z] = [course[o], course[o + 1], course[o + 2]];
    const onX = counts[i] * (told[q] * x + told[q + 1] * y + told[q + 2] * z);
    const onZ = counts[i] * (told[q + 3] * x + told[q + 4] * y + told[q + 5] * z);
    line[X] += onX;
    line[VX] += times[i] * onX;
    line[Z] += onZ;
    line[VZ] += times[i] * onZ;
    line[C] += counts[i] * (told[q + 6] * x + told[q + 7] * y + told[q + 8] * z);
  }
  if (!solveSymmetricMutable(normalOf(seen, counts, times), line, 5)) return false;
  for (let i = 0, o = start * 3, q = 0; i < counts.length; i++, o += 3, q += 9) {
    const [onX, onZ] = [line[X] + line[VX] * times[i], line[Z] + line[VZ] * times[i]];
    const x = course[o] - onX;
    const y = course[o + 1] - (sx * onX + sz * onZ + line[C]);
    const z = course[o + 2] - onZ;
    const square = x * (p[q] * x + 2 * p[q + 1] * y + 2 * p[q + 2] * z) + y * (p[q + 4] * y + 2 * p[q + 5] * z) + z * p[q + 8] * z;
    counts[i] = Math.max(0, 1 - square / FAR_OFF ** 2) ** 2;
  }
  return true;
}

/**
 * m = the covariance (xx, xy, xz, yy, yz, zz; m²) of a part's place on a frame where each joint that carries it trembles by one radian about any axis:
 * Σ [r]×ᵀ[r]× over the ways r from them to it.
 */
export function tremblingOf(m: Float64Array, course: Float64Array, carriers: readonly Float64Array[], f: number): void {
  const o = f * 3;
  m.fill(0);
  for (const of of carriers) {
    const x = course[o] - of[o];
    const y = course[o + 1] - of[o + 1];
    const z = course[o + 2] - of[o + 2];
    m[0] += y * y + z * z;
    m[1] -= x * y;
    m[2] -= x * z;
    m[3] += x * x + z * z;
    m[4] -= y * z;
    m[5] += x * x + y * y;
  }
}

/** out[o..o+9) = the inverse of a symmetric 3×3 matrix of (xx, xy, xz, yy, yz, zz), by cofactors. */
export function invertSymmetric3(out: Float64Array, o: number, a: number, b: number, c: number, d: number, e: number, f: number): void {
  const p = d * f - e * e;
  const q = c * e - b * f;
  const r = b * e - c * d;
  const det = a * p + b * q + c * r;
  const s = (b * c - a * e) / det;
  out.set([p / det, q / det, r / det, q / det, (a * f - c * c) / det, s, r / det, s, (a * d - b * b) / det], o);
}
