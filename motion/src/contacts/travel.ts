import { quinticStep } from "../math/ramp.ts";
import { axisOf, runningMean, slopes } from "../signal/filters.ts";
import { median, solve3 } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { exactness, type LegsSeen, type SpanEvidence, travelEvidence } from "./travelEvidence.ts";

/** Half-width of the running means that smooth the travel error: about half a stand, so that a foot's own wobble does not steer the body. */
const KERNEL_SECONDS = 0.11;

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
/** Within a stand so many frames tell no more than one does, and none tells more exactly than this, m/s. */
const ALIKE_FRAMES = 6;
const LEAST_WITHIN = 0.0005;
/** Least spread of a contact's mean velocity, m/s. */
const LEAST_SPREAD = 0.002;

/**
 * Fits velocity = share · root + drift to what contacts show (weighted least squares with a prior, contacts re-weighted by Tukey's biweight), and
 * believes each by its size in standard errors over the contacts: nothing up to one, whole from two on, smoothly in between, so that nothing
 * jumps where it becomes believed. `root` is the root's velocity [frame][2].
 */
function fitTravel(evidence: readonly SpanEvidence[], root: Float64Array): TravelModel {
  // How exactly a span shows its velocity grows with its length; a longer one than usual counts for no more than a usual one.
  const usual = median(evidence.map((e) => exactness(e.length)));
  const spans = evidence.map((span) => ({
    w: Math.min(1, exactness(span.length) / usual),
    noise: span.variance,
    e: span.moves,
    r: span.body,
    sure: span.sure,
    within: withinSpan(span, root),
  }));
  let model = [0, 0, 0];
  if (spans.length === 0) return { share: 0, drift: [0, 0] };
  const off = (s: (typeof spans)[number], k: number) => s.e[k] - model[0] * s.r[k] - model[1 + k];
  let robust = spans.map(() => 1);
  let spread = LEAST_SPREAD;
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
      const w = robust[i] * s.w;
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
    const sizes = spans.map((s) => Math.sqrt(s.w * squareOf(s.sure, off(s, 0), off(s, 1))));
    spread = Math.max(LEAST_SPREAD, 1.2 * median(sizes));
    robust = sizes.map((r) => {
      const u = r / (4 * spread);
      return u >= 1 ? 0 : (1 - u * u) ** 2;
    });
  }
  const count = robust.reduce((sum, w, i) => sum + w * spans[i].w, 0);
  const lever = spans.reduce((sum, s, i) => sum + robust[i] * s.w * squareOf(s.sure, s.r[0], s.r[1]), 0);
  const dof = count > 1.5 ? count / (count - 1) : 3;
  // What contacts differ by beyond their noise is their own (feet that roll or creep), and does not average out: it stands against the whole.
  const noise = count > 0 ? spans.reduce((sum, s, i) => sum + robust[i] * s.w * s.noise, 0) / count : 0;
  const own = OWN_COUNTS * Math.max(0, spread ** 2 - LEAST_SPREAD ** 2 - noise);
  const believed = (value: number, variance: number) => (value === 0 ? 0 : value * quinticStep(Math.abs(value) / Math.sqrt(variance) - 1));
  const share = lever > 0 ? believed(model[0], (spread ** 2 * dof + own * count) / lever) : 0;
  const size = Math.hypot(model[1], model[2]);
  const kept = size > 0 ? believed(size, (spread ** 2 * dof) / Math.max(1, count) + own) / size : 0;
  return { share, drift: [kept * model[1], kept * model[2]] };
}

