import type { Sole } from "../character/soles.ts";
import { quinticStep } from "../math/ramp.ts";
import { median } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";

/** Fewer stands than this say nothing of it, nor do those of fewer frames. */
const LEAST_STANDS = 4;
const LEAST_FRAMES = 3;
/** A rise is believed from so many standard errors on, and wholly from twice as many; slower than this, m/s, it is none. */
const SURE = 3;
const LEAST = 0.0005;

/**
 * How fast a body rises or sinks all along by a fault (what measures its height drifts), m/s, as joints show that rest: each would be at one height. A slope of the ground raises one stand over another, but
 * none within itself. The middle of all stands' speeds, as far as it is sure. `courses` are those of the soles' points, [frame][3] metres.
 */
export function steadyRise(soles: readonly Sole[], courses: ReadonlyMap<string, Float64Array>, contacts: readonly Contact[], fps: number): number {
  const joints = new Set(soles.flatMap((sole) => sole.points.flatMap((p) => (p.modelled ? [p.id] : []))));
  const speeds = contacts.flatMap(({ point, start, end }) => {
    const course = joints.has(point) ? courses.get(point) : undefined;
    // The first and the last frame may be of the swing.
    const quarter = Math.max(1, Math.floor((end - start) / 4));
    const [from, to] = [start + quarter, end - quarter];
    return course && to - from + 1 >= LEAST_FRAMES ? [speedUp(course, from, to) * fps] : [];
  });
  if (speeds.length < LEAST_STANDS) return 0;
  const rise = median(speeds);
  const error = (1.4826 * median(speeds.map((v) => Math.abs(v - rise)))) / Math.sqrt(speeds.length);
  return rise * quinticStep(Math.abs(rise) / Math.max(LEAST, SURE * error) - 1);
}

/** Slope of the straight line through a course's heights over frames `from` to `to`, metres a frame (least squares). */
function speedUp(course: Float64Array, from: number, to: number): number {
  const middle = (from + to) / 2;
  let [sum, square] = [0, 0];
  for (let f = from; f <= to; f++) {
    sum += (f - middle) * course[f * 3 + 1];
    square += (f - middle) ** 2;
  }
  return sum / square;
}
