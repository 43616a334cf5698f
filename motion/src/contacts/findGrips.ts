import type { ContactPoint } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { solveSymmetricMutable } from "../math/solve.ts";
import { calmingFor, plainAway, refineSpan, restlessness, segmentContacts, smoothedNoise, smoothTrack } from "./segment.ts";
import { type JointTrack, pointTrack } from "./tracks.ts";

/** A span (frames, inclusive) and how much the point stirs within it, metres (1 σ). */
export interface RestSpan {
  readonly span: readonly [number, number];
  readonly stirs: number;
}

/** A part may stir by this much where it lies, metres, and may take this long to come to rest, seconds. */
const STILL = 0.002;
const SETTLES = 0.6;
/** Share of its quickest movement nearby below which a part may be resting. */
const SPEED_SHARE = 0.1;

/** Where a course comes to rest at heights (metres over what it may rest on, [frame]) near zero, for so long at least (seconds). */
export function restSpans(course: Float64Array, heights: Float64Array, clip: Pick<Clip, "frameCount" | "fps">, legLength: number, seconds: number): RestSpan[] {
  const { frameCount: n, fps } = clip;
  const calm = calmingFor(course, n, fps);
  const smooth = smoothTrack(course, n, fps, calm.cutoff);
  const most = Math.max(2, Math.round(SETTLES * fps));
  const left = smoothedNoise(calm.noise, calm.cutoff, fps);
  const away = plainAway(smooth, 0);
  return segmentContacts({ track: course, height: heights, frameCount: n, fps, legLength, speedShare: SPEED_SHARE, calm }).flatMap((span) => {
    const stirs = restlessness(smooth, span, away);
    // A body comes to rest by and by, rolling and rocking: only what is still at the end of that lies.
    const still = Math.max(STILL, left, stirs);
    const tolerance = { grow: still, trim: 2.2 * still, landing: 0, ends: 0 };
    const refined = refineSpan(smooth, span, [0, n - 1], tolerance, { out: most, in: most }, away);
    return refined && refined[1] - refined[0] >= seconds * fps ? [{ span: refined, stirs }] : [];
  });
}

/** A hand holds on for at least so long, seconds, within this (1 σ, metres), while the hips move by that much. */
export const HOLDS_FOR = 0.5;
const HOLDS_WITHIN = 0.004;
const HIPS_MOVE = 0.06;
/** A palm that stirs by less than this may be turning about what it holds, metres; which lies no further off its middle than that. */
const TURNS_WITHIN = 0.025;
const IN_HAND = 0.1;
/** How much a hand's own noise counts against not knowing where in it something is held: (3 mm / 7 cm)². */
const PRIOR = 0.002;

/** How much longer another point than the palm has to hold to be taken for the grip. */
const LONGER = 1.2;

/** Where in a hand something is held, and when. */
export interface Grips {
  /** place of the grip in the hand's frame, metres */
  readonly local: readonly [number, number, number];
  readonly spans: readonly (readonly [number, number])[];
}

/**
 * When a hand holds on to something that stays where it is: a point of it rests in the air while the hips move. That is the palm's middle, or where it
 * stirs because the hand turns about what it holds, the point of the hand that stays stillest (least squares over all its spans, drawn to the palm). `track` is its joint's.
 */
export function findGrips(point: ContactPoint, clip: Clip, track: JointTrack, hips: Float64Array, legLength: number): Grips {
  const anywhere = new Float64Array(clip.frameCount);
  const moving = (spans: readonly RestSpan[], within: number) => spans.filter(({ span, stirs }) => stirs <= within && travels(hips, span) >= HIPS_MOVE);
  const spansAt = (local: readonly number[]) => restSpans(pointTrack(track, [...local]), anywhere, clip, legLength, HOLDS_FOR);
  const frames = (spans: readonly RestSpan[]) => spans.reduce((sum, { span }) => sum + span[1] - span[0], 0);
  const byPalm = spansAt(point.local);
  const held = moving(byPalm, HOLDS_WITHIN);
  // Seen from the palm or from the wrist, whichever is calmer for longer.
  const [ofPalm, ofWrist] = [moving(byPalm, TURNS_WITHIN), moving(spansAt([0, 0, 0]), TURNS_WITHIN)];
  const turning = (frames(ofWrist) > frames(ofPalm) ? ofWrist : ofPalm).map((s) => s.span);
  const local = turning.length > 0 ? stillestPoint(track, turning, point.local) : null;
  const near = local && Math.hypot(...local.map((v, i) => v - point.local[i])) <= IN_HAND;
  const byPoint = near ? moving(spansAt(local), HOLDS_WITHIN) : [];
  // The palm has the say unless the other holds for clearly longer.
  if (!local || frames(byPoint) <= LONGER * frames(held)) return { local: point.local, spans: held.map((s) => s.span) };
  return { local, spans: byPoint.map((s) => s.span) };
}

/** The point of a joint's frame that moves least over spans, by least squares about its mean place in each; `near` is where it is drawn to. */
function stillestPoint(
  track: JointTrack,
  spans: readonly (readonly [number, number])[],
  near: readonly [number, number, number],
): [number, number, number] | null {
  const [a, b] = [new Float64Array(9), new Float64Array(3)];
  const axes = [0, 1, 2].map((i) => [0, 1, 2].map((k) => (i === k ? 1 : 0)));
  const v = new Float64Array(3);
  /** The place of the joint and the three axes of its frame at a frame: 12 numbers. */
  const sample = (f: number) => {
    const out = [track.positions[f * 3], track.positions[f * 3 + 1], track.positions[f * 3 + 2]];
    for (const axis of axes) out.push(...rotateVecFlat(v, 0, track.rotations, f * 4, axis, 0));
    return out;
  };
  let count = 0;
  for (const [start, end] of spans) {
    const samples = Array.from({ length: end - start + 1 }, (_, i) => sample(start + i));
    const mean = samples[0].map((_, k) => samples.reduce((sum, s) => sum + s[k], 0) / samples.length);
    for (const s of samples) {
      const d = s.map((value, k) => value - mean[k]);
      for (let i = 0; i < 3; i++) {
        for (let j = 0; j < 3; j++) for (let c = 0; c < 3; c++) a[i * 3 + j] += d[3 + i * 3 + c] * d[3 + j * 3 + c];
        for (let c = 0; c < 3; c++) b[i] -= d[3 + i * 3 + c] * d[c];
      }
    }
    count += samples.length;
  }
  for (let i = 0; i < 3; i++) {
    a[i * 3 + i] += PRIOR * count;
    b[i] += PRIOR * count * near[i];
  }
  return solveSymmetricMutable(a, b, 3) ? [b[0], b[1], b[2]] : null;
}

/** How far the places of a course within a span lie apart, by the box around them, metres. */
export function travels(course: Float64Array, [start, end]: readonly [number, number]): number {
  const [low, high] = [
    [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY],
    [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY],
  ];
  for (let f = start; f <= end; f++)
    for (let axis = 0; axis < 3; axis++) {
      low[axis] = Math.min(low[axis], course[f * 3 + axis]);
      high[axis] = Math.max(high[axis], course[f * 3 + axis]);
    }
  return Math.hypot(...low.map((v, axis) => high[axis] - v));
}
