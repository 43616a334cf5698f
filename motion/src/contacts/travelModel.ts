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
/** No speed is wrong by more than this share of itself; what moves with the body by twice that or more trembles with it. */
const MOST_SHARE = 0.4;
/** A model that another round changes by less than this, share and m/s, stays. */
const SETTLED = 1e-9;
/** How much more what contacts differ by of their own stands against a model than chance does. */
const OWN_COUNTS = 2.5;
/** Of the noise of contacts that are still sought, so much is taken for no more than noise. */
const SOUGHT_NOISE = 0.5;
/** Within a stand so many frames tell no more than one does, and none tells more exactly than this, m/s. */
const ALIKE_FRAMES = 6;
const LEAST_WITHIN = 0.0002;
/** Least spread of a contact's mean velocity, m/s, both axes together; and what it is where they are normal, against the median of their sizes. */
const LEAST_SPREAD = 0.002;
const MEDIAN_TO_SPREAD = 1.2;

/**
 * Fits velocity = share · root + drift to what contacts show (weighted least squares with a prior, contacts re-weighted by Tukey's biweight), and
 * believes each by its size in standard errors over the contacts: nothing up to one, whole from two on, smoothly in between, so that nothing
 * jumps where it becomes believed. `own` is the variance each way of what contacts move by of their own beside that, (m/s)². `root` is the root's velocity [frame][2]. Contacts that are still `sought` may all reach into the swing alike, and are believed with more reserve.
 */
export function fitTravel(evidence: readonly SpanEvidence[], root: Float64Array, sought = false): TravelModel & { readonly own: number } {
  const spans = evidence.map((span): Span => ({ ...span, within: withinSpan(span, root) }));
  if (spans.length === 0) return { share: 0, drift: [0, 0], own: 0 };
  const usual = fitBy(spans, sought, DRIFT_SIGMA);
  // A wrong speed may also have been put in evenly: then parts do not move as the body does within their stands, sway and surge, and it is a drift as large as a speed.
  const pace = Math.hypot(...([0, 1] as const).map((k) => median(spans.map((s) => s.body[k]))));
  if (SHARE_SIGMA * pace <= DRIFT_SIGMA) return usual;
  const even = fitBy(spans, sought, SHARE_SIGMA * pace);
  const better = Math.sqrt(Math.max(0, misfit(spans, usual, even) - misfit(spans, even, even)));
  const w = Math.min(usual.told, even.told) * quinticStep(better / EVENLY - 1);
  if (w === 0) return usual;
  const between = (a: number, b: number) => a + w * (b - a);
  return {
    share: between(usual.share, even.share),
    drift: [between(usual.drift[0], even.drift[0]), between(usual.drift[1], even.drift[1])],
    own: between(usual.own, even.own),
  };
}

/** From so many standard errors on by which it explains contacts better, and wholly from twice that on, a wrong travel is an even one. */
const EVENLY = 1.5;

interface Span extends SpanEvidence {
  readonly within: WithinSpan;
}

/** A model, what contacts count by it and how much noise they have: of their means, and within them, (m/s)². */
interface Fitted extends TravelModel {
  readonly own: number;
  readonly weights: readonly number[];
  readonly noise: readonly [number, number];
  /** how far what contacts do within their stands tells anything of a speed */
  readonly told: number;
}

/** By how much contacts are off a model, in squares of the standard errors that they have by another. */
function misfit(spans: readonly Span[], model: TravelModel, { weights, noise: [between, within] }: Fitted): number {
  return spans.reduce((sum, s, i) => {
    const [x, z] = [0, 1].map((k) => s.moves[k] - model.share * s.body[k] - model.drift[k]);
    return sum + weights[i] * (squareOf(s.sure, x, z) / between + leftWithin(s.within, model.share) / within);
  }, 0);
}

