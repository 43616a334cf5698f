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

/** Stands whose speed is off the others' by more than so many times what is usual are no stands, or something pushed them. */
const ALIKE = 4;
/** From stand to stand it rises as within each, within this share of it; from twice that on it does not: what bobs in step with its feet, or climbs besides, rises otherwise. */
const AGREES = 0.15;

/**
 * How fast a body rises or sinks all along by a fault (what measures its height drifts), m/s, as joints show that rest: each would be at one height. A slope of the ground raises one stand over another, but
 * none within itself; a bob in step with the feet lifts each within itself, but none over another. The middle of all stands' speeds, as far as it is sure, where the stands rise over each other as fast. `courses` are those of the soles' points, [frame][3] metres.
 */
export function steadyRise(soles: readonly Sole[], courses: ReadonlyMap<string, Float64Array>, contacts: readonly Contact[], fps: number): number {
  const joints = new Set(soles.flatMap((sole) => sole.points.flatMap((p) => (p.modelled ? [p.id] : []))));
  const stands = contacts.flatMap(({ point, start, end }) => {
    const course = joints.has(point) ? courses.get(point) : undefined;
    // The first and the last frame may be of the swing.
    const quarter = Math.max(1, Math.floor((end - start) / 4));
    const [from, to] = [start + quarter, end - quarter];
    if (!course || to - from + 1 < LEAST_FRAMES) return [];
    return [{ point, at: (from + to) / 2 / fps, ...lineUp(course, from, to, fps) }];
  });
  if (stands.length < LEAST_STANDS) return 0;
  const rise = median(stands.map((s) => s.speed));
  const off = 1.4826 * median(stands.map((s) => Math.abs(s.speed - rise)));
  const error = off / Math.sqrt(stands.length);
  const sure = quinticStep(Math.abs(rise) / Math.max(LEAST, SURE * error) - 1);
  if (sure === 0) return 0;
  return (
    rise *
    sure *
    (1 - quinticStep(Math.abs(acrossStands(stands.filter((s) => Math.abs(s.speed - rise) <= LEAST + ALIKE * off)) - rise) / (AGREES * Math.abs(rise)) - 1))
  );
}

interface RisingStand {
  readonly point: string;
  /** seconds, metres, m/s: of the straight line through its heights */
  readonly at: number;
  readonly height: number;
  readonly speed: number;
}

/** How fast each part rises from stand to stand, m/s: one slope for all about their own means (least squares). */
function acrossStands(stands: readonly RisingStand[]): number {
  let [sum, square] = [0, 0];
  for (const point of new Set(stands.map((s) => s.point))) {
    const own = stands.filter((s) => s.point === point);
    const [at, height] = (["at", "height"] as const).map((key) => own.reduce((total, s) => total + s[key], 0) / own.length);
    for (const s of own) {
      sum += (s.at - at) * (s.height - height);
      square += (s.at - at) ** 2;
    }
  }
  return square > 0 ? sum / square : 0;
}

/** The straight line through a course's heights over frames `from` to `to` (least squares). */
function lineUp(course: Float64Array, from: number, to: number, fps: number): Pick<RisingStand, "height" | "speed"> {
  const middle = (from + to) / 2;
  let [height, sum, square] = [0, 0, 0];
  for (let f = from; f <= to; f++) {
    height += course[f * 3 + 1] / (to - from + 1);
    sum += (f - middle) * course[f * 3 + 1];
    square += (f - middle) ** 2;
  }
  return { height, speed: (sum / square) * fps };
}
