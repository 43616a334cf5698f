import { quinticStep } from "../math/ramp.ts";
import { axisOf, runningMean, slopes } from "../signal/filters.ts";
import { median, quantile } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { fillGaps } from "./fillGaps.ts";
import { localCourse } from "./localCourse.ts";
import { type LegsSeen, type SpanEvidence, travelEvidence } from "./travelEvidence.ts";
import { fitTravel, squareOf, type TravelModel } from "./travelModel.ts";

/** Half-width of the running means that smooth the travel error: about half a stand, so that a foot's own wobble does not steer the body. */
const KERNEL_SECONDS = 0.11;

/** The model alone, of the evidence of planted parts and the hips' course [frame][3]: see `travelError`. */
export function travelModel(evidence: readonly SpanEvidence[], rootCourse: Float64Array, fps: number): TravelModel {
  return fitTravel(evidence, courseVelocity(rootCourse, fps));
}

/** How the travel is wrong: a model that holds everywhere, and what planted parts still move by against it, [frame][2], m/s. */
export interface TravelError extends TravelModel {
  readonly rest: Float64Array;
  /** how far every frame of it can be gone by, 0..1: where nothing trembles, and contacts are only sought */
  readonly exact: number;
}

/**
 * How the root's travel is wrong, as planted parts show it. A wrong speed and a drift hold everywhere, flights included. What they leave over is,
 * at each frame, the mean over the planted parts, each weighted by a bump that vanishes at its span's ends; across flights it is interpolated,
 * and smoothed without shift in time. `rootCourse` is the hips' course [frame][3]. For `sought` contacts see `fitTravel`.
 */
export function travelError(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  rootCourse: Float64Array,
  fps: number,
  { legs, sought }: { readonly legs?: LegsSeen; readonly sought?: boolean } = {},
): TravelError {
  const frameCount = rootCourse.length / 3;
  const root = courseVelocity(rootCourse, fps);
  const evidenceKnowing = (known?: Float64Array) => travelEvidence(contacts, courseOf, rootCourse, fps, legs, known);
  // Frames at the ends of spans on which parts do not stand are told from the others once the model is known roughly.
  const rough = fitTravel(evidenceKnowing(), root, sought);
  const evidence = evidenceKnowing(root.map((v, i) => rough.share * v + rough.drift[i & 1]));
  const model = fitTravel(evidence, root, sought);
  const sums = new Float64Array(frameCount * 2);
  const weights = new Float64Array(frameCount);
  const trust = trustIn(evidence, model);
  const exact = sought ? quietness(evidence) * quinticStep(Math.sqrt(model.own) / WANDERS - 1) : 0;
  const noisy = beyondNoise(
    evidence.filter((e) => !e.trembles),
    model,
  );
  const believed = noisy + exact * (1 - noisy);
  evidence.forEach((span, k) => {
    const { start, velocity, weights: own } = span;
    for (let i = 0; i < own.length; i++) weights[start + i] += trust[k] * own[i];
    const whole = span.trembles ? likeliest(span, leftOver(span, model), model.own) : null;
    for (let i = 0, o = start * 2; i < velocity.length; i++, o++)
      sums[o] += trust[k] * own[i >> 1] * (whole?.[i & 1] ?? believed * (velocity[i] - model.share * root[o] - model.drift[i & 1]));
  });
  // A Gaussian-like kernel (three running means) over weighted sums and weights alike: no sample counts for more than its weight.
  const half = Math.max(1, Math.round(KERNEL_SECONDS * fps));
  const smooth = (values: Float64Array) => runningMean(runningMean(runningMean(values, half), half), half);
  const weight = smooth(weights);
  const rest = new Float64Array(frameCount * 2);
  for (const axis of [0, 1]) fillGaps(rest, smooth(axisOf(sums, axis, 2)), weight, 2, axis);
  if (exact > 0) {
    const full = quantile(
      weights.filter((w) => w > 0),
      0.9,
    );
    for (const axis of [0, 1])
      localCourse(
        axisOf(sums, axis, 2).map((v) => v / full),
        weights.map((w) => w / full),
        fps,
      ).forEach((v, f) => {
        rest[f * 2 + axis] += exact * (v - rest[f * 2 + axis]);
      });
  }
  return { share: model.share, drift: model.drift, rest, exact };
}

/** Velocities of stands that tremble by less than this, m/s (1 σ), are as exact as they come, and from twice that on they are not. */
const QUIET = 0.004;

/** What stands differ by less than this in speed, m/s, is none that a body wanders at, and from twice that on it is. */
const WANDERS = 0.002;

/** Stands of so many frames are too short to be followed, those of twice as many are not. */
const FEW_FRAMES = 4;

/** Do stands, which are long enough, move so smoothly that what they show can be followed frame by frame? 1 where they do, 0 where they tremble. */
function quietness(evidence: readonly SpanEvidence[]): number {
  const bends = evidence.flatMap(({ velocity, weights }) =>
    Array.from({ length: Math.max(0, velocity.length - 4) }, (_, i) =>
      weights[(i >> 1) + 1] > 0 ? Math.abs(velocity[i] - 2 * velocity[i + 2] + velocity[i + 4]) / Math.sqrt(6) : -1,
    ).filter((v) => v >= 0),
  );
  if (bends.length === 0) return 0;
  // Of a stand of few frames half are of its ends.
  const long = quinticStep(median(evidence.map((e) => e.length)) / FEW_FRAMES - 1);
  return long * (1 - quinticStep((1.4826 * median(bends)) / QUIET - 1));
}

/** So many spans before and behind one tell what it should show; further off than so many times what spans are usually off theirs, or than so many times this speed (m/s), it counts for nothing. */
const NEIGHBOURS = 3;
const ESTRANGED = 8;
const LEAST_OFF = 0.002;