/** The same with drifts of so much before evidence, m/s (1 σ). */
function fitBy(spans: readonly Span[], sought: boolean, driftSigma: number): Fitted {
  let model = [0, 0, 0];
  let counts = countsOf(spans, 0);
  let robust = spans.map(() => 1);
  let spread = LEAST_SPREAD;
  /** What contacts differ by beyond their noise, (m/s)² an axis: their own (feet that roll or creep). */
  let own = 0;
  let noiseWithin = 0;
  let told = 0;
  for (let round = 0; round < 8; round++) {
    // Before the first fit contacts may be off by as much as the travel is.
    const variance = round === 0 ? 0.02 ** 2 : spread ** 2;
    const a = [variance / SHARE_SIGMA ** 2, 0, 0, 0, variance / driftSigma ** 2, 0, 0, 0, variance / driftSigma ** 2];
    const b = [0, 0, 0];
    // A steady pace cannot tell a wrong speed from a drift, but the body's goes up and down within each stand.
    const inner = steadyWithin(spans, model[0]).map((w, i) => w * robust[i]);
    const [lever, pull, all] = spans.reduce(
      ([l, p, o], { within }, i) => [l + inner[i] * within.lever, p + inner[i] * within.pull, o + inner[i] * within.all],
      [0, 0, 0],
    );
    // What the likeliest share leaves over within them is their noise: what another does, would be that one's fault. But a body that trembles takes its feet along wholly.
    const likeliest = lever > 0 ? pull / lever : 0;
    told = 1 - quinticStep((Math.abs(likeliest) - MOST_SHARE) / MOST_SHARE);
    const leaves = (share: number) => leftWithin({ lever, pull, all, frames: 0 }, share);
    const left = leaves(model[0]) + told * (leaves(likeliest) - leaves(model[0]));
    const frames = spans.reduce((sum, { within }, i) => sum + inner[i] * within.frames, 0);
    noiseWithin = ALIKE_FRAMES * Math.max(LEAST_WITHIN ** 2, left / Math.max(1e-9, frames));
    const exact = round === 0 || frames === 0 ? 0 : (told * variance) / noiseWithin;
    a[0] += exact * lever;
    b[0] += exact * pull;
    spans.forEach((s, i) => {
      const w = robust[i] * counts[i];
      const rows = [
        [s.body[0], 1, 0],
        [s.body[1], 0, 1],
      ];
      const [xx, xz, zz] = s.sure;
      for (let p = 0; p < 3; p++) {
        const [x, z] = [xx * rows[0][p] + xz * rows[1][p], xz * rows[0][p] + zz * rows[1][p]];
        for (let q = 0; q < 3; q++) a[p * 3 + q] += w * (x * rows[0][q] + z * rows[1][q]);
        b[p] += w * (x * s.moves[0] + z * s.moves[1]);
      }
    });
    const before = model;
    model = solve3(a, b) ?? model;
    const off = (s: (typeof spans)[number], k: number) => s.moves[k] - model[0] * s.body[k] - model[1 + k];
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
    const noise = meanOf((i) => counts[i] * spans[i].variance);
    const beyond = (spread ** 2 - LEAST_SPREAD ** 2) / 2 - (sought ? SOUGHT_NOISE : 1) * noise;
    own = beyond > 0 ? beyond / meanOf((i) => counts[i]) : 0;
    counts = countsOf(spans, own);
    if (round > 1 && model.every((v, i) => Math.abs(v - before[i]) < SETTLED)) break;
  }
  const weights = counts.map((w, i) => robust[i] * w);
  const count = weights.reduce((sum, w) => sum + w, 0);
  const lever = spans.reduce((sum, s, i) => sum + weights[i] * squareOf(s.sure, s.body[0], s.body[1]), 0);
  const chance = spread ** 2 * (count > 1.5 ? count / (count - 1) : 3);
  // What is contacts' own does not average out: it stands against the whole.
  const against = 2 * OWN_COUNTS * own;
  /** How far something is believed whose square is so many times its variance. */
  const believed = (square: number) => quinticStep(Math.sqrt(square) - 1);
  const sureness = spans.reduce((sum, s, i) => sum + weights[i] * squareOf(s.sure, model[1], model[2]), 0);
  const kept = believed(sureness / (chance + against * count));
  const drift = [kept * model[1], kept * model[2]] as const;
  const noise = [spread ** 2, noiseWithin] as const;
  if (lever === 0) return { share: 0, drift, own, weights: robust, noise, told };
  // What is not believed of a drift is the share's: a steady pace cannot tell the two apart.
  const [x, z] = [model[1] - drift[0], model[2] - drift[1]];
  const others =
    spans.reduce((sum, { sure: [xx, xz, zz], body }, i) => sum + weights[i] * (body[0] * (xx * x + xz * z) + body[1] * (xz * x + zz * z)), 0) / lever;
  const share = model[0] + others;
  return { share: share * believed((share * share * lever) / (chance + against * count)), drift, own, weights: robust, noise, told };
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

/** How much each span counts for what parts do within their stands: one that leaves over far more than most was filled in there, or something pushed it (Tukey's biweight). */
function steadyWithin(spans: readonly Span[], share: number): number[] {
  const left = spans.map(({ within }) => Math.sqrt(leftWithin(within, share) / Math.max(1e-9, within.frames)));
  const far = 4 * Math.max(LEAST_WITHIN, MEDIAN_TO_SPREAD * median(left));
  return left.map((v) => (v >= far ? 0 : (1 - (v / far) ** 2) ** 2));
}

/** What a share of the root's velocity leaves over of a part's within a span, squared. */
function leftWithin({ lever, pull, all }: WithinSpan, share: number): number {
  return Math.max(0, all - 2 * share * pull + share * share * lever);
}
