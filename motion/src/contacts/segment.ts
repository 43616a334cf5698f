import { lowPass, runningMax, runningMin, slopes } from "../signal/filters.ts";
import { median, stillNoise } from "../signal/robust.ts";

export interface SegmentInput {
  /** world course [frame][3] of the point, any travel error already taken out */
  readonly track: Float64Array;
  /** height over the floor [frame], or null while no floor is known */
  readonly height: Float64Array | null;
  readonly frameCount: number;
  readonly fps: number;
  /** hip to ankle, metres: the scale of the body */
  readonly legLength: number;
  /** share of the swing speed below which a part counts as resting: wide while travel is still wrong, narrow after */
  readonly speedShare: number;
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
  const { track, frameCount: n, fps } = input;
  const axis = (i: number) => {
    const values = new Float64Array(n);
    for (let f = 0; f < n; f++) values[f] = track[f * 3 + i];
    return values;
  };
  const axes = [axis(0), axis(1), axis(2)];
  const noise = Math.max(...axes.map(stillNoise));
  const cutoff = smoothingFor(noise);
  const smooth = axes.map((values) => lowPass(values, n, 0, 1, fps, cutoff));
  const v = smooth.map((values) => slopes(values, fps));
  const speed = new Float64Array(n);
  for (let f = 0; f < n; f++) speed[f] = Math.hypot(v[0][f], v[1][f], v[2][f]);
  let height = input.height ? lowPass(input.height, n, 0, 1, fps, cutoff) : undefined;
  if (!height) {
    // No floor yet: height over the lowest point nearby in time, which a tilted floor does not upset.
    const lowest = runningMin(smooth[1], Math.round(0.55 * fps));
    height = smooth[1].map((y, f) => y - lowest[f]);
  }
  return { speed, noise: smoothedNoise(noise, fps), speedNoise: ((2 * Math.PI * cutoff) / Math.sqrt(3)) * smoothedNoise(noise, fps), height };
}

/** Cut-off that a track with this much noise (metres) needs, Hz. */
export function smoothingFor(noise: number): number {
  return noise > 0.006 ? 5 : noise > 0.002 ? 6.5 : noise > 0.0007 ? 9 : 14;
}

/** What white noise of deviation `noise` keeps after that smoothing: the share of the band that passes. */
export function smoothedNoise(noise: number, fps: number): number {
  return noise * Math.sqrt(Math.min(1, (2 * smoothingFor(noise)) / fps));
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

/**
 * Moves both ends of a span to where the part reaches and leaves its resting place: the outermost frames within a tolerance (metres, 3D)
 * of where it rests near that end, growing by at most `most` frames and never beyond `bounds`. Undefined when nothing is left.
 */
export function refineSpan(
  track: Float64Array,
  span: readonly [number, number],
  bounds: readonly [number, number],
  tolerance: { readonly landing: number; readonly lift: number },
  most: number,
): [number, number] | undefined {
  const [a, b] = span;
  const quarter = Math.min(Math.floor((b - a) / 4), most);
  const away = (f: number, rest: readonly number[]) => Math.hypot(track[f * 3] - rest[0], track[f * 3 + 1] - rest[1], track[f * 3 + 2] - rest[2]);
  const early = middlePoint(track, a + quarter, Math.min(b, a + quarter + 2 * most));
  const late = middlePoint(track, Math.max(a, b - quarter - 2 * most), b - quarter);
  let start = a;
  let end = b;
  while (start > Math.max(bounds[0], a - most) && away(start - 1, early) <= tolerance.landing) start--;
  const latest = Math.min(b, a + most);
  while (start < latest && away(start, early) > tolerance.landing) start++;
  while (end < Math.min(bounds[1], b + most) && away(end + 1, late) <= tolerance.lift) end++;
  const earliest = Math.max(a, b - most);
  while (end > Math.max(start, earliest) && away(end, late) > tolerance.lift) end--;
  return end > start ? [start, end] : undefined;
}

/** How far a part usually is from its middle place in the inner half of a span, metres: what it stirs while it certainly rests. */
export function restlessness(track: Float64Array, [start, end]: readonly [number, number]): number {
  const quarter = Math.floor((end - start) / 4);
  const rest = middlePoint(track, start + quarter, end - quarter);
  const away = Float64Array.from({ length: end - start + 1 - 2 * quarter }, (_, i) => {
    const o = (start + quarter + i) * 3;
    return Math.hypot(track[o] - rest[0], track[o + 1] - rest[1], track[o + 2] - rest[2]);
  });
  return median(away);
}

/** Per-axis median of a track over frames a..b. */
export function middlePoint(track: Float64Array, a: number, b: number): [number, number, number] {
  const out: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < 3; i++) {
    const values = new Float64Array(b - a + 1);
    for (let f = a; f <= b; f++) values[f - a] = track[f * 3 + i];
    values.sort();
    const m = values.length >> 1;
    out[i] = values.length % 2 ? values[m] : (values[m - 1] + values[m]) / 2;
  }
  return out;
}
