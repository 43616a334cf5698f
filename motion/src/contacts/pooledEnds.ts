import type { MostMoved } from "./segment.ts";

/** A part is clearly away from where it rested at so many metres for a leg of 0.9 m, or at so many deviations of its noise. */
const CLEAR = 0.025;
const CLEAR_SIGMAS = 6;
/** How long after its span a part is followed until it is clearly away, and how much of the span is looked at, seconds. */
const FOLLOWED = 0.25;
const INNER = 0.12;
/** What is nearest to an end is not asked for where the part rests, seconds. */
const MARGIN = 0.02;
/** When a part is so many times as far away as is clear tells as well when it left. */
const MULTIPLES = [1.5, 2, 3] as const;
/** Powers of the time with which parts leave: 2 where they speed up evenly. */
const POWERS = [1, 1.5, 2, 2.5, 3] as const;
const LIKELY_POWER = 2.25;
const POWER_SIGMA = 1;
/** Steps of the times tried, frames, and at least so many seconds. */
const STEP = 0.125;
const STEP_SECONDS = 0.005;
/** Each is seen with so many before and after it: more tell no more. */
const NEIGHBOURS = 15;
/** Leaves of one part that differ in speed by this share are like each other (1 σ). */
const ALIKE = 0.15;
/** A part that leaves within so many frames of a frame has rested on it. */
const ROUNDED = 0.1;
/** A part may rest still on a frame that is no later than so many deviations of that moment. */
const DOUBT_SIGMAS = 2;

/** A span as all of them together show it. */
export interface PooledSpan {
  readonly start: number;
  readonly end: number;
  /** frames before and after it on which the part may rest as well */
  readonly doubtful: readonly [number, number];
}

/** A part leaving a span in time, or coming to it against time: frames count away from the span. */
interface Leaving {
  readonly span: number;
  /** frame at which it is clearly away, with its fraction */
  readonly at: number;
  /** how many frames later it is so many times as far: `MULTIPLES`; NaN where it does not come that far */
  readonly later: readonly number[];
  /** metres a frame from there on */
  readonly speed: number;
  /** how surely that is known: deviation of its logarithm */
  readonly unsure: number;
  /** frames from `at`, and how far the part is from where it rested: along its way, up, and across, [frame][3] metres */
  readonly times: Float64Array;
  readonly places: Float64Array;
}

/** A part that trembles, and how it does. */
export interface TremblingPart {
  /** its course as it came, [frame][3] metres */
  readonly course: Float64Array;
  /** metres along an axis, 1 σ */
  readonly noise: number;
  readonly fps: number;
  /** hip to ankle, metres */
  readonly legLength: number;
  /** how far it is clearly away, metres; by its leg and its noise, where absent */
  readonly clear?: number;
}

/**
 * Ends of the spans of a trembling part, found from all of them together. One landing or lift alone is lost in the noise, but those of a gait are alike: each is laid
 * over the others at the moment at which the part is clearly away (D metres), and a course is fitted through all of them that rests until L frames before and then
 * goes as D·((t + L)/L)^p (least squares). Each end takes its L from those like it in speed, as the mean over all L and p weighed by their likelihood: what
 * p was is hardly to be seen, and need not be known. An end is moved by at most so many frames, and never beyond its neighbours.
 */
export function pooledEnds(spans: readonly (readonly [number, number])[], part: TremblingPart, most: MostMoved): PooledSpan[] {
  const { noise, legLength, clear = Math.max(CLEAR * (legLength / 0.9), CLEAR_SIGMAS * noise) } = part;
  const out = spans.map(([a, b]): [number, number] => [a, b]);
  const doubtful = spans.map((): [number, number] => [0, 0]);
  for (const way of [-1, 1] as const) {
    const leaving = spans.flatMap((_, i) => leavingOf(spans, i, way, part, clear) ?? []);
    const likes = likeness(leaving);
    const aligned = leaving.map((one, i) => shifted(one, way, lateness(leaving, likes[i], i)));
    const leads = leadsOf(aligned, likes, noise, part.fps);
    aligned.forEach(({ span, at }, i) => {
      const [start, end] = out[span];
      const { frames, sigma } = leads[i];
      // The last frame on which it rests lies before the moment at which it leaves.
      const leaves = way * at - frames + ROUNDED;
      const rests = Math.floor(leaves);
      doubtful[span][way > 0 ? 1 : 0] = Math.floor(leaves + DOUBT_SIGMAS * sigma) - rests;
      const was = way * (way > 0 ? end : start);
      const moved = way * Math.max(was - most.in, Math.min(was + most.out, rests));
      if (way > 0) out[span][1] = Math.max(start + 1, Math.min(moved, (spans[span + 1]?.[0] ?? Number.POSITIVE_INFINITY) - 2));
      else out[span][0] = Math.min(end - 1, Math.max(moved, (spans[span - 1]?.[1] ?? Number.NEGATIVE_INFINITY) + 2));
    });
  }
  return out.map(([start, end], i) => ({ start, end, doubtful: doubtful[i] }));
}

