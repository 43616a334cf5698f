import { solveSymmetricMutable } from "../math/solve.ts";

/** Least-squares equations of n unknowns that do not depend on what heaves the body, and what ties them to it on each frame. */
export interface BesideHeave {
  /** normal equations (lower triangle, row by row) and right-hand side, with what is known of the unknowns beforehand */
  readonly a: Float64Array;
  readonly b: Float64Array;
  /** [frame][n + 1]: sums of weight · what an observation has of each unknown, and of weight · height; [frame]: of weights */
  readonly sums: Float64Array;
  readonly total: Float64Array;
  readonly fps: number;
}

/** The unknowns, and the heave that goes with them [frame], metres. */
export interface SolvedBesideHeave {
  readonly solution: Float64Array;
  readonly heave: Float64Array;
  /** of its steady bob, Hz; null where it is likelier to have none */
  readonly rate: number | null;
}

/** Seconds between the knots of the heave's spline. */
const KNOTS = 0.08;
/** The spline is within so many times the heave's size of none. */
const WITHIN = 3;
/** How rough it may be: third differences of its coefficients as shares of the heave's size. Those of 2 Hz are as large as it. */
const ROUGH = [1, 0.1, 0.01] as const;
/** Steady bobs that are looked for: Hz, how many to a turn more over the clip, and of how many that seem strong it is asked how likely they are. No clip longer than this (seconds) bobs alike from end to end. */
const BOBS = [0.5, 3.4] as const;
const A_TURN = 4;
const TOPS = 4;
const LONGEST = 30;
/** A heave no larger than this is no bob, metres. */
const NO_BOB = 0.0005;
/** Halvings of the step in which a bob's rate is sharpened. */
const SHARPENED = 6;

/**
 * The unknowns of such equations beside a heave that is known to be about as large as `size` (metres, 1 σ), and smooth: it does not jump as one foot takes over from the other. It is a
 * cubic spline with a penalty on third differences (Eilers & Marx, Flexible Smoothing with B-splines and Penalties, 1996), with or without a steady bob; how rough the one and how quick the other is is
 * what makes the heights likeliest (marginal likelihood of the Gaussian model; Rasmussen & Williams, Gaussian Processes for Machine Learning, 2006, chapter 5). A bob's rate is looked for near `about` (Hz) if it is
 * known so far. Null where nothing solves them.
 */
export function solveBesideHeave(given: BesideHeave, size: number, about: number | null = null): SolvedBesideHeave | null {
  const n = given.b.length;
  let best = scored(given, eliminated(given, ROUGH[0] * size, size), size, null);
  const seconds = (given.total.length - 1) / given.fps;
  if (best && seconds <= LONGEST && size > NO_BOB) best = withBob(given, size, seconds, best, about);
  return best && { solution: best.solution.subarray(0, n), heave: heaveOf(best, given), rate: best.rate };
}

/** The likeliest with a steady bob, if likelier than without. */
function withBob(given: BesideHeave, size: number, seconds: number, without: Scored, about: number | null): Scored {
  let best = without;
  const stiff = eliminated(given, ROUGH[1] * size, size);
  const of = [without.eliminated, stiff, eliminated(given, ROUGH[2] * size, size)];
  let step = 1 / (A_TURN * seconds);
  let [rate, most] = [0, Number.NEGATIVE_INFINITY];
  const consider = (other: number) => {
    const score = scored(given, stiff, size, other)?.score ?? Number.NEGATIVE_INFINITY;
    if (score > most) [rate, most] = [other, score];
  };
  for (const near of about === null ? strongest(heaveOf(without, given), given.fps, step) : [about]) for (let k = -2; k <= 2; k++) consider(near + k * step);
  for (let k = 0; k < SHARPENED; k++) {
    step /= 2;
    const middle = rate;
    consider(middle - step);
    consider(middle + step);
  }
  for (const one of of) {
    const solved = scored(given, one, size, rate);
    if (solved && solved.score > best.score) best = solved;
  }
  return best;
}

/** Rates, Hz and so far apart, at which a heave swings most: the tops of its spectrum. */
function strongest(heave: Float64Array, fps: number, step: number): number[] {
  const every = Math.max(1, Math.floor(KNOTS * fps));
  const from = Math.max(BOBS[0], 2 * step);
  const power = Array.from({ length: Math.max(1, Math.floor((BOBS[1] - from) / step) + 1) }, (_, i) => {
    const turn = (2 * Math.PI * (from + i * step)) / fps;
    let [s, c] = [0, 0];
    for (let f = 0; f < heave.length; f += every) {
      s += heave[f] * Math.sin(turn * f);
      c += heave[f] * Math.cos(turn * f);
    }
    return s * s + c * c;
  });
  const tops = power.flatMap((p, i) => (p >= (power[i - 1] ?? 0) && p >= (power[i + 1] ?? 0) ? [i] : []));
  return tops
    .sort((a, b) => power[b] - power[a])
    .slice(0, TOPS)
    .map((i) => from + i * step);
}

