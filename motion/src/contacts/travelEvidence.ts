import { axisOf } from "../signal/filters.ts";
import { median, noiseLevel, quantileMutable } from "../signal/robust.ts";
import { courseNoise } from "../signal/smoothCourse.ts";
import type { Contact } from "./contact.ts";
import { leverage, type Stand, standWeights, type Trembling } from "./standLine.ts";

/** A part counts fully only this long after it landed and before it lifts: found spans may reach a frame or two into the swing. */
const CALM_SECONDS = 0.16;
/** Trembling that moves a part by less than this as it stands does not matter, metres: the usual straight line is as good. */
const UNFELT = 0.0003;

/** What one contact says of the travel. */
export interface SpanEvidence {
  readonly start: number;
  readonly length: number;
  /** velocity [frame of the span][2] at which its point moves although it rests (x, z; m/s), and how much each frame counts */
  readonly velocity: Float64Array;
  readonly weights: Float64Array;
  /** velocity of the whole span on either axis, and what the body's comes to in the same way, m/s */
  readonly moves: readonly [number, number];
  readonly body: readonly [number, number];
  /** how sure the span is of it one way against another (xx, xz, zz): 1 any way where it is equally sure, 2 at most */
  readonly sure: readonly [number, number, number];
  /** variance of the span's velocity that the course's noise makes, (m/s)² an axis, so weighted */
  readonly variance: number;
  /** is that told by how the leg trembles? */
  readonly trembles: boolean;
}

/** What is known of the legs: the courses [frame][3] of the joints that carry a point, up to the root, and the rise of the ground per metre along x and z. */
export interface LegsSeen {
  readonly carriersOf: (point: string) => readonly Float64Array[];
  readonly slope: readonly [number, number];
}

/**
 * What each contact says of the travel, the body's own course being `rootCourse` [frame][3]. Those on other parts of the body say nothing, nor do those whose
 * `courseOf` is undefined. A leg that trembles shows more where its joints are known: see `standWeights`. Whether a part stands on a frame shows the clearer the more is known of
 * how all of them are taken along: `known` is what earlier evidence has shown of that, [frame][2], m/s.
 */
