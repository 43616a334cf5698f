import { type Ground, groundHeight, LEVEL_GROUND } from "../ground/ground.ts";
import { quinticStep } from "../math/ramp.ts";
import { median, noiseLevel, quantileMutable } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { localCourse } from "./localCourse.ts";
import { middlePoint } from "./segment.ts";
import { type Beforehand, type OwnHeights, ownHeights, type SeenHeights, type Tilt, tiltAt } from "./sharedHeights.ts";

/** A part further off than this from where it rests does not stand there, metres. */
const STANDS_WITHIN = 0.03;
/** A part counts fully only this long after it landed and before it lifts, seconds, and not at all in so much of its span at either end. */
const CALM_SECONDS = 0.08;
const ENDS = 0.12;
/** Heights in the inner halves of spans that are off by less than this are none, metres. */
const STILL = 0.0005;
/** How far off others a height may be before it counts for little, from round to round, metres. */
const AGREES_WITHIN = [0.02, 0.005, 0.001, 0.0005, 0.0005, 0.0005];
/** What an estimated point's height counts as beside a joint's: it rolls over the ground as it lands; and until it is known where the foot rolls. */
const ESTIMATED = 0.01;
const GUESSED = 0.00001;
/** Weight from which on a frame's own heights are gone by rather than those beside it. */
const CERTAIN = 0.1;
/** How surely heights of parts are known from all places they rest at, and the slope of a stage, 1 σ: metres and a tangent. */
const REST_SIGMA = 0.005;
const TILT_SIGMA = 0.025;

/** What heaves a body, and how far resting parts still are from where they rest once that is taken out. */
export interface Heave {
  /** [frame], metres */
  readonly course: Float64Array;
  /** how the ground slopes besides, as parts show that rest together */
  readonly tilt: Tilt;
  /** metres, 1 σ of the middle halves of the spans */
  readonly left: number;
}

export const NO_TILT: Tilt = { slopeX: 0, slopeZ: 0, about: [0, 0] };

/** A contact point: its height over the ground, whether it is a joint of the skeleton, and, of an estimate, how still it keeps where the foot rolls about it, once that is known. */
export interface HeavedPoint {
  readonly clearance: number;
  readonly modelled: boolean;
  readonly rolls?: number;
}

/** Heights of a contact, and what tells how far each can be trusted. */
interface Seen extends SeenHeights {
  /** 1 well within the span, 0 at its ends */
  readonly calm: Float64Array;
  /** a little of it also there */
  readonly ends: Float64Array;
  /** level distance from where it rests, over what it is usually off, metres */
  readonly aside: Float64Array;
  /** what the point counts as against a joint of the skeleton */
  readonly trust: number;
}

/**
 * How much too high the whole body is at each frame, metres: the height error that all planted parts have in common, as a body shows
 * that was captured bobbing. Heights are a part's own, a plane and a course that all share (`ownHeights`), found in turns; what is off
 * by more than its like counts ever less (Cauchy's weights), what is more than 3 cm off not at all. The
 * course is smoothed without shift in time, and carried in straight lines over flights; seen `closely` it is so only as far as heights tremble, which tells when a
 * part rests but shakes a body that is moved by it, and goes on over flights as smoothly as it came. As much of it is
 * believed as what is seen well within the spans exceeds what noise makes. Contacts on other things than the ground say
 * nothing, nor do those whose `courseOf` is undefined.
 */