/** Frames that a knot of the spline reaches to on either side. */
const ORDER = 4;

/** With P the equations of the spline's coefficients (P = L·Lᵀ, L [coefficient][how far back]), B what they have in common with the unknowns and p with the heights. */
interface Eliminated {
  readonly knot: number;
  readonly band: Float64Array;
  /** L⁻¹·(B, p) [coefficient][n + 1] */
  readonly common: Float64Array;
  /** log of P's determinant over that of what was known of the coefficients before */
  readonly logP: number;
}

function eliminated({ b, sums, total, fps }: BesideHeave, rough: number, size: number): Eliminated {
  const width = b.length + 1;
  const knot = KNOTS * fps;
  const knots = Math.ceil((total.length - 1) / knot) + ORDER;
  const band = new Float64Array(knots * ORDER);
  const third = [-1, 3, -3, 1];
  for (let k = 0; k < knots; k++) {
    band[k * ORDER] += 1 / (WITHIN * size) ** 2;
    if (k + 3 < knots) for (let i = 0; i < ORDER; i++) for (let j = 0; j <= i; j++) band[(k + i) * ORDER + i - j] += (third[i] * third[j]) / rough ** 2;
  }
  const before = factorBand(band.slice(), knots);
  const common = new Float64Array(knots * width);
  eachKnot(total, knot, (f, first, basis) => {
    for (let i = 0; i < ORDER; i++) {
      for (let j = 0; j <= i; j++) band[(first + i) * ORDER + i - j] += total[f] * basis[i] * basis[j];
      for (let r = 0; r < width; r++) common[(first + i) * width + r] += basis[i] * sums[f * width + r];
    }
  });
  const logP = factorBand(band, knots) - before;
  forward(band, common, knots, width);
  return { knot, band, common, logP };
}

/** A solution: the unknowns, with those of a steady bob (of so many Hz; sine and cosine) behind them, and the logarithm of how likely it makes the heights, up to a constant. */
interface Scored {
  readonly eliminated: Eliminated;
  readonly rate: number | null;
  /** L⁻¹ · what the spline has in common with the bob [coefficient][2] */
  readonly waves: Float64Array;
  readonly solution: Float64Array;
  readonly score: number;
}

/** The solution with a steady bob of so many Hz, or none. */
function scored({ a, b, sums, total, fps }: BesideHeave, eliminated: Eliminated, size: number, rate: number | null): Scored | null {
  const { knot, band, common, logP } = eliminated;
  const n = b.length;
  const width = n + 1;
  const knots = band.length / ORDER;
  const all = rate === null ? n : n + 2;
  const [m, x] = [new Float64Array(all * all), new Float64Array(all)];
  for (let r = 0; r < n; r++) for (let c = 0; c <= r; c++) m[r * all + c] = a[r * n + c];
  x.set(b);
  const waves = new Float64Array(knots * 2);
  let told = 0;
  for (let o = 0; o < knots * width; o += width) {
    told += common[o + n] ** 2;
    for (let r = 0; r < n; r++) {
      x[r] -= common[o + r] * common[o + n];
      for (let c = 0; c <= r; c++) m[r * all + c] -= common[o + r] * common[o + c];
    }
  }
  if (rate !== null) {
    const turn = (2 * Math.PI * rate) / fps;
    m[n * all + n] = m[(n + 1) * all + n + 1] = 1 / size ** 2;
    eachKnot(total, knot, (f, first, basis) => {
      const [s, c] = [Math.sin(turn * f), Math.cos(turn * f)];
      for (let i = 0; i < ORDER; i++) {
        waves[(first + i) * 2] += basis[i] * total[f] * s;
        waves[(first + i) * 2 + 1] += basis[i] * total[f] * c;
      }
      for (let r = 0; r < n; r++) {
        m[n * all + r] += s * sums[f * width + r];
        m[(n + 1) * all + r] += c * sums[f * width + r];
      }
      m[n * all + n] += total[f] * s * s;
      m[(n + 1) * all + n] += total[f] * s * c;
      m[(n + 1) * all + n + 1] += total[f] * c * c;
      x[n] += s * sums[f * width + n];
      x[n + 1] += c * sums[f * width + n];
    });
    forward(band, waves, knots, 2);
    for (let k = 0, o = 0; k < knots; k++, o += width) {
      const [s, c] = [waves[k * 2], waves[k * 2 + 1]];
      for (let r = 0; r < n; r++) {
        m[n * all + r] -= s * common[o + r];
        m[(n + 1) * all + r] -= c * common[o + r];
      }
      m[n * all + n] -= s * s;
      m[(n + 1) * all + n] -= s * c;
      m[(n + 1) * all + n + 1] -= c * c;
      x[n] -= s * common[o + n];
      x[n + 1] -= c * common[o + n];
    }
  }
  const right = x.slice();
  if (!solveSymmetricMutable(m, x, all)) return null;
  let score = (told - logP) / 2 - (rate === null ? 0 : 2 * Math.log(size));
  for (let r = 0; r < all; r++) score += (x[r] * right[r]) / 2 - Math.log(m[r * all + r]);
  return { eliminated, rate, waves, solution: x, score };
}