/** The square of a velocity, as sure as it is each way. */
function squareOf([xx, xz, zz]: SpanEvidence["sure"], x: number, z: number): number {
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

/** The model alone, of the evidence of planted parts and the hips' course [frame][3]: see `travelError`. */
export function travelModel(evidence: readonly SpanEvidence[], rootCourse: Float64Array, fps: number): TravelModel {
  return fitTravel(evidence, courseVelocity(rootCourse, fps));
}

/** How the travel is wrong: a model that holds everywhere, and what planted parts still move by against it, [frame][2], m/s. */
export interface TravelError extends TravelModel {
  readonly rest: Float64Array;
}

/**
 * How the root's travel is wrong, as planted parts show it. A wrong speed and a drift hold everywhere, flights included. What they leave over is,
 * at each frame, the mean over the planted parts, each weighted by a bump that vanishes at its span's ends; across flights it is interpolated,
 * and smoothed without shift in time. `rootCourse` is the hips' course [frame][3].
 */
export function travelError(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  rootCourse: Float64Array,
  fps: number,
  legs?: LegsSeen,
): TravelError {
  const frameCount = rootCourse.length / 3;
  const root = courseVelocity(rootCourse, fps);
  const evidenceKnowing = (known?: Float64Array) => travelEvidence(contacts, courseOf, rootCourse, fps, legs, known);
  // Frames at the ends of spans on which parts do not stand are told from the others once the model is known roughly.
  const rough = fitTravel(evidenceKnowing(), root);
  const evidence = evidenceKnowing(root.map((v, i) => rough.share * v + rough.drift[i & 1]));
  const model = fitTravel(evidence, root);
  const sums = new Float64Array(frameCount * 2);
  const weights = new Float64Array(frameCount);
  const trust = trustIn(evidence, model);
  evidence.forEach(({ start, velocity, weights: own }, k) => {
    for (let i = 0; i < own.length; i++) weights[start + i] += trust[k] * own[i];
    for (let i = 0, o = start * 2; i < velocity.length; i++, o++)
      sums[o] += trust[k] * own[i >> 1] * (velocity[i] - model.share * root[o] - model.drift[i & 1]);
  });
  // A Gaussian-like kernel (three running means) over weighted sums and weights alike: no sample counts for more than its weight.
  const half = Math.max(1, Math.round(KERNEL_SECONDS * fps));
  const smooth = (values: Float64Array) => runningMean(runningMean(runningMean(values, half), half), half);
  const weight = smooth(weights);
  const rest = new Float64Array(frameCount * 2);
  for (const axis of [0, 1]) fillGaps(rest, smooth(axisOf(sums, axis, 2)), weight, 2, axis);
  const believed = beyondNoise(evidence, model);
  return { ...model, rest: rest.map((v) => believed * v) };
}

/** So many spans before and behind one tell what it should show; further off than so many times what spans are usually off theirs, or than so many times this speed (m/s), it counts for nothing. */
const NEIGHBOURS = 3;
const ESTRANGED = 8;
const LEAST_OFF = 0.01;

/**
 * How much each span counts for what a model leaves over: one that shows another velocity than those around it has a spike in it, or a foot that turns on its ball, and would steer the
 * body there alone (Hampel's filter over the spans in the order of time, with Tukey's biweight).
 */
function trustIn(evidence: readonly SpanEvidence[], { share, drift }: TravelModel): number[] {
  const order = evidence.map((_, k) => k).sort((a, b) => 2 * evidence[a].start + evidence[a].length - 2 * evidence[b].start - evidence[b].length);
  const over = (k: number, axis: 0 | 1) => evidence[k].moves[axis] - share * evidence[k].body[axis] - drift[axis];
  const off = new Float64Array(evidence.length);
  order.forEach((k, i) => {
    const around = order.slice(Math.max(0, i - NEIGHBOURS), i + NEIGHBOURS + 1);
    off[k] = Math.hypot(...([0, 1] as const).map((axis) => over(k, axis) - median(around.map((other) => over(other, axis)))));
  });
  const usual = Math.max(LEAST_OFF, 1.4826 * median(off));
  return Array.from(off, (v) => {
    const u = v / (ESTRANGED * usual);
    return u >= 1 ? 0 : (1 - u * u) ** 2;
  });
}

/** Which share of what a model leaves over is more than the courses' noise makes of still contacts: 1 − expected / seen variance of their velocities. */
function beyondNoise(evidence: readonly SpanEvidence[], { share, drift }: TravelModel): number {
  let [seen, expected] = [0, 0];
  for (const { moves, body, variance, sure } of evidence) {
    const [x, z] = [0, 1].map((axis) => moves[axis] - share * body[axis] - drift[axis]);
    seen += squareOf(sure, x, z);
    expected += 2 * variance;
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
export function travelDisplacement({ share, drift, rest }: TravelError, rootCourse: Float64Array, fps: number, wander: number): Float64Array {
  const n = rest.length / 2;
  const out = integrateTravel(rest, fps);
  for (const axis of [0, 1]) {
    const course = axisOf(out, axis, 2);
    const slow = runningMean(course, Math.round(wander * fps));
    for (let f = 0; f < n; f++) {
      const modelled = share * (rootCourse[f * 3 + axis * 2] - rootCourse[axis * 2]) + (drift[axis] * f) / fps;
      out[f * 2 + axis] = modelled + course[f] - slow[f];
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

/** Weighted means where there is weight, straight lines across the rest, the nearest value before the first and after the last; written to out[frame · stride + axis]. */
export function fillGaps(out: Float64Array, sum: Float64Array, weight: Float64Array, stride: number, axis: number): void {
  const n = weight.length;
  const least = Math.max(1e-9, 0.02 * weight.reduce((most, w) => Math.max(most, w), 0));
  let last = -1;
  for (let f = 0; f < n; f++) {
    if (weight[f] < least) continue;
    const value = sum[f] / weight[f];
    const from = last < 0 ? value : out[last * stride + axis];
    for (let g = last + 1; g < f; g++) out[g * stride + axis] = from + ((value - from) * (g - last)) / (f - last);
    out[f * stride + axis] = value;
    last = f;
  }
  if (last >= 0) for (let g = last + 1; g < n; g++) out[g * stride + axis] = out[last * stride + axis];
}

/** Integral of a velocity [frame][2] from frame 0, trapezoid rule: the displacement [frame][2] that it has caused. */
export function integrateTravel(velocity: Float64Array, fps: number): Float64Array {
  const out = new Float64Array(velocity.length);
  for (let i = 2; i < velocity.length; i++) out[i] = out[i - 2] + (velocity[i] + velocity[i - 2]) / (2 * fps);
  return out;
}