export function commonHeave(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  pointOf: (point: string) => HeavedPoint | undefined,
  ground: Ground,
  frameCount: number,
  fps: number,
  closely = false,
): Heave {
  const seen = contacts.flatMap((contact): Seen[] => {
    const course = contact.on === "ground" ? courseOf(contact.point) : undefined;
    const point = pointOf(contact.point);
    return course && point && contact.end - contact.start >= 2 ? [seenHeights(contact, course, point, ground, fps)] : [];
  });
  if (seen.length === 0) return { course: new Float64Array(frameCount), tilt: NO_TILT, left: 0 };
  if ([ground, LEVEL_GROUND].some((under) => nothingHeaves(seen, ground, under))) return { course: new Float64Array(frameCount), tilt: NO_TILT, left: 0 };
  const quick = quickNoise(seen.map((s) => s.heights));
  let noise = quick;
  // What trembles is seen by many frames; what does not, by the right ones.
  let exact = closely ? exactAt(noise) : 0;
  let own: OwnHeights = { rests: new Map(), tilt: NO_TILT, heave: new Float64Array(frameCount), rate: null, off: REST_SIGMA };
  let course = sharedCourse(seen, own, frameCount, 0, fps);
  own = { ...own, heave: course };
  let left = closely ? offHeave(seen, own) : 0;
  // Heights that lie near each other from the first need not be gone by roughly before.
  for (const within of closely ? AGREES_WITHIN.filter((v) => v <= Math.max(SETTLED_WITHIN, ROUGHLY * left)) : []) {
    weigh(seen, own, exact, Math.max(within, 3 * noise, 3 * left));
    const before = own;
    own = ownHeights(seen, frameCount, CALM_SECONDS * fps, { ...knownBefore(seen, course), rate: own.rate, off: Math.max(own.off, noise, STILL / 5) }, fps);
    left = offHeave(seen, own);
    // Short spans seem to tremble where they only bob: if a smooth heave leaves far less over, that is what they did.
    noise = quick * quinticStep((left / Math.max(1e-9, quick) - ONLY_BOBS[0]) / (ONLY_BOBS[1] - ONLY_BOBS[0]));
    exact = exactAt(noise);
    course = sharedCourse(seen, own, frameCount, exact, fps);
    if (within <= SETTLED_WITHIN && alike(before, own)) break;
  }
  return { ...believed(seen, own, course, noise), tilt: own.tilt };
}

/**
 * Does each joint keep one height while it rests, over one of the grounds that may be under it? Then nothing heaves the body, though no two of its stands be at one height: a heave, a
 * slope and heights of parts could be found that take each other back, stand by stand.
 */
function nothingHeaves(seen: readonly Seen[], ground: Ground, under: Ground): boolean {
  const off = seen.flatMap(({ trust, heights, calm, x, z }) => {
    if (trust !== 1) return [];
    const own = Array.from(heights, (h, i) => h + groundHeight(ground, x[i], z[i]) - groundHeight(under, x[i], z[i])).filter((_, i) => calm[i] > 0.5);
    const rest = own.length > 0 ? median(own) : 0;
    return own.map((h) => Math.abs(h - rest));
  });
  return off.length > 0 && quantileMutable(Float64Array.from(off), NEARLY_ALL) < NOT_HEAVED;
}

/** So many of the heights well within the spans of joints are off by less than this, metres, where nothing heaves the body. */
const NEARLY_ALL = 0.95;
const NOT_HEAVED = 3e-5;

/** What a smooth heave leaves over, as a share of what seemed to be noise: up to the first it was none, from the second on it was. */
const ONLY_BOBS = [0.1, 0.4] as const;

/** Where a frame's own heights are gone by so far, they are wholly. */
const ALL = 0.9999;

/** How far a frame's own heights are gone by, with so much noise in them. */
const exactAt = (noise: number) => STILL ** 4 / (STILL ** 4 + noise ** 4);

/** What heights well within spans are off their own and what heaves them, metres (1 σ, of normal ones). */
function offHeave(seen: readonly Seen[], own: OwnHeights): number {
  const off = new Float64Array(seen.reduce((sum, { calm }) => sum + calm.length, 0));
  let count = 0;
  for (const part of seen) {
    const over = overOwn(part, own);
    for (let i = 0; i < over.length; i++) if (part.calm[i] > 0.5) off[count++] = Math.abs(over[i] - own.heave[part.start + i]);
  }
  return count > 0 ? 1.4826 * quantileMutable(off.subarray(0, count), 0.5) : Number.POSITIVE_INFINITY;
}

/** Heights count at first within so many times what they are off. */
const ROUGHLY = 200;
/** Once heights count within so little, what is found has settled if no height (metres) or slope (tangent) of it changes by more than this. */
const SETTLED_WITHIN = 0.001;
const SETTLED = 5e-6;

function alike(a: OwnHeights, b: OwnHeights): boolean {
  const heights = [...b.rests].every(([part, rest]) => Math.abs(rest - (a.rests.get(part) ?? 0)) < SETTLED);
  return heights && Math.abs(a.tilt.slopeX - b.tilt.slopeX) < SETTLED && Math.abs(a.tilt.slopeZ - b.tilt.slopeZ) < SETTLED;
}

