import { type Ground, groundHeight } from "../ground/ground.ts";
import { runningMean } from "../signal/filters.ts";
import { median, noiseLevel } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { fillGaps } from "./travel.ts";

/** A part further off than this from where it rests does not stand there, metres. */
const STANDS_WITHIN = 0.03;
/** Half-width of the running means that smooth a heave, seconds: quick enough for one of 3 Hz. */
const KERNEL_SECONDS = 0.04;
/** A part counts fully only this long after it landed and before it lifts, seconds, and not at all in so much of its span at either end. */
const CALM_SECONDS = 0.08;
const ENDS = 0.12;
/** Heights in the inner halves of spans that are off by less than this are none, metres. */
const STILL = 0.0005;

/**
 * How much too high the whole body is at each frame [frame], metres: the height error that all planted parts have in common, as a body shows
 * that was captured bobbing. At each frame the weighted mean of how far planted parts are over the surface they rest on (those more than
 * 3 cm off do not count), smoothed without shift in time, and carried in straight lines over flights. As much of it is believed as what is seen
 * well within the spans exceeds what the courses' noise makes. Contacts on other things than the ground say nothing, nor do those whose `courseOf` is undefined.
 */
export function commonHeave(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  clearanceOf: (point: string) => number,
  ground: Ground,
  frameCount: number,
  fps: number,
): Float64Array {
  const sum = new Float64Array(frameCount);
  const weight = new Float64Array(frameCount);
  const noises: number[] = [];
  const inner: number[] = [];
  for (const contact of contacts) {
    const course = contact.on === "ground" ? courseOf(contact.point) : undefined;
    const length = contact.end - contact.start + 1;
    if (!course || length < 3) continue;
    const margin = Math.min(length / 2, CALM_SECONDS * fps);
    const clearance = clearanceOf(contact.point);
    const heights = Float64Array.from({ length }, (_, i) => {
      const o = (contact.start + i) * 3;
      return course[o + 1] - clearance - groundHeight(ground, course[o], course[o + 2]);
    });
    noises.push(noiseLevel(heights));
    heights.forEach((h, i) => {
      if (Math.abs(h) > STANDS_WITHIN) return;
      const edge = Math.min(i, length - 1 - i);
      if (edge >= length / 4) inner.push(h * h);
      const w = Math.sin((Math.PI / 2) * Math.max(0, Math.min(1, (edge + 0.5 - ENDS * length) / margin))) ** 2;
      sum[contact.start + i] += w * h;
      weight[contact.start + i] += w;
    });
  }
  const half = Math.max(1, Math.round(KERNEL_SECONDS * fps));
  const smooth = (values: Float64Array) => runningMean(runningMean(values, half), half);
  const out = new Float64Array(frameCount);
  fillGaps(out, smooth(sum), smooth(weight), 1, 0);
  if (inner.length === 0) return out.fill(0);
  // What is certain is seen well within the spans, where nothing has left its place yet.
  const seen = inner.reduce((a, b) => a + b, 0) / inner.length;
  const believed = seen > 0 ? Math.max(0, 1 - (median(noises) ** 2 + STILL ** 2) / seen) : 0;
  return out.map((v) => believed * v);
}
