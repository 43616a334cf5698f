import { solveSymmetricMutable } from "../math/solve.ts";

/** A part that stands, over the frames of its stand, and what carries it. */
export interface Stand {
  /** first frame, and how many */
  readonly start: number;
  readonly length: number;
  /** the part's course over the clip [frame][3] */
  readonly course: Float64Array;
  /** courses [frame][3] of the joints that carry it */
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
 * `trembling` is σ, radians about each axis; `uneven` is what heights differ by of their own, metres.
 */
export function standWeights(stand: Stand, trembling: number, uneven: number, fps: number): StandWeights | null {
  const { length } = stand;
  const precisions = precisionsOf(stand, trembling, uneven);
  // Seen from within: what was found to rest may reach a frame into the swing, and shows it by lying far off the line through the others.
  const edge = Math.min(2, (length - 4) / 2);
  let counts: Float64Array = Float64Array.from({ length }, (_, i) => Math.min(1, Math.max(0, Math.min(i, length - 1 - i) + 1 - edge)));
  for (let round = 0; ; round++) {
    const rows = lineRows(stand, precisions, counts, fps);
    if (!rows || round === ROUNDS) return rows && { along: [rows.weights[1], rows.weights[3]], covariance: rows.covariance };
    counts = reweighted(stand, precisions, rows.weights, fps);
  }
}

/** Fits of a line before the last, each with frames weighted by how far they are off the one before. */
const ROUNDS = 3;
/** A frame so many deviations off counts for nothing (Tukey's biweight). */
const FAR_OFF = 4.5;

/** The inverse covariance [frame][9] of each place. */
function precisionsOf({ start, length, course, carriers }: Stand, trembling: number, uneven: number): Float64Array {
  const v = trembling * trembling;
  const out = new Float64Array(length * 9);
  const m = new Float64Array(6);
  const height = IN_HEIGHT ** 2 + uneven * uneven;
  for (let i = 0; i < length; i++) {
    tremblingOf(m, course, carriers, start + i);
    invertSymmetric3(out, i * 9, v * m[0] + ANY_WAY ** 2, v * m[1], v * m[2], v * m[3] + height, v * m[4], v * m[5] + ANY_WAY ** 2);
  }
  return out;
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

/** How a place at a time depends on the five unknowns, place and velocity on x and z and the height: rows for x, y, z. */
function designAt(t: number, [sx, sz]: Stand["slope"]): readonly number[] {
  return [1, t, 0, 0, 0, sx, sx * t, sz, sz * t, 1, 0, 0, 1, t, 0];
}

/** The unknowns as weights of the places, [unknown][frame · 3 + axis], and the covariance of both velocities. */
function lineRows({ length, slope }: Stand, precisions: Float64Array, counts: Float64Array, fps: number) {
  const normal = new Float64Array(25);
  const design = new Float64Array(length * 15);
  for (let i = 0; i < length; i++) {
    const h = designAt((i - (length - 1) / 2) / fps, slope);
    for (let u = 0; u < 5; u++)
      for (let k = 0; k < 3; k++) {
        let sum = 0;
        for (let r = 0; r < 3; r++) sum += counts[i] * h[r * 5 + u] * precisions[i * 9 + r * 3 + k];
        design[(u * length + i) * 3 + k] = sum;
        for (let v = 0; v < 5; v++) normal[u * 5 + v] += sum * h[k * 5 + v];
      }
  }
  const weights: Float64Array[] = [];
  const inverse: Float64Array[] = [];
  for (let u = 0; u < 5; u++) {
    const unit = new Float64Array(5);
    unit[u] = 1;
    if (!solveSymmetricMutable(normal.slice(), unit, 5)) return null;
    const row = new Float64Array(length * 3);
    for (let v = 0; v < 5; v++) for (let i = 0; i < row.length; i++) row[i] += unit[v] * design[v * length * 3 + i];
    weights.push(row);
    inverse.push(unit);
  }
  const covariance: StandWeights["covariance"] = [inverse[1][1], inverse[1][3], inverse[3][3]];
  return { weights, covariance };
}

/** How much each frame counts, by how far it is off a line in deviations of its own. */
function reweighted({ start, length, course, slope }: Stand, precisions: Float64Array, weights: readonly Float64Array[], fps: number): Float64Array {
  const at = start * 3;
  const unknowns = weights.map((row) => row.reduce((sum, w, i) => sum + w * course[at + i], 0));
  return Float64Array.from({ length }, (_, i) => {
    const h = designAt((i - (length - 1) / 2) / fps, slope);
    const off = [0, 1, 2].map((k) => course[at + i * 3 + k] - unknowns.reduce((sum, u, v) => sum + h[k * 5 + v] * u, 0));
    let square = 0;
    for (let k = 0; k < 3; k++) for (let r = 0; r < 3; r++) square += off[k] * precisions[i * 9 + k * 3 + r] * off[r];
    return Math.max(0, 1 - square / FAR_OFF ** 2) ** 2;
  });
}

/** out = the inverse of a symmetric 3×3 matrix, by cofactors. */
export function invertSymmetric3(out: Float64Array, o: number, a: number, b: number, c: number, d: number, e: number, f: number): void {
  const p = d * f - e * e;
  const q = c * e - b * f;
  const r = b * e - c * d;
  const det = a * p + b * q + c * r;
  const s = (b * c - a * e) / det;
  out.set([p / det, q / det, r / det, q / det, (a * f - c * c) / det, s, r / det, s, (a * d - b * b) / det], o);
}
