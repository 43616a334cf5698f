import { axisOf, lowPass, runningMax, runningMin, slopes } from "../signal/filters.ts";
import { quantileMutable, stillNoise } from "../signal/robust.ts";

export interface SegmentInput {
  /** world course [frame][3] of the point, any travel error already taken out */
  readonly track: Float64Array;
  /** height over the floor [frame], or null while no floor is known */
  readonly height: Float64Array | null;
  /** height at which the body goes [frame], as far as it climbs or comes down by and by; null where that is not to be counted on */
  readonly climb?: Float64Array | null;
  readonly frameCount: number;
  readonly fps: number;
  /** hip to ankle, metres: the scale of the body */
  readonly legLength: number;
  /** share of the swing speed below which a part counts as resting: wide while travel is still wrong, narrow after */
  readonly speedShare: number;
  readonly calm: Calming;
}

/** Spans shorter and gaps shorter than these are not believed, seconds. */
const SHORTEST_SPAN = 0.07;
const SHORTEST_GAP = 0.05;
/** Slowest swing that makes a contrast, m/s for a leg of 0.9 m: standing feet that only shuffle stay "resting". */
const LEAST_SWING = 0.55;
/** While no floor is known, height over what is lowest nearby says little: a swinging foot may be drawn through the ground. */
const LEAST_BY_GUESS = -1.5;
/** Evidence a second of certain contact or flight carries, against a cost of one change of state. */
const EVIDENCE_RATE = 60;
const SWITCH_COST = 4;

/**
 * Splits one part's course into resting and moving by contrast: speed against the swing speed around it (a skating foot is slow, not
 * still) and height over its floor; a two-state Viterbi pass joins the evidence. Returns inclusive [start, end] spans.
 */
export function segmentContacts(input: SegmentInput): [number, number][] {
  const { frameCount: n, fps, legLength } = input;
  const scale = legLength / 0.9;
  const evidence = new Float64Array(n);
  const { speed, noise, speedNoise, height } = speedAndHeight(input);
  const swing = runningMax(speed, Math.round(0.9 * fps));
  const heightTolerance = 0.022 * scale + 2.5 * noise;
  for (let f = 0; f < n; f++) {
    const contrast = Math.max(swing[f], LEAST_SWING * Math.sqrt(scale));
    const threshold = input.speedShare * contrast + 2.5 * speedNoise;
    const bySpeed = Math.max(-3, Math.min(2, 2 * Math.log(threshold / Math.max(1e-6, speed[f]))));
    const byHeight = Math.max(input.height ? -5 : LEAST_BY_GUESS, Math.min(0.7, 1.6 * (1 - height[f] / heightTolerance)));
    evidence[f] = bySpeed + byHeight;
  }
  return tidySpans(viterbi(evidence, EVIDENCE_RATE / fps, SWITCH_COST), n, fps);
}

function speedAndHeight(input: SegmentInput): { speed: Float64Array; noise: number; speedNoise: number; height: Float64Array } {
  const { frameCount: n, fps } = input;
  const { noise, cutoff } = input.calm;
  const smooth = smoothTrack(input.track, n, fps, cutoff);
  const speed = speedOf(smooth, n, fps);
  let height = input.height ? lowPass(input.height, n, 0, 1, fps, cutoff) : undefined;
  if (!height) {
    // No floor yet: height over the lowest point nearby in time, as it is or as it goes up and down with the body, which a tilted floor does not upset.
    const y = axisOf(smooth, 1, 3);
    const overLowest = (values: Float64Array) => {
      const lowest = runningMin(values, Math.round(0.55 * fps));
      return values.map((v, f) => v - lowest[f]);
    };
    const { climb } = input;
    const climbing = climb && overLowest(y.map((v, f) => v - climb[f]));
    height = overLowest(y).map((v, f) => (climbing ? Math.min(v, climbing[f]) : v));
  }
  const left = smoothedNoise(noise, cutoff, fps);
  return { speed, noise: left, speedNoise: ((2 * Math.PI * cutoff) / Math.sqrt(3)) * left, height };
}

/** How much a course trembles (metres, 1 σ, of its worst axis), and the cut-off that calms it, Hz. */
export interface Calming {
  readonly noise: number;
  readonly cutoff: number;
}

/** Speed that noise may still make, as a share of the speed that the part swings at. */
const SPEED_LEFT = 0.02;
/** No course is smoothed less or more than this, Hz. */
const QUICKEST = 14;

/**
 * The smoothing that a course needs and bears: slow courses are smoothed until their noise is small, quick ones only until the speed it makes is
 * small beside that of their swing, so that a short stance is not blurred away. White noise σ under a cut-off c keeps σ·√(2c/fps), and
 * makes a speed of 2π·c/√3 times that.
 */
