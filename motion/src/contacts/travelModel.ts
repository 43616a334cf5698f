import { quinticStep } from "../math/ramp.ts";
import { median, solve3 } from "../signal/robust.ts";
import { exactness, type SpanEvidence } from "./travelEvidence.ts";

/** A wrong travel as two numbers: the share of the root's own velocity by which it is wrong, and a drift (x, z; m/s). */
export interface TravelModel {
  readonly share: number;
  readonly drift: readonly [number, number];
}

/** What travel errors a capture may have before evidence: share, and drift in m/s (1 σ). A steady pace cannot tell the two apart. */
const SHARE_SIGMA = 0.2;
const DRIFT_SIGMA = 0.03;
/** How much more what contacts differ by of their own stands against a model than chance does. */
const OWN_COUNTS = 2.5;
/** Of the noise of contacts that are still sought, so much is taken for no more than noise. */
const SOUGHT_NOISE = 0.5;
/** Within a stand so many frames tell no more than one does, and none tells more exactly than this, m/s. */
const ALIKE_FRAMES = 6;
const LEAST_WITHIN = 0.0005;
/** Least spread of a contact's mean velocity, m/s, both axes together; and what it is where they are normal, against the median of their sizes. */
const LEAST_SPREAD = 0.002;
const MEDIAN_TO_SPREAD = 1.2;

/**
 * Fits velocity = share · root + drift to what contacts show (weighted least squares with a prior, contacts re-weighted by Tukey's biweight), and
 * believes each by its size in standard errors over the contacts: nothing up to one, whole from two on, smoothly in between, so that nothing
 * jumps where it becomes believed. `own` is the variance each way of what contacts move by of their own beside that, (m/s)². `root` is the root's velocity [frame][2]. Contacts that are still `sought` may all reach into the swing alike, and are believed with more reserve.
 */
export function fitTravel(evidence: readonly SpanEvidence[], root: Float64Array, sought = false): TravelModel & { readonly own: number } {
  const spans = evidence.map((span) => ({ noise: span.variance, e: span.moves, r: span.body, sure: span.sure, within: withinSpan(span, root) }));
  if (spans.length === 0) return { share: 0, drift: [0, 0], own: 0 };
  let model = [0, 0, 0];
  let counts = countsOf(evidence, 0);
  let robust = spans.map(() => 1);
  let spread = LEAST_SPREAD;
  /** What contacts differ by beyond their noise, (m/s)² an axis: their own (feet that roll or creep). */
  let own = 0;
  for (let round = 0; round < 8; round++) {
    // Before the first fit contacts may be off by as much as the travel is.
    const variance = round === 0 ? 0.02 ** 2 : spread ** 2;
    const a = [variance / SHARE_SIGMA ** 2, 0, 0, 0, variance / DRIFT_SIGMA ** 2, 0, 0, 0, variance / DRIFT_SIGMA ** 2];
    const b = [0, 0, 0];
    // A steady pace cannot tell a wrong speed from a drift, but the body's goes up and down within each stand.
    const [lever, pull, left] = spans.reduce(
      ([l, p, o], { within }, i) => [l + robust[i] * within.lever, p + robust[i] * within.pull, o + robust[i] * leftWithin(within, model[0])],
      [0, 0, 0],
    );
    const frames = spans.reduce((sum, { within }, i) => sum + robust[i] * within.frames, 0);
    const exact = round === 0 || frames === 0 ? 0 : variance / (ALIKE_FRAMES * Math.max(LEAST_WITHIN ** 2, left / frames));
    a[0] += exact * lever;
    b[0] += exact * pull;
    spans.forEach((s, i) => {
      const w = robust[i] * counts[i];
      const rows = [
        [s.r[0], 1, 0],
        [s.r[1], 0, 1],
      ];
      const [xx, xz, zz] = s.sure;
      for (let p = 0; p < 3; p++) {
        const [x, z] = [xx * rows[0][p] + xz * rows[1][p], xz * rows[0][p] + zz * rows[1][p]];
        for (let q = 0; q < 3; q++) a[p * 3 + q] += w * (x * rows[0][q] + z * rows[1][q]);
        b[p] += w * (x * s.e[0] + z * s.e[1]);
      }
    });
    model = solve3(a, b) ?? model;
    const off = (s: (typeof spans)[number], k: number) => s.e[k] - model[0] * s.r[k] - model[1 + k];
    const sizes = spans.map((s, i) => Math.sqrt(counts[i] * squareOf(s.sure, off(s, 0), off(s, 1))));
    spread = Math.max(LEAST_SPREAD, MEDIAN_TO_SPREAD * median(sizes));
    robust = sizes.map((r) => {
      const u = r / (4 * spread);
      return u >= 1 ? 0 : (1 - u * u) ** 2;
    });
    // Each stand's noise as it counts, and how much one counts on the whole.
    const meanOf = (of: (i: number) => number) => {
      const total = robust.reduce((sum, w) => sum + w, 0);
      return total > 0 ? robust.reduce((sum, w, i) => sum + w * of(i), 0) / total : 0;
    };
    const noise = meanOf((i) => counts[i] * spans[i].noise);
    const beyond = (spread ** 2 - LEAST_SPREAD ** 2) / 2 - (sought ? SOUGHT_NOISE : 1) * noise;
    own = beyond > 0 ? beyond / meanOf((i) => counts[i]) : 0;
    counts = countsOf(evidence, own);
  }
  const weights = counts.map((w, i) => robust[i] * w);
  const count = weights.reduce((sum, w) => sum + w, 0);
  const lever = spans.reduce((sum, s, i) => sum + weights[i] * squareOf(s.sure, s.r[0], s.r[1]), 0);
  const chance = spread ** 2 * (count > 1.5 ? count / (count - 1) : 3);
  // What is contacts' own does not average out: it stands against the whole.
  const against = 2 * OWN_COUNTS * own;
  /** How far something is believed whose square is so many times its variance. */
  const believed = (square: number) => quinticStep(Math.sqrt(square) - 1);
  const sureness = spans.reduce((sum, s, i) => sum + weights[i] * squareOf(s.sure, model[1], model[2]), 0);
  const kept = believed(sureness / (chance + against * count));
  const drift = [kept * model[1], kept * model[2]] as const;
  if (lever === 0) return { share: 0, drift, own };
  // What is not believed of a drift is the share's: a steady pace cannot tell the two apart.
  const [x, z] = [model[1] - drift[0], model[2] - drift[1]];
  const others = spans.reduce((sum, { sure: [xx, xz, zz], r }, i) => sum + weights[i] * (r[0] * (xx * x + xz * z) + r[1] * (xz * x + zz * z)), 0) / lever;
  const share = model[0] + others;
  return { share: share * believed((share * share * lever) / (chance + against * count)), drift, own };
}