export function travelEvidence(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  rootCourse: Float64Array,
  fps: number,
  legs?: LegsSeen,
  known?: Float64Array,
): SpanEvidence[] {
  const steps = travelEvidenceSteps(contacts, courseOf, rootCourse, fps, legs, known);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** Contacts that are looked at between two pauses. */
const CONTACTS_AT_ONCE = 48;

/** The same, a little at a time: the courses of a leg, some contacts. */
export function* travelEvidenceSteps(
  contacts: readonly Contact[],
  courseOf: (point: string) => Float64Array | undefined,
  rootCourse: Float64Array,
  fps: number,
  legs?: LegsSeen,
  known?: Float64Array,
): Generator<void, SpanEvidence[]> {
  const spans = contacts.flatMap((contact) => {
    const course = typeof contact.on === "object" ? undefined : courseOf(contact.point);
    const { start } = contact;
    const length = contact.end - start + 1;
    return course && length >= 3 ? [{ point: contact.point, start, length, course, ...movement(course, start, length, fps) }] : [];
  });
  yield;
  const trembles = spans.length > 0 && median(spans.map((s) => s.noise)) >= UNFELT ** 2;
  if (legs && trembles)
    for (const point of new Set(spans.map((s) => s.point))) {
      legs.carriersOf(point);
      yield;
    }
  const seen = legs && trembles ? shakingOf(spans, legs) : null;
  const out: SpanEvidence[] = [];
  for (const span of spans) {
    out.push(evidenceOf(span, rootCourse, fps, { seen, legs, known }));
    if (out.length % CONTACTS_AT_ONCE === 0) yield;
  }
  return out;
}

/** A contact's part over its span. */
interface Span extends Pick<Stand, "start" | "length" | "course"> {
  readonly point: string;
  readonly velocity: Float64Array;
  readonly noise: number;
}

/** What else is known as a contact is looked at. */
interface Known {
  readonly seen: Shaking | null;
  readonly legs: LegsSeen | undefined;
  readonly known: Float64Array | undefined;
}

function evidenceOf(span: Span, rootCourse: Float64Array, fps: number, { seen, legs, known }: Known): SpanEvidence {
  const { start, length, course, velocity, noise, point } = span;
  const margin = Math.min(length / 2, CALM_SECONDS * fps);
  const steady = steadiness(known ? velocity.map((v, i) => v - known[start * 2 + i]) : velocity, known ? LEAST_STRAY.known : LEAST_STRAY.unknown);
  // A span too short for that says less in its middle, too.
  const whole = Math.min(1, length / (2 * CALM_SECONDS * fps)) ** 2;
  const weights = new Float64Array(length);
  for (let i = 0; i < length; i++) {
    // A slope reads the frames on both sides: it is as calm as the outer one.
    const edge = Math.max(0, Math.min(i - 0.5, length - i - 1.5)) / margin;
    weights[i] = whole * steady[i] * (edge < 1 ? Math.sin((Math.PI / 2) * edge) ** 4 : 1);
  }
  const line = seen && legs && standWeights({ start, length, course, carriers: legs.carriersOf(point), slope: legs.slope }, seen, seen.uneven, fps);
  if (line) {
    const along = (of: Float64Array, k: 0 | 1, height: (o: number) => number) => {
      let sum = 0;
      for (let i = 0; i < length; i++) {
        const o = (start + i) * 3;
        sum += line.along[k][i * 3] * of[o] + line.along[k][i * 3 + 1] * height(o) + line.along[k][i * 3 + 2] * of[o + 2];
      }
      return sum;
    };
    const axes = (of: Float64Array, height: (o: number) => number) => [along(of, 0, height), along(of, 1, height)] as const;
    const [sx, sz] = legs.slope;
    return {
      start,
      length,
      velocity,
      weights,
      moves: axes(course, (o) => course[o + 1]),
      // What travels wrong takes a part along the ground.
      body: axes(rootCourse, (o) => sx * rootCourse[o] + sz * rootCourse[o + 2]),
      ...sureness(line.covariance),
      trembles: true,
    };
  }
  return {
    start,
    length,
    velocity,
    weights,
    moves: lineSlopes(velocity, steady),
    body: lineSlopes(velocityOver(rootCourse, start, length, fps), steady),
    sure: [1, 0, 1],
    // Slope of a straight line through equidistant places, each off by the noise.
    variance: (12 * noise * fps * fps) / exactness(length),
    trembles: false,
  };
}

/** An inverse covariance as how sure it is one way against another, and the variance that leaves. */
function sureness([xx, xz, zz]: readonly [number, number, number]): Pick<SpanEvidence, "sure" | "variance"> {
  const trace = xx + zz;
  return { sure: [(2 * zz) / trace, (-2 * xz) / trace, (2 * xx) / trace], variance: (2 * (xx * zz - xz * xz)) / trace };
}

/** Inverse variance of the slope of a straight line through so many equidistant places, up to a factor. */
export function exactness(length: number): number {
  return length * (length * length - 1);
}

/** Velocity of a course over a span [frame][2], and the variance of its noise along a level axis, m². */
function movement(course: Float64Array, start: number, length: number, fps: number): { readonly velocity: Float64Array; readonly noise: number } {
  const over = course.subarray(start * 3, (start + length) * 3);
  const noise = [0, 2].reduce((sum, axis) => sum + (length < 5 ? noiseOfFew : noiseLevel)(axisOf(over, axis, 3)) ** 2 / 2, 0);
  return { velocity: velocityOver(course, start, length, fps), noise };
}

/** The same as noiseLevel of three or four samples, one at an end of which may be off: from the smaller of their second differences (the median of it is 0.6745 of the deviation, or of two 0.3745). */
function noiseOfFew(values: Float64Array): number {
  let least = Number.POSITIVE_INFINITY;
  for (let i = 1; i + 1 < values.length; i++) least = Math.min(least, Math.abs(values[i + 1] - 2 * values[i] + values[i - 1]));
  return least / (values.length === 3 ? 0.6745 : 0.3745) / Math.sqrt(6);
}

/** Level velocity of a course [frame][3] over a span, by central differences within it (one-sided at its ends): [frame][2], m/s. */
function velocityOver(course: Float64Array, start: number, length: number, fps: number): Float64Array {
  const out = new Float64Array(length * 2);
  for (let i = 0; i < length; i++) {
    const a = Math.max(0, i - 1);
    const b = Math.min(length - 1, i + 1);
    if (b === a) continue;
    for (let k = 0; k < 2; k++) out[i * 2 + k] = ((course[(start + b) * 3 + 2 * k] - course[(start + a) * 3 + 2 * k]) * fps) / (b - a);
  }
  return out;
}

/** A frame on which a part is this many times as far off its usual velocity as it mostly is does not belong to the stand, and what it is off by at least, m/s: the body's own pace goes up and down within a stand, and what travels wrong with it, until that is known. */
const STRAYS = 6;
const LEAST_STRAY = { unknown: 0.001, known: 0.0003 } as const;

/**
 * How much each frame of a span [frame][2], m/s, is one of a part that stands: in what was found of a foot that lands on its heel, or rolls off, the toe comes down,
 * or leaves, at the ends; it stands where it moves as it mostly does (about the median: wholly up to half of what strays, from there falling as Tukey's biweight).
 */
function steadiness(velocity: Float64Array, least: number): Float64Array {
  const length = velocity.length / 2;
  const quarter = Math.floor(length / 4);
  const [x, z] = [0, 1].map((k) => quantileMutable(axisOf(velocity.subarray(quarter * 2, (length - quarter) * 2), k, 2), 0.5));
  const off = new Float64Array(length);
  for (let i = 0; i < length; i++) {
    const [dx, dz] = [velocity[i * 2] - x, velocity[i * 2 + 1] - z];
    off[i] = Math.sqrt(dx * dx + dz * dz);
  }
  const strays = STRAYS * Math.max(least, median(off.subarray(quarter, length - quarter)));
  for (let i = 0; i < length; i++) {
    const beyond = Math.min(1, Math.max(0, (2 * off[i]) / strays - 1));
    off[i] = (1 - beyond * beyond) ** 2;
  }
  return off;
}

/**
 * Slopes on x and z of the straight line that fits a course best over a span, m/s: the mean of its velocity [frame of the span][2] so weighted, each frame by as much as it is `steady` too. The first and
 * last frame hardly count, which may belong to the swing.
 */
function lineSlopes(velocity: Float64Array, steady: Float64Array): readonly [number, number] {
  const length = velocity.length / 2;
  let [x, z, all] = [0, 0, 0];
  for (let i = 0; i < length; i++) {
    const w = steady[i] * Math.max(0, (i - 0.5) * (length - i - 1.5));
    x += w * velocity[i * 2];
    z += w * velocity[i * 2 + 1];
    all += w;
  }
  return all > 0 ? [x / all, z / all] : [0, 0];
}

/** How legs tremble, and what heights wander by beside that, metres: as much as all of a stand's frames together are off by it. */
interface Shaking extends Trembling {
  readonly uneven: number;
}

/** How much joints tremble, as parts that stand show it beside what the body does as a whole. */
function shakingOf(spans: readonly Span[], { carriersOf, slope }: LegsSeen): Shaking {
  const way = courseNoise(carriersOf(spans[0].point).at(-1) ?? new Float64Array(0));
  const angle = Math.sqrt(median(spans.map((s) => Math.max(0, s.noise - way * way) / leverage({ ...s, carriers: carriersOf(s.point), slope }))));
  // What trembles differs from frame to frame, what wanders is alike two frames on.
  let [alike, all, frames] = [0, 0, 0];
  for (const { start, length, course } of spans) {
    const heights = Float64Array.from({ length }, (_, i) => {
      const o = (start + i) * 3;
      return course[o + 1] - slope[0] * course[o] - slope[1] * course[o + 2];
    });
    const mean = heights.reduce((a, b) => a + b, 0) / length;
    for (let i = 0; i + 2 < length; i++) {
      alike += (heights[i] - mean) * (heights[i + 2] - mean);
      all += (heights[i] - mean) ** 2;
      frames++;
    }
  }
  const wander = frames === 0 ? 0 : Math.max(0, alike / frames - all / frames / Math.sqrt(frames));
  return { angle, way, uneven: Math.sqrt((wander * median(spans.map((s) => s.length))) / 2) };
}