function seenHeights(contact: Contact, course: Float64Array, { clearance, modelled, rolls }: HeavedPoint, ground: Ground, fps: number): Seen {
  const last = course.length / 3 - 1;
  const length = contact.end - contact.start + 1;
  const margin = Math.min(length / 2, CALM_SECONDS * fps);
  const [x, z, heights] = [new Float64Array(length), new Float64Array(length), new Float64Array(length)];
  const [calm, ends] = [new Float64Array(length), new Float64Array(length)];
  // What rests on the clip's first or last frame has not come, or gone, there.
  const [comes, goes] = [contact.start > 0, contact.end < last];
  for (let i = 0, o = contact.start * 3; i < length; i++, o += 3) {
    x[i] = course[o];
    z[i] = course[o + 2];
    heights[i] = course[o + 1] - clearance - groundHeight(ground, x[i], z[i]);
    const edge = Math.min(comes ? i : length, goes ? length - 1 - i : length) + 0.5;
    const inner = (edge - ENDS * length) / margin;
    if (inner > 0 && Math.abs(heights[i]) <= STANDS_WITHIN) calm[i] = inner < 1 ? Math.sin((Math.PI / 2) * inner) ** 2 : 1;
    ends[i] = edge < margin ? (edge / margin) ** 4 : 1;
  }
  return {
    point: contact.point,
    start: contact.start,
    heights,
    x,
    z,
    weights: calm.slice(),
    calm,
    ends,
    aside: asideOf(course, contact),
    trust: modelled ? 1 : rolls === undefined ? GUESSED : ESTIMATED,
  };
}

/** How far to the side of its resting place a part is, beyond what it is in the calm half of its span. */
function asideOf(course: Float64Array, { start, end }: Contact): Float64Array {
  const quarter = Math.floor((end - start) / 4);
  const rest = middlePoint(course, start + quarter, end - quarter);
  const off = new Float64Array(end - start + 1);
  for (let i = 0, o = start * 3; i < off.length; i++, o += 3) {
    const [dx, dz] = [course[o] - rest[0], course[o + 2] - rest[2]];
    off[i] = Math.sqrt(dx * dx + dz * dz);
  }
  const usual = quantileMutable(off.slice(quarter, off.length - quarter), 0.5);
  for (let i = 0; i < off.length; i++) off[i] = Math.max(0, off[i] - 2 * usual);
  return off;
}

/**
 * Deviation of noise in courses of heights, from fourth differences: a heave of 3 Hz leaves little in them (white noise of deviation s: s·√70). Of all courses together: one of
 * a quick gait has few. The first and the last frame of each may belong to the swing, so that it is looked at without those too, by third differences where only four are left (s·√20).
 */
function quickNoise(all: readonly Float64Array[]): number {
  const every = Math.max(1, Math.floor(all.length / MOST_COURSES));
  const courses = all.filter((_, i) => i % every === 0);
  const whole = courses.flatMap((v) => differences(v, 0, v.length));
  const inner = courses.flatMap((v) => differences(v, 1, v.length - 1));
  const seen = [whole, inner].filter((off) => off.length >= LEAST_DIFFERENCES);
  if (seen.length === 0) return median(courses.map((v) => noiseLevel(v)));
  return 1.4826 * Math.min(...seen.map((off) => median(off)));
}

/** Sizes of the fourth differences of a course within frames from..to, or of the third where there are only four; each as many deviations of white noise as a normal variable is. */
function differences(v: Float64Array, from: number, to: number): number[] {
  const out: number[] = [];
  if (to - from === 4) out.push(Math.abs(v[from + 3] - 3 * v[from + 2] + 3 * v[from + 1] - v[from]) / Math.sqrt(20));
  for (let i = from; i + 4 < to; i++) out.push(Math.abs(v[i] - 4 * v[i + 1] + 6 * v[i + 2] - 4 * v[i + 3] + v[i + 4]) / Math.sqrt(70));
  return out;
}

/** So many courses, evenly spread over a clip, tell of its noise, and so many differences. */
const MOST_COURSES = 64;
const LEAST_DIFFERENCES = 8;