export function calmingFor(track: Float64Array, n: number, fps: number): Calming {
  const noise = Math.max(...[0, 1, 2].map((axis) => stillNoise(axisOf(track, axis, 3))));
  const widest = noise > 0.006 ? 5 : noise > 0.002 ? 6.5 : noise > 0.0007 ? 9 : QUICKEST;
  if (widest === QUICKEST) return { noise, cutoff: QUICKEST };
  const swing = quantileMutable(speedOf(smoothTrack(track, n, fps, widest), n, fps), 0.95);
  const enough = ((SPEED_LEFT * swing * Math.sqrt(3)) / (2 * Math.PI * noise * Math.sqrt(2 / fps))) ** (2 / 3);
  return { noise, cutoff: Math.max(widest, Math.min(QUICKEST, enough)) };
}

/** A course [frame][3] low-passed. */
export function smoothTrack(track: Float64Array, n: number, fps: number, cutoff: number): Float64Array {
  const out = new Float64Array(n * 3);
  for (let axis = 0; axis < 3; axis++) {
    const smooth = lowPass(track, n, axis, 3, fps, cutoff);
    for (let f = 0; f < n; f++) out[f * 3 + axis] = smooth[f];
  }
  return out;
}

function speedOf(track: Float64Array, n: number, fps: number): Float64Array {
  const [x, y, z] = [0, 1, 2].map((axis) => slopes(axisOf(track, axis, 3), fps));
  for (let f = 0; f < n; f++) x[f] = Math.sqrt(x[f] * x[f] + y[f] * y[f] + z[f] * z[f]);
  return x;
}

/** What white noise of deviation `noise` keeps after a smoothing: the share of the band that passes. */
export function smoothedNoise(noise: number, cutoff: number, fps: number): number {
  return noise * Math.sqrt(Math.min(1, (2 * cutoff) / fps));
}

/** Most likely sequence of two states: `evidence` (log-odds of resting) per frame times `rate`, minus `cost` for each change. */
function viterbi(evidence: Float64Array, rate: number, cost: number): Uint8Array {
  const n = evidence.length;
  const cameFromOther = new Uint8Array(n * 2);
  let move = 0;
  let rest = 0;
  for (let f = 0; f < n; f++) {
    const e = evidence[f] * rate * 0.5;
    const toMove = rest - cost > move ? 1 : 0;
    const toRest = move - cost > rest ? 1 : 0;
    cameFromOther[f * 2] = toMove;
    cameFromOther[f * 2 + 1] = toRest;
    const nextMove = (toMove ? rest - cost : move) - e;
    const nextRest = (toRest ? move - cost : rest) + e;
    move = nextMove;
    rest = nextRest;
  }
  const states = new Uint8Array(n);
  let state = rest > move ? 1 : 0;
  for (let f = n - 1; f >= 0; f--) {
    states[f] = state;
    if (cameFromOther[f * 2 + state]) state = 1 - state;
  }
  return states;
}

/** Runs of resting frames, short gaps bridged, short runs dropped (a run cut by the clip's end may be shorter). */
function tidySpans(states: Uint8Array, n: number, fps: number): [number, number][] {
  const spans: [number, number][] = [];
  for (let f = 0; f < n; f++) {
    if (!states[f]) continue;
    const last = spans.at(-1);
    if (last && f - last[1] - 1 < SHORTEST_GAP * fps) last[1] = f;
    else spans.push([f, f]);
  }
  return spans.filter(([a, b]) => b - a + 1 >= SHORTEST_SPAN * fps * (a === 0 || b === n - 1 ? 0.5 : 1));
}

/** How far a part is from a place on a frame, metres. */
export type Away = (f: number, rest: readonly number[]) => number;

/** As the crow flies, but for so much of its height. */
export function plainAway(track: Float64Array, heave: number): Away {
  return (f, rest) => {
    const dx = track[f * 3] - rest[0];
    const dy = Math.max(0, Math.abs(track[f * 3 + 1] - rest[1]) - heave);
    const dz = track[f * 3 + 2] - rest[2];
    return Math.sqrt(dx * dx + dy * dy + dz * dz);
  };
}

/** Distances from its resting place (metres) within which a span grows, and beyond which it is trimmed; on landing none is less than `landing`. */
export interface RestTolerance {
  readonly grow: number;
  readonly trim: number;
  readonly landing: number;
  /** what a resting part may be off at most where nothing has been smoothed: right at the clip's ends */
  readonly ends: number;
}