function leavingOf(
  spans: readonly (readonly [number, number])[],
  i: number,
  way: -1 | 1,
  { course, noise, fps }: TremblingPart,
  clear: number,
): Leaving | null {
  const last = course.length / 3 - 1;
  const [a, b] = spans[i];
  const end = way > 0 ? b : a;
  // What rests on the clip's first or last frame has not come, or gone, there.
  if (end === 0 || end === last) return null;
  const next = spans[i + way];
  const room = Math.min(Math.round(FOLLOWED * fps), way > 0 ? (next ? next[0] - 1 : last) - end : end - (next ? next[1] + 1 : 0));
  const length = b - a + 1;
  const inner = Math.min(Math.max(2, Math.min(Math.round(INNER * fps), length >> 1)), length - 1);
  const rest = restNear(course, end, way, length, inner, Math.max(1, Math.round(MARGIN * fps)));
  const away = (k: number) => {
    const o = (end + way * k) * 3;
    return Math.hypot(course[o] - rest[0], course[o + 1] - rest[1], course[o + 2] - rest[2]);
  };
  const reaches = (distance: number, from: number) => {
    let k = from;
    while (k <= room && away(k) < distance) k++;
    return k > room ? null : k;
  };
  const k = reaches(clear, 1);
  if (k === null) return null;
  const between = (distance: number, at: number) => at - 1 + Math.max(0, Math.min(1, (distance - away(at - 1)) / (away(at) - away(at - 1))));
  const past = between(clear, k);
  const later = MULTIPLES.map((m) => {
    const at = reaches(m * clear, k);
    return at === null ? Number.NaN : between(m * clear, at) - past;
  });
  const [further, takes] = Number.isNaN(later[1]) ? [away(room) - clear, room - past] : [clear, later[1]];
  const speed = Math.max(further, 0.1 * clear) / Math.max(takes, 0.25);
  const [ux, uz] = wayAlong(course, (end + way * k) * 3, Math.max(0, Math.min(last, end + way * (k + 1))) * 3, rest);
  const times = new Float64Array(k + inner + 1);
  const places = new Float64Array(times.length * 3);
  for (let j = -inner; j <= k; j++) {
    const o = (end + way * j) * 3;
    const [x, y, z] = [course[o] - rest[0], course[o + 1] - rest[1], course[o + 2] - rest[2]];
    times[j + inner] = j - past;
    places.set([x * ux + z * uz, y, z * ux - x * uz], (j + inner) * 3);
  }
  return { span: i, at: end + way * past, later, speed, unsure: (2 * noise) / clear, times, places };
}

/** Mean place of a part over frames of its span that lie near one end, but not right at it. */
function restNear(course: Float64Array, end: number, way: number, length: number, inner: number, margin: number): [number, number, number] {
  const first = Math.min(margin, Math.max(0, length - 3));
  const final = Math.min(margin + inner, length - (length > 4 ? 2 : 1));
  const out: [number, number, number] = [0, 0, 0];
  for (let k = first; k <= final; k++) for (let c = 0; c < 3; c++) out[c] += course[(end - way * k) * 3 + c] / (final - first + 1);
  return out;
}

/** Level direction from a place to the middle of two frames of a course (indices of their x). */
function wayAlong(course: Float64Array, a: number, b: number, from: readonly number[]): [number, number] {
  const x = course[a] + course[b] - 2 * from[0];
  const z = course[a + 2] + course[b + 2] - 2 * from[2];
  const length = Math.hypot(x, z);
  return length > 0 ? [x / length, z / length] : [1, 0];
}

/** How much each counts for each: 1 where they leave alike. */
function likeness(leaving: readonly Leaving[]): number[][] {
  return leaving.map((one, i) =>
    leaving.map((other, j) => {
      if (Math.abs(i - j) > NEIGHBOURS) return 0;
      const off = Math.log(other.speed / one.speed);
      const weight = Math.exp((-0.5 * off * off) / (ALIKE ** 2 + one.unsure ** 2 + other.unsure ** 2));
      return weight < 0.01 ? 0 : weight;
    }),
  );
}

