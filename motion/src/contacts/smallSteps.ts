import { slopes } from "../signal/filters.ts";
import { type Calming, middlePoint, smoothTrack } from "./segment.ts";

/** Between two rests that lie this far apart level, metres for a leg of 0.9 m, a part has stepped. */
const STEP = 0.025;
/** A part rests while it is slower than this share of the fastest it is between two rests. */
const RESTS = 0.35;
/** A rest lasts at least so long, seconds, and so long at either end of a span is left out when the fastest is asked for. */
const SHORTEST = 0.08;

/**
 * Splits a span in which a part rests at one place and then at another: small steps are slow beside the swings around them, and by
 * that contrast one rest. Seen by the span's own: slower than a third of the fastest between, at places apart by more than noise and travel explain.
 * A part that skates evenly is never slow against itself, and stays one.
 */
export function splitAtSteps(
  track: Float64Array,
  span: readonly [number, number],
  fps: number,
  legLength: number,
  { noise, cutoff }: Calming,
): (readonly [number, number])[] {
  const [start, end] = span;
  const least = Math.max(3, Math.round(SHORTEST * fps));
  const n = end - start + 1;
  const step = STEP * (legLength / 0.9) + 3 * noise;
  if (n < 3 * least || reach(track, start, end) < step) return [span];
  const course = smoothTrack(track.slice(start * 3, (end + 1) * 3), n, fps, cutoff);
  const axes = [0, 2].map((axis) =>
    slopes(
      Float64Array.from({ length: n }, (_, f) => course[f * 3 + axis]),
      fps,
    ),
  );
  const speed = axes[0].map((v, f) => Math.hypot(v, axes[1][f]));
  const fastest = Math.max(...speed.subarray(least, n - least));
  const rests: [number, number][] = [];
  for (let f = 0; f < n; f++) {
    if (speed[f] >= RESTS * fastest) continue;
    const last = rests.at(-1);
    if (last && f === last[1] + 1) last[1] = f;
    else rests.push([f, f]);
  }
  const out: [number, number][] = [];
  for (const [a, b] of rests) {
    if (b - a + 1 < least) continue;
    const last = out.at(-1);
    if (last && apart(course, last, [a, b]) < step) last[1] = b;
    else out.push([a, b]);
  }
  if (out.length < 2) return [span];
  out[0][0] = 0;
  (out.at(-1) as [number, number])[1] = n - 1;
  return out.map(([a, b]) => [start + a, start + b] as const);
}

/** How far a part gets from where a span begins, level. */
function reach(track: Float64Array, start: number, end: number): number {
  let most = 0;
  for (let f = start; f <= end; f++) most = Math.max(most, Math.hypot(track[f * 3] - track[start * 3], track[f * 3 + 2] - track[start * 3 + 2]));
  return most;
}

function apart(course: Float64Array, a: readonly [number, number], b: readonly [number, number]): number {
  const [p, q] = [middlePoint(course, ...a), middlePoint(course, ...b)];
  return Math.hypot(p[0] - q[0], p[2] - q[2]);
}