/**
 * How much each span counts for what a model leaves over: one that shows another velocity than those around it has a spike in it, or a foot that turns on its ball, and would steer the
 * body there alone (Hampel's filter over the spans in the order of time, with Tukey's biweight).
 */
function trustIn(evidence: readonly SpanEvidence[], model: TravelModel): number[] {
  const order = evidence.map((_, k) => k).sort((a, b) => 2 * evidence[a].start + evidence[a].length - 2 * evidence[b].start - evidence[b].length);
  const left = evidence.map((span) => leftOver(span, model));
  const off = new Float64Array(evidence.length);
  order.forEach((k, i) => {
    // At the clip's ends as many as anywhere: half of a few is soon more than half.
    const first = Math.max(0, Math.min(i - NEIGHBOURS, order.length - 2 * NEIGHBOURS - 1));
    const around = order.slice(first, first + 2 * NEIGHBOURS + 1);
    off[k] = Math.hypot(...([0, 1] as const).map((axis) => left[k][axis] - mostly(around.map((other) => left[other][axis]))));
  });
  const usual = Math.max(LEAST_OFF, 1.4826 * median(off));
  return Array.from(off, (v) => {
    const u = v / (ESTRANGED * usual);
    return u >= 1 ? 0 : (1 - u * u) ** 2;
  });
}

/** What most of some values are, with reserve: of the middle three that nearest to nothing, so that it takes two more than half of them to be anything. */
function mostly(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b);
  const middle = (sorted.length - 1) / 2;
  return sorted.slice(Math.max(0, Math.floor(middle) - 1), Math.ceil(middle) + 2).reduce((least, v) => (Math.abs(v) < Math.abs(least) ? v : least));
}

/** What a model leaves over of a span's velocity, m/s. */
function leftOver({ moves, body }: SpanEvidence, { share, drift }: TravelModel): readonly [number, number] {
  return [moves[0] - share * body[0] - drift[0], moves[1] - share * body[1] - drift[1]];
}

/**
 * How fast the part of a trembling leg likeliest moves, of what it seems to, m/s: where such velocities truly have a variance of `own` each way and are seen with a covariance C, own · (own + C)⁻¹ of it.
 */
function likeliest({ sure: [xx, xz, zz], variance }: SpanEvidence, [x, z]: readonly [number, number], own: number): readonly [number, number] {
  if (own === 0) return [0, 0];
  // (1 + C/own)⁻¹, of C⁻¹ = sure/variance: (sure + variance/own)⁻¹ · sure.
  const extra = variance / own;
  const [a, b, c] = [xx + extra, xz, zz + extra];
  const det = a * c - b * b;
  const [p, q] = [xx * x + xz * z, xz * x + zz * z];
  return [(c * p - b * q) / det, (a * q - b * p) / det];
}

/** Which share of what a model leaves over is more than the courses' noise makes of still contacts: 1 − expected / seen variance of their velocities. */
function beyondNoise(evidence: readonly SpanEvidence[], model: TravelModel): number {
  let [seen, expected] = [0, 0];
  for (const span of evidence) {
    seen += squareOf(span.sure, ...leftOver(span, model));
    expected += 2 * span.variance;
  }
  return seen > 0 ? Math.max(0, 1 - expected / seen) : 0;
}

/** What a model leaves over may wander over this long (half-width, seconds) but does not add up beyond it: short where the body is moved, so that it stays near its path, longer where contacts are looked for. */
export const WANDER = { moved: 0.8, sought: 3 } as const;

/** A course [frame][3] with a level displacement [frame][2] taken out of it. */
export function withoutTravel(course: Float64Array, displacement: ArrayLike<number>): Float64Array {
  const out = course.slice();
  for (let f = 0; f * 3 < out.length; f++) {
    out[f * 3] -= displacement[f * 2];
    out[f * 3 + 2] -= displacement[f * 2 + 1];
  }
  return out;
}

/**
 * The displacement [frame][2] that a travel error has caused, metres; of the model zero on the first frame. What that leaves over is integrated too,
 * but its slow part (a running mean) is taken out again: feet that shuffle in a good capture must not add up to a wandering path.
 */
export function travelDisplacement({ share, drift, rest, exact }: TravelError, rootCourse: Float64Array, fps: number, wander: number): Float64Array {
  const n = rest.length / 2;
  const out = integrateTravel(rest, fps);
  for (const axis of [0, 1]) {
    const course = axisOf(out, axis, 2);
    const slow = runningMean(course, Math.round(wander * fps));
    for (let f = 0; f < n; f++) {
      const modelled = share * (rootCourse[f * 3 + axis * 2] - rootCourse[axis * 2]) + (drift[axis] * f) / fps;
      out[f * 2 + axis] = modelled + course[f] - (1 - exact) * slow[f];
    }
  }
  return out;
}

/** Level velocity [frame][2] (x, z; m/s) of a course [frame][3]. */
function courseVelocity(course: Float64Array, fps: number): Float64Array {
  const out = new Float64Array((course.length / 3) * 2);
  for (const axis of [0, 1])
    slopes(axisOf(course, axis * 2, 3), fps).forEach((v, f) => {
      out[f * 2 + axis] = v;
    });
  return out;
}

/** Integral of a velocity [frame][2] from frame 0, trapezoid rule: the displacement [frame][2] that it has caused. */
export function integrateTravel(velocity: Float64Array, fps: number): Float64Array {
  const out = new Float64Array(velocity.length);
  for (let i = 2; i < velocity.length; i++) out[i] = out[i - 2] + (velocity[i] + velocity[i - 2]) / (2 * fps);
  return out;
}