/**
 * How much each contact counts beside the others. Where legs tremble, how sure each is of its velocity is known (its noise, and what is its `own`, (m/s)² an axis); elsewhere that grows
 * with its length, and a longer one than usual counts for no more than a usual one.
 */
function countsOf(evidence: readonly SpanEvidence[], own: number): number[] {
  const usual = median(evidence.map((e) => exactness(e.length)));
  const noise = median(evidence.map((e) => e.variance));
  return evidence.map((e) => (e.trembles ? (noise + own) / (e.variance + own) : Math.min(1, exactness(e.length) / usual)));
}

/** The square of a velocity, as sure as it is each way. */
export function squareOf([xx, xz, zz]: SpanEvidence["sure"], x: number, z: number): number {
  return xx * x * x + 2 * xz * x * z + zz * z * z;
}

/** Sums over the frames of a span, about their means: of the root's velocity squared, of that times what the part moves by, and of this squared; both axes. */
interface WithinSpan {
  readonly lever: number;
  readonly pull: number;
  readonly all: number;
  readonly frames: number;
}

function withinSpan({ start, velocity, weights, moves, body }: SpanEvidence, root: Float64Array): WithinSpan {
  let [lever, pull, all, frames] = [0, 0, 0, 0];
  for (let i = 0; i < velocity.length; i++) {
    const [w, k] = [weights[i >> 1], i & 1];
    const [dr, de] = [root[start * 2 + i] - body[k], velocity[i] - moves[k]];
    frames += w;
    lever += w * dr * dr;
    pull += w * dr * de;
    all += w * de * de;
  }
  return { lever, pull, all, frames };
}

/** What a share of the root's velocity leaves over of a part's within a span, squared. */
function leftWithin({ lever, pull, all }: WithinSpan, share: number): number {
  return Math.max(0, all - 2 * share * pull + share * share * lever);
}