/** The heave of a solution [frame]: its spline, c = L⁻ᵀ·(L⁻¹p − L⁻¹B·x), and its bob. */
function heaveOf({ eliminated: { knot, band, common }, rate, waves, solution }: Scored, { b, total, fps }: BesideHeave): Float64Array {
  const n = b.length;
  const c = new Float64Array(band.length / ORDER);
  for (let k = c.length - 1; k >= 0; k--) {
    let sum = common[k * (n + 1) + n];
    for (let r = 0; r < n; r++) sum -= common[k * (n + 1) + r] * solution[r];
    if (rate !== null) sum -= waves[k * 2] * solution[n] + waves[k * 2 + 1] * solution[n + 1];
    for (let d = 1; d < ORDER && k + d < c.length; d++) sum -= band[(k + d) * ORDER + d] * c[k + d];
    c[k] = sum / band[k * ORDER];
  }
  const turn = (2 * Math.PI * (rate ?? 0)) / fps;
  const out = new Float64Array(total.length);
  const basis = new Float64Array(ORDER);
  for (let f = 0; f < out.length; f++) {
    const first = basisAt(basis, f / knot);
    for (let i = 0; i < ORDER; i++) out[f] += basis[i] * c[first + i];
    if (rate !== null) out[f] += solution[n] * Math.sin(turn * f) + solution[n + 1] * Math.cos(turn * f);
  }
  return out;
}

/** Every frame on which something is seen, with the first of the four coefficients that its spline depends on, and how much on each. */
function eachKnot(total: Float64Array, knot: number, seen: (frame: number, first: number, basis: Float64Array) => void): void {
  const basis = new Float64Array(ORDER);
  for (let f = 0; f < total.length; f++) {
    if (total[f] === 0) continue;
    seen(f, basisAt(basis, f / knot), basis);
  }
}

/** The four cubic B-splines over a moment, in stretches between knots; returns the first one's. */
function basisAt(out: Float64Array, moment: number): number {
  const first = Math.floor(moment);
  const u = moment - first;
  const v = 1 - u;
  out[0] = (v * v * v) / 6;
  out[1] = (4 - 6 * u * u + 3 * u * u * u) / 6;
  out[2] = (4 - 6 * v * v + 3 * v * v * v) / 6;
  out[3] = (u * u * u) / 6;
  return first;
}

/** Cholesky's factor of a banded matrix [row][how far back], in its place; returns the logarithm of the determinant. */
function factorBand(band: Float64Array, rows: number): number {
  let log = 0;
  for (let k = 0; k < rows; k++) {
    for (let d = Math.min(k, ORDER - 1); d >= 0; d--) {
      let sum = band[k * ORDER + d];
      for (let e = d + 1; e < ORDER && e <= k; e++) sum -= band[k * ORDER + e] * band[(k - d) * ORDER + e - d];
      band[k * ORDER + d] = d > 0 ? sum / band[(k - d) * ORDER] : Math.sqrt(sum);
    }
    log += 2 * Math.log(band[k * ORDER]);
  }
  return log;
}

/** L⁻¹ times columns [row][width], in their place. */
function forward(band: Float64Array, columns: Float64Array, rows: number, width: number): void {
  for (let k = 0; k < rows; k++)
    for (let r = 0; r < width; r++) {
      let sum = columns[k * width + r];
      for (let d = 1; d < ORDER && d <= k; d++) sum -= band[k * ORDER + d] * columns[(k - d) * width + r];
      columns[k * width + r] = sum / band[k * ORDER];
    }
}
