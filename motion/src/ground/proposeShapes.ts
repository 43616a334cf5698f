import { median } from "../signal/robust.ts";
import { type GroundShape, placeOnShape } from "./shapes.ts";

/** Where a foot or a hoof came down, as shapes of a ground are proposed by it: level place of its leading point (the toe), metres. */
export interface Footfall {
  readonly start: number;
  readonly x: number;
  readonly z: number;
  /** how far over the ground's plane it rests, metres */
  readonly rise: number;
  /** direction of the toes, radians about +Y from +Z, and the distance from heel to toe, metres */
  readonly heading: number;
  readonly length: number;
}

/** Air beside the outermost footfalls on a new shape, metres; the least width that it has. */
const BESIDE = 0.6;
const LEAST_WIDTH = 1.2;
/** The middle of a sole lies so much of its length behind its toe joint. */
const MIDDLE_BEHIND = 0.36;
/** A new flight of steps goes up by this, a new slope rises so steeply, a new box is so high: metres, degrees, metres. */
const RISE = 0.17;
const DEGREES = 8;
const BOX_HEIGHT = 0.2;
/** Level ground behind a new shape, metres. */
const LANDING = 3;
/** Steps are even when their rises differ by no more than this (metres) and their treads by no more than such a share. */
const EVEN_RISE = 0.012;
const EVEN_TREAD = 0.4;
/** Footfalls whose heights differ by less than this stand on one level, metres. */
const ONE_LEVEL = 0.03;
/** A step is no deeper, and no shallower, than this: metres. */
const TREADS: readonly [number, number] = [0.1, 5];

interface Course {
  readonly heading: number;
  readonly falls: readonly (Footfall & { readonly along: number; readonly across: number })[];
}

/** Footfalls along the way that they take together, counted from the first of them. */
function courseOf(falls: readonly Footfall[]): Course | null {
  const [first] = falls;
  if (!first) return null;
  const angle = wayOf(falls);
  const [s, c] = [Math.sin(angle), Math.cos(angle)];
  const placed = falls.map((fall) => {
    const [dx, dz] = [fall.x - first.x, fall.z - first.z];
    return { ...fall, along: dx * s + dz * c, across: dx * c - dz * s };
  });
  return { heading: (angle * 180) / Math.PI, falls: placed };
}

/** The way that footfalls take, radians about +Y from +Z: from each to the one after the next, since feet fall to either side of it. */
function wayOf(falls: readonly Footfall[]): number {
  let [dx, dz] = [0, 0];
  for (let i = 2; i < falls.length; i++) {
    dx += falls[i].x - falls[i - 2].x;
    dz += falls[i].z - falls[i - 2].z;
  }
  // Feet that stay about where they are, or two of them, say it by where they point.
  if (Math.hypot(dx, dz) > 2 * Math.max(0.1, falls[0].length)) return Math.atan2(dx, dz);
  return Math.atan2(
    falls.reduce((sum, f) => sum + Math.sin(f.heading), 0),
    falls.reduce((sum, f) => sum + Math.cos(f.heading), 0),
  );
}

/** Where a shape begins that reaches from `along` on a course's footfalls, and how broad it has to be for them. */
function placedOn(course: Course, along: number, beside = BESIDE, least = LEAST_WIDTH): { x: number; z: number; heading: number; width: number } {
  const across = course.falls.map((f) => f.across);
  const [low, high] = [Math.min(...across), Math.max(...across)];
  const [first] = course.falls;
  const frame: GroundShape = { shape: "box", x: first.x, z: first.z, heading: course.heading, width: 1, length: 1, height: 0 };
  const [x, z] = placeOnShape(frame, along, (low + high) / 2);
  return { x: round(x), z: round(z), heading: round(course.heading, 10), width: round(Math.max(least, high - low + 2 * beside)) };
}

function round(value: number, per = 1000): number {
  return Math.round(value * per) / per + 0;
}

/** Depths between footfalls that follow one another along a course, metres. */
function strides({ falls }: Course): number[] {
  return falls.slice(1).map((fall, i) => fall.along - falls[i].along);
}

/** How deep a step is for one footfall each, metres. */
function treadOf(course: Course): number {
  const steps = strides(course).filter((s) => s > TREADS[0]);
  return round(Math.min(TREADS[1], steps.length === 0 ? 0.3 : median(steps)), 200);
}

function middleBehind(fall: Footfall): number {
  return MIDDLE_BEHIND * fall.length;
}