/** By how many frames a part was clearly away too late for when it came further, as those like it have it: the noise of one frame is not that of the next. */
function lateness(leaving: readonly Leaving[], likes: readonly number[], i: number): number {
  const off = [0];
  MULTIPLES.forEach((_, m) => {
    let [weight, sum] = [0, 0];
    leaving.forEach(({ later }, j) => {
      if (Number.isNaN(later[m])) return;
      weight += likes[j];
      sum += likes[j] * later[m];
    });
    if (!Number.isNaN(leaving[i].later[m])) off.push(sum / weight - leaving[i].later[m]);
  });
  return off.reduce((a, b) => a + b, 0) / off.length;
}

/** The same, clearly away so many frames sooner. */
function shifted(one: Leaving, way: number, by: number): Leaving {
  return { ...one, at: one.at - way * by, times: one.times.map((t) => t + by) };
}

/** How many frames before it is clearly away each leaves, and how surely that is known (1 σ). */
function leadsOf(
  leaving: readonly Leaving[],
  likes: readonly (readonly number[])[],
  noise: number,
  fps: number,
): { readonly frames: number; readonly sigma: number }[] {
  if (leaving.length === 0) return [];
  const longest = Math.max(...leaving.map((s) => -s.times[0])) - 1;
  const step = Math.max(STEP, STEP_SECONDS * fps);
  const leads = Array.from({ length: Math.max(1, Math.floor((longest - 0.5) / step) + 1) }, (_, i) => 0.5 + i * step);
  const sums = leaving.map((one) => sumsOf(one, leads));
  const squares = leaving.map(({ places }) => places.reduce((sum, v) => sum + v * v, 0));
  const total = new Float64Array(leads.length * POWERS.length * 4);
  const costs = new Float64Array(leads.length * POWERS.length);
  return leaving.map((one, i) => {
    total.fill(0);
    let [square, count] = [0, 0];
    for (let j = Math.max(0, i - NEIGHBOURS); j <= Math.min(leaving.length - 1, i + NEIGHBOURS); j++) {
      const weight = likes[i][j];
      if (weight === 0) continue;
      square += weight * squares[j];
      count += weight * leaving[j].places.length;
      addTo(total, weight, sums[j]);
    }
    for (let t = 0, o = 0; t < costs.length; t++, o += 4)
      costs[t] = square - (total[o] > 0 ? (total[o + 1] ** 2 + total[o + 2] ** 2 + total[o + 3] ** 2) / total[o] : 0);
    const least = Math.min(...costs);
    const variance = Math.max(least / Math.max(1, count - 5), (noise / 2) ** 2);
    let [all, sum, squared] = [0, 0, 0];
    for (let i = 0; i < costs.length; i++) {
      const power = POWERS[Math.floor(i / leads.length)];
      const w = Math.exp(-(costs[i] - least) / (2 * variance) - 0.5 * ((power - LIKELY_POWER) / POWER_SIGMA) ** 2);
      all += w;
      sum += w * leads[i % leads.length];
      squared += w * leads[i % leads.length] ** 2;
    }
    const mean = sum / all;
    return { frames: mean, sigma: Math.sqrt(Math.max(0, squared / all - mean * mean) + (noise / one.speed) ** 2) };
  });
}

function addTo(total: Float64Array, weight: number, values: Float64Array): void {
  for (let t = 0; t < total.length; t++) total[t] += weight * values[t];
}

/** Of each power and lead: Σ q² and Σ q·place over the frames, q being what the model says there; [power][lead][4]. */
function sumsOf({ times, places }: Leaving, leads: readonly number[]): Float64Array {
  const out = new Float64Array(leads.length * POWERS.length * 4);
  const stride = leads.length * 4;
  for (let l = 0; l < leads.length; l++) {
    const lead = leads[l];
    for (let i = 0; i < times.length; i++) {
      const s = (times[i] + lead) / lead;
      if (s <= 0) continue;
      const root = Math.sqrt(s);
      const [along, up, across] = [places[i * 3], places[i * 3 + 1], places[i * 3 + 2]];
      let q = s;
      for (let p = 0, o = l * 4; p < POWERS.length; p++, o += stride) {
        out[o] += q * q;
        out[o + 1] += q * along;
        out[o + 2] += q * up;
        out[o + 3] += q * across;
        q *= root;
      }
    }
  }
  return out;
}