/** The most that a span may be moved at either end, frames: inwards it stops where the part rests anyway. */
export interface MostMoved {
  readonly out: number;
  readonly in: number;
}

/**
 * Moves both ends of a span to where the part reaches and leaves its resting place (3D, where it rests near that end), growing and shrinking by at
 * most so many frames and never beyond `bounds`: it grows by how far the part is `away`, and is trimmed of what `leaves`. Undefined when nothing is left.
 */
export function refineSpan(
  track: Float64Array,
  span: readonly [number, number],
  bounds: readonly [number, number],
  { grow, trim, landing, ends }: RestTolerance,
  { out: most, in: mostIn }: MostMoved,
  away: Away,
  leaves: Away = away,
): [number, number] | undefined {
  const [a, b] = span;
  const quarter = Math.min(Math.floor((b - a) / 4), most);
  const early = middlePoint(track, a + quarter, Math.min(b, a + quarter + 2 * most));
  const late = middlePoint(track, Math.max(a, b - quarter - 2 * most), b - quarter);
  let start = a;
  let end = b;
  while (start > Math.max(bounds[0], a - most) && away(start - 1, early) <= Math.max(grow, landing)) start--;
  const latest = Math.min(b, a + mostIn);
  while (start < latest && leaves(start, early) > Math.max(trim, landing)) start++;
  while (end < Math.min(bounds[1], b + most) && away(end + 1, late) <= grow) end++;
  const earliest = Math.max(a, b - mostIn);
  while (end > Math.max(start, earliest) && leaves(end, late) > trim) end--;
  if (end <= start) return undefined;
  // What is still there on the clip's first or last frame has rested all along: only noise parted it from the end.
  const last = track.length / 3 - 1;
  const stays = (from: number, to: number, rest: readonly number[]) => {
    for (let f = from; f <= to; f++) if (away(f, rest) > Math.max(ends, STILL_THERE * trim)) return false;
    return true;
  };
  if (start <= most && bounds[0] === 0 && stays(0, start, early)) start = 0;
  if (last - end <= most && bounds[1] === last && stays(end, last, late)) end = last;
  return [start, end];
}

/** A part rests on one side of a frame where it moves by less than this share of what it moves in two frames on the other. */
const RESTS_BESIDE = 0.25;

/**
 * Puts a part to rest, in place, at frames at which it was not seen and was filled in smoothly, where it comes to rest or leaves just there: it rests on one side
 * of the frame (or skates on evenly), and on the other it is four times as far from there after two frames as after one, or further. What speeds up
 * evenly goes as the square of the time, so that it has left on that frame at the earliest. A smooth filling cuts such a corner.
 */
export function restAtUnseen(track: Float64Array, unseen: Iterable<number>): void {
  for (const f of unseen) {
    if (f < 2 || (f + 3) * 3 > track.length) continue;
    for (const out of [-1, 1]) {
      const [rest, before] = [(f - out) * 3, (f - 2 * out) * 3];
      const skates = [0, 1, 2].map((i) => track[rest + i] - track[before + i]);
      // How far it is, after so many frames, from where it would have skated to.
      const off = (frames: number) => Math.hypot(...skates.map((v, i) => track[(f + out * frames) * 3 + i] - track[rest + i] - (frames + 1) * v));
      if (Math.hypot(...skates) < RESTS_BESIDE * off(2) && 4 * off(1) <= off(2)) for (let i = 0; i < 3; i++) track[f * 3 + i] = track[rest + i] + skates[i];
    }
  }
}

/** Towards the clip's ends a part that rests may be this many times further off than one that is taken to have left. */
const STILL_THERE = 3.5;

/** Median length of a vector of three independent standard normal components. */
const MEDIAN_LENGTH = 1.538;

/** How much a part stirs in the inner half of a span, where it certainly rests: deviation an axis, metres (1 σ). */
export function restlessness(track: Float64Array, [start, end]: readonly [number, number], away: Away): number {
  const quarter = Math.floor((end - start) / 4);
  const rest = middlePoint(track, start + quarter, end - quarter);
  const off = new Float64Array(end - start + 1 - 2 * quarter);
  for (let i = 0; i < off.length; i++) off[i] = away(start + quarter + i, rest);
  return quantileMutable(off, 0.5) / MEDIAN_LENGTH;
}

/** Per-axis median of a track over frames a..b. */
export function middlePoint(track: Float64Array, a: number, b: number): [number, number, number] {
  const out: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < 3; i++) {
    const values = new Float64Array(b - a + 1);
    for (let f = a; f <= b; f++) values[f - a] = track[f * 3 + i];
    out[i] = quantileMutable(values, 0.5);
  }
  return out;
}