/** A slope, steps or a box before the body at a frame: begun between the footfalls there, as long as the clip goes on, a step for each footfall. */
export function shapeAhead(kind: GroundShape["shape"], footfalls: readonly Footfall[], frame: number): GroundShape {
  const sorted = [...footfalls].sort((a, b) => a.start - b.start);
  const ahead = sorted.filter((f) => f.start > frame);
  const course = courseOf(ahead.length > 0 ? ahead : sorted.slice(-2));
  if (!course) {
    const nowhere = { x: 0, z: 0.5, heading: 0, width: LEAST_WIDTH, landing: LANDING };
    if (kind === "slope") return { shape: kind, ...nowhere, degrees: DEGREES, length: 3 };
    if (kind === "steps") return { shape: kind, ...nowhere, rise: RISE, tread: 0.3, count: 3 };
    return { shape: kind, x: 0, z: 0.5, heading: 0, width: LEAST_WIDTH, length: 0.6, height: BOX_HEIGHT };
  }
  const [first] = course.falls;
  const tread = treadOf(course);
  const start = -middleBehind(first) - tread / 2;
  const way = (course.falls.at(-1)?.along ?? 0) - start;
  if (kind === "slope") return { shape: kind, ...placedOn(course, start), degrees: DEGREES, length: round(Math.max(1, way), 10), landing: LANDING };
  if (kind === "steps") return { shape: kind, ...placedOn(course, start), rise: RISE, tread, count: Math.max(1, course.falls.length), landing: LANDING };
  const one: Course = { ...course, falls: [first] };
  const long = Math.max(0.3, first.length * 2);
  return { shape: kind, ...placedOn(one, -middleBehind(first) - long / 2, 0.2, 0.4), length: round(long, 100), height: BOX_HEIGHT };
}

/**
 * The steps and boxes that footfalls off the ground's plane stand on: one flight where they go up (or down) evenly, one level a footfall, else a box
 * for each run of footfalls on one level. Empty where all stand on the plane.
 */
export function shapesFound(footfalls: readonly Footfall[]): GroundShape[] {
  const sorted = [...footfalls].sort((a, b) => a.start - b.start);
  const first = sorted.findIndex((f) => f.rise !== 0);
  if (first < 0) return [];
  const last = sorted.findLastIndex((f) => f.rise !== 0);
  const course = courseOf(sorted.slice(Math.max(0, first - 1), last + 1));
  if (!course) return [];
  const runs: { rise: number; falls: Course["falls"][number][] }[] = [];
  for (const fall of course.falls) {
    const run = runs.at(-1);
    if (run && Math.abs(fall.rise - run.rise) < ONE_LEVEL) run.falls.push(fall);
    else runs.push({ rise: fall.rise, falls: [fall] });
  }
  return flight(course, runs) ?? runs.flatMap((run) => (run.rise === 0 ? [] : [boxUnder(course, run)]));
}

type Run = { readonly rise: number; readonly falls: readonly Course["falls"][number][] };

function flight(course: Course, runs: readonly Run[]): GroundShape[] | null {
  const levels = runs.map((run) => median(run.falls.map((f) => f.rise)));
  // Up from the ground; or down onto it, told from its foot.
  if (levels[0] !== 0) return null;
  const rises = levels.slice(1).map((level, i) => level - levels[i]);
  const rise = median(rises);
  const single = runs.slice(1, -1).every((run) => run.falls.length === 1);
  if (rises.length < 2 || !single || rises.some((r) => Math.abs(r - rise) > EVEN_RISE)) return null;
  const heads = runs.map((run) => run.falls[0]);
  const depths = heads.slice(2).map((fall, i) => fall.along - heads[i + 1].along);
  const tread = median(depths);
  if (!(tread >= TREADS[0] && tread <= TREADS[1]) || depths.some((d) => Math.abs(d - tread) > EVEN_TREAD * tread)) return null;
  const start = heads[1].along - middleBehind(heads[1]) - tread / 2;
  const before = runs[0].falls.at(-1);
  // Its first edge lies before the last footfall on the ground.
  const edge = before ? Math.max(start, before.along + 0.3 * before.length) : start;
  const beyond = Math.max(...(runs.at(-1)?.falls ?? []).map((f) => f.along)) - (edge + tread * rises.length) + 1;
  return [{ shape: "steps", ...placedOn(course, edge), rise: round(rise), tread: round(tread), count: rises.length, landing: round(Math.max(0, beyond), 10) }];
}

function boxUnder(course: Course, { falls }: Run): GroundShape {
  const length = Math.max(...falls.map((f) => f.length));
  const start = Math.min(...falls.map((f) => f.along)) - 1.15 * length - 0.05;
  const end = Math.max(...falls.map((f) => f.along)) + 0.3 * length + 0.05;
  const across = falls.map((f) => f.across);
  const [low, high] = [Math.min(...across), Math.max(...across)];
  const [anchor] = course.falls;
  const frame: GroundShape = { shape: "box", x: anchor.x, z: anchor.z, heading: course.heading, width: 1, length: 1, height: 0 };
  const [x, z] = placeOnShape(frame, start, (low + high) / 2);
  return {
    shape: "box",
    x: round(x),
    z: round(z),
    heading: round(course.heading, 10),
    width: round(high - low + 0.36),
    length: round(end - start),
    height: round(median(falls.map((f) => f.rise))),
  };
}
