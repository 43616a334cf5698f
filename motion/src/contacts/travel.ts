import { runningMean, slopes } from "../signal/filters.ts";
import type { Contact } from "./contact.ts";

/** Half-width of the running means that smooth the travel error: about half a stand, so that a foot's own wobble does not steer the body. */
const KERNEL_SECONDS = 0.11;

/** A part counts fully only this long after it landed and before it lifts: found spans may reach a frame or two into the swing. */
const CALM_SECONDS = 0.16;

/**
 * How the root's travel is wrong: velocity [frame][2] (x, z; m/s) at which planted parts move although they should rest.
 * Contacts on other parts of the body say nothing of it, nor do those whose `courseOf` is undefined. At each frame the mean over the planted parts, each weighted by a bump that vanishes at its span's ends; across flights it is
 * interpolated, and smoothed without shift in time.
 */
export function travelError(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  frameCount: number,
  fps: number,
): Float64Array {
  const sums = new Float64Array(frameCount * 2);
  const weights = new Float64Array(frameCount);
  for (const contact of contacts) {
    const track = typeof contact.on === "object" ? undefined : courseOf(contact.point);
    const length = contact.end - contact.start + 1;
    if (!track || length < 3) continue;
    const margin = Math.min(length / 2, CALM_SECONDS * fps);
    for (const axis of [0, 1]) {
      const values = new Float64Array(length);
      for (let i = 0; i < length; i++) values[i] = track[(contact.start + i) * 3 + axis * 2];
      const speed = slopes(values, fps);
      for (let i = 0; i < length; i++) {
        // A slope reads the frames on both sides: it is as calm as the outer one.
        const edge = Math.min(1, Math.max(0, Math.min(i - 0.5, length - i - 1.5)) / margin);
        const w = Math.sin((Math.PI / 2) * edge) ** 4;
        sums[(contact.start + i) * 2 + axis] += w * speed[i];
        if (axis === 0) weights[contact.start + i] += w;
      }
    }
  }
  // A Gaussian-like kernel (three running means) over weighted sums and weights alike: no sample counts for more than its weight.
  const half = Math.max(1, Math.round(KERNEL_SECONDS * fps));
  const smooth = (values: Float64Array) => runningMean(runningMean(runningMean(values, half), half), half);
  const weight = smooth(weights);
  const out = new Float64Array(frameCount * 2);
  for (const axis of [0, 1]) {
    const sum = smooth(sums.filter((_, i) => i % 2 === axis));
    fillGaps(out, sum, weight, axis);
  }
  return out;
}

/** Weighted means where there is weight, straight lines across the rest, the nearest value before the first and after the last. */
function fillGaps(out: Float64Array, sum: Float64Array, weight: Float64Array, axis: number): void {
  const n = weight.length;
  const least = Math.max(1e-9, 0.02 * weight.reduce((most, w) => Math.max(most, w), 0));
  let last = -1;
  for (let f = 0; f < n; f++) {
    if (weight[f] < least) continue;
    const value = sum[f] / weight[f];
    const from = last < 0 ? value : out[last * 2 + axis];
    for (let g = last + 1; g < f; g++) out[g * 2 + axis] = from + ((value - from) * (g - last)) / (f - last);
    out[f * 2 + axis] = value;
    last = f;
  }
  if (last >= 0) for (let g = last + 1; g < n; g++) out[g * 2 + axis] = out[last * 2 + axis];
}

/** Slower than this, a constant drift or a wrong speed is taken for chance, m/s. */
const LEAST_DRIFT = 0.012;
const LEAST_SPEED_ERROR = 0.02;
/** What is left over may wander over this long (half-width, seconds) but does not add up beyond it. */
const WANDER_SECONDS = 3;

/**
 * The displacement [frame][2] that a travel error (velocity [frame][2]) has caused, metres, zero on the first frame. A wrong travel
 * speed shows as error = share · velocity of the root, a drift as a constant; both are fitted and hold everywhere, flights included.
 * What they leave over is integrated too, but its slow part (a running mean) is taken out again: feet that shuffle in a good capture
 * must not add up to a wandering path. `root` is the root's velocity [frame][2].
 */
export function travelDisplacement(error: Float64Array, root: Float64Array, fps: number): Float64Array {
  const n = error.length / 2;
  let [square, dot, speed, sx, sz, ex, ez] = [0, 0, 0, 0, 0, 0, 0];
  for (let f = 0; f < n; f++) {
    sx += root[f * 2] / n;
    sz += root[f * 2 + 1] / n;
    ex += error[f * 2] / n;
    ez += error[f * 2 + 1] / n;
    // Speeds as they are, not about their mean: at a steady pace a wrong speed and a drift along it are one and the same.
    square += root[f * 2] ** 2 + root[f * 2 + 1] ** 2;
    dot += root[f * 2] * error[f * 2] + root[f * 2 + 1] * error[f * 2 + 1];
    speed += Math.hypot(root[f * 2], root[f * 2 + 1]) / n;
  }
  let share = square > 0 ? dot / (square + n * 0.05 ** 2) : 0;
  if (Math.abs(share) * speed < LEAST_SPEED_ERROR) share = 0;
  const drift = [ex - share * sx, ez - share * sz];
  if (Math.hypot(drift[0], drift[1]) < LEAST_DRIFT) drift.fill(0);
  const model = new Float64Array(n * 2);
  for (let i = 0; i < n * 2; i++) model[i] = share * root[i] + drift[i % 2];
  const out = integrateTravel(model, fps);
  const rest = integrateTravel(
    error.map((e, i) => e - model[i]),
    fps,
  );
  for (const axis of [0, 1]) {
    const course = rest.filter((_, i) => i % 2 === axis);
    const slow = runningMean(course, Math.round(WANDER_SECONDS * fps));
    for (let f = 0; f < n; f++) out[f * 2 + axis] += course[f] - slow[f] - (course[0] - slow[0]);
  }
  return out;
}

/** Level velocity [frame][2] (x, z; m/s) of a course [frame][stride], smoothed over a tenth of a second. */
export function levelVelocity(positions: ArrayLike<number>, stride: number, frameCount: number, fps: number): Float64Array {
  const out = new Float64Array(frameCount * 2);
  for (const axis of [0, 1]) {
    const speed = slopes(
      runningMean(
        Float64Array.from({ length: frameCount }, (_, f) => positions[f * stride + axis * 2]),
        Math.max(1, Math.round(0.05 * fps)),
      ),
      fps,
    );
    for (let f = 0; f < frameCount; f++) out[f * 2 + axis] = speed[f];
  }
  return out;
}

/** Integral of a velocity [frame][2] from frame 0, trapezoid rule: the displacement [frame][2] that it has caused. */
export function integrateTravel(velocity: Float64Array, fps: number): Float64Array {
  const out = new Float64Array(velocity.length);
  for (let i = 2; i < velocity.length; i++) out[i] = out[i - 2] + (velocity[i] + velocity[i - 2]) / (2 * fps);
  return out;
}