/** How large a heave is, and how surely heights of parts and slopes are known from all places that they rest at: it makes some of them seem too high by as much as it is (1 σ of a mean, and of a straight line through them). */
function knownBefore(seen: readonly Seen[], course: Float64Array): Pick<Beforehand, "rest" | "slope" | "heave"> {
  let [weight, x, z, xx, zz, squares] = [0, 0, 0, 0, 0, 0];
  for (const part of seen)
    for (let i = 0; i < part.calm.length; i++) {
      const w = part.calm[i];
      weight += w;
      x += w * part.x[i];
      z += w * part.z[i];
      xx += w * part.x[i] ** 2;
      zz += w * part.z[i] ** 2;
      squares += w * course[part.start + i] ** 2;
    }
  if (weight === 0) return { rest: REST_SIGMA, slope: [TILT_SIGMA, TILT_SIGMA], heave: STANDS_WITHIN };
  const heave = Math.max(STILL, Math.sqrt(squares / weight));
  const off = heave / Math.sqrt(seen.length);
  const sigma = (square: number, sum: number) => Math.min(TILT_SIGMA, off / Math.sqrt(Math.max(1e-9, square / weight - (sum / weight) ** 2)));
  const parts = new Set(seen.map((s) => s.point)).size;
  return { rest: Math.min(REST_SIGMA, off * Math.sqrt(parts)), slope: [sigma(xx, x), sigma(zz, z)], heave };
}

/** Weighs heights by how well each can be trusted and how far it is off the shared course, and off to the side, in units of `within` metres. */
function weigh(seen: readonly Seen[], own: OwnHeights, exact: number, within: number): void {
  for (const part of seen) {
    const { heights, weights, calm, ends, aside, start } = part;
    const trust = exact * part.trust + (1 - exact);
    const over = overOwn(part, own);
    for (let i = 0; i < heights.length; i++) {
      const off = (over[i] - own.heave[start + i]) / within;
      const side = aside[i] / within;
      const agrees = 1 / ((1 + off * off) * (1 + side * side));
      weights[i] = Math.abs(heights[i]) > STANDS_WITHIN ? 0 : trust * Math.max(exact * ends[i], calm[i]) * agrees * agrees;
    }
  }
}

/** Heights over what a part rests at itself. */
function overOwn(part: Seen, own: OwnHeights): Float64Array {
  const { heights, x, z } = part;
  const rest = own.rests.get(part.point) ?? 0;
  const out = new Float64Array(heights.length);
  for (let i = 0; i < out.length; i++) out[i] = heights[i] - rest - tiltAt(own.tilt, x[i], z[i]);
  return out;
}

/** The course that heights share: at each frame as seen on it where nothing trembles (as it goes smoothly on where nothing is seen), else as a local parabola leads through them. */
function sharedCourse(seen: readonly Seen[], own: OwnHeights, frameCount: number, exact: number, fps: number): Float64Array {
  const sum = new Float64Array(frameCount);
  const weight = new Float64Array(frameCount);
  for (const part of seen) {
    const over = overOwn(part, own);
    const { weights, start } = part;
    for (let i = 0; i < over.length; i++) {
      sum[start + i] += weights[i] * over[i];
      weight[start + i] += weights[i];
    }
  }
  const out = exact < ALL ? localCourse(sum, weight, fps) : new Float64Array(frameCount);
  for (let f = 0; f < frameCount; f++) {
    const smooth = own.heave[f];
    const here = weight[f] > 0 ? smooth + (weight[f] / (weight[f] + CERTAIN)) * (sum[f] / weight[f] - smooth) : smooth;
    out[f] += (exact < ALL ? exact : 1) * (here - out[f]);
  }
  return out;
}

/** As much of a course as is certain: that is seen well within the spans, where nothing has left its place yet. */
function believed(seen: readonly Seen[], own: OwnHeights, course: Float64Array, noise: number): Pick<Heave, "course" | "left"> {
  const left: number[] = [];
  let heaved = 0;
  for (const part of seen)
    overOwn(part, own).forEach((h, i, all) => {
      if (Math.abs(part.heights[i]) > STANDS_WITHIN || Math.min(i, all.length - 1 - i) < all.length / 4) return;
      heaved += h * h;
      left.push(Math.abs(h - course[part.start + i]));
    });
  if (left.length === 0) return { course: new Float64Array(course.length), left: 0 };
  const seenHeave = heaved / left.length;
  // What trembling adds to it is taken off; one that is clearly more than none is believed whole: a part of it left in would look like feet that leave.
  const share = heaved > 0 ? Math.max(0, 1 - noise ** 2 / seenHeave) * Math.max(0, 1 - (STILL ** 2 / seenHeave) ** 3) : 0;
  return { course: course.map((v) => share * v), left: 1.4826 * median(left) };
}
