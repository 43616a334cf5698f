import { type Clip, flatTrack, type Track } from "../clip/clip.ts";
import { logQuatFlat, multiplyQuatFlat, quatAngleFlat } from "../math/quat.ts";
import { framesOf, newFrames } from "../signal/holds.ts";
import { offMiddle, popSpikes } from "../signal/pops.ts";
import { positionSpikes } from "../signal/positionSpikes.ts";

const DEGREES = 180 / Math.PI;

/** Something wrong with a joint over some frames, both inclusive. */
export interface JointEvent {
  readonly joint: number;
  readonly start: number;
  readonly end: number;
  readonly value: number;
}

/** What is wrong with the rotations of one joint. */
export interface JointFaults {
  /** one-frame jumps of a rotation: value in degrees a frame² */
  readonly pops: readonly JointEvent[];
  /** steps of over 75° from frame to frame, value in degrees */
  readonly flips: readonly JointEvent[];
  /** stretches of trembling: value is the noise's standard deviation in degrees */
  readonly jitter: readonly JointEvent[];
}

const LEAST_POP = 6 / DEGREES;
const LEAST_FLIP = 75 / DEGREES;
/** Trembling below this is the usual noise of a capture, degrees. */
const LEAST_JITTER = 0.9;
/** … and what one window alone shows has to be so many times that. */
const SURE = 1.2;
/** At fewer poses a second trembling and movement look alike. */
const SLOWEST = 18;

/** Faults of a track, found once: tracks are never changed, and most patches leave most of them as they are. */
const KNOWN = new WeakMap<Track, { readonly joint: number; readonly fps: number; readonly faults: JointFaults }>();

/** Pops, flips and trembling of one joint; those of a track that was looked at before cost nothing. */
export function jointFaults(clip: Clip, joint: number): JointFaults {
  const track = clip.rotations[joint];
  const known = KNOWN.get(track);
  if (known?.joint === joint && known.fps === clip.fps) return known.faults;
  const all = flatTrack(track, 4);
  // Of what goes by steps, the poses: that each is held, and the next one comes all at once, is no fault.
  const kept = newFrames(all, 4);
  const lane = kept ? framesOf(all, 4, kept) : all;
  const n = lane.length / 4;
  const fps = (clip.fps * n) / clip.frameCount;
  const shown = (events: JointEvent[]) => (kept ? events.map((e) => ({ ...e, start: kept[e.start], end: (kept[e.end + 1] ?? clip.frameCount) - 1 })) : events);
  const pops = popSpikes(lane, n, LEAST_POP).map((f): JointEvent => ({ joint, start: f, end: f, value: 2 * offMiddle(lane, f) * DEGREES }));
  const flips: JointEvent[] = [];
  for (let f = 1; f < n; f++) {
    const angle = quatAngleFlat(lane, f * 4 - 4, lane, f * 4);
    if (angle > LEAST_FLIP) flips.push({ joint, start: f - 1, end: f, value: angle * DEGREES });
  }
  const faults = { pops: shown(pops), flips: shown(flips), jitter: shown(jitterStretches(lane, n, fps, joint, pops)) };
  KNOWN.set(track, { joint, fps: clip.fps, faults });
  return faults;
}

/** One-frame jumps, and steps that stay, of the positions of one slot: value in centimetres. Smaller ones than `least`, metres, are movement. */
export function jumpsOf(clip: Clip, slot: number, least: number): JointEvent[] {
  const joint = clip.positionJoints[slot];
  const all = flatTrack(clip.positions[slot], 3);
  const kept = newFrames(all, 3);
  const course = kept ? framesOf(all, 3, kept) : all;
  return positionSpikes(course, course.length / 3, least).map(({ frame, size }): JointEvent => {
    const start = kept ? kept[frame] : frame;
    return { joint, start, end: start, value: size * 100 };
  });
}

/**
 * Noise of a joint over short windows: fourth differences of its rotation (third of its turning between frames) over √70, or sixth over
 * √924 if that is less; both are the standard deviation of white noise and nearly nothing for a smooth movement. Frames at a pop are
 * left out.
 */
function jitterStretches(lane: Float64Array, n: number, fps: number, joint: number, pops: readonly JointEvent[]): JointEvent[] {
  if (n < 12 || fps < SLOWEST) return [];
  const w = turning(lane, n);
  // Variance by the fourth and by the sixth differences: a quick movement at a low frame rate shows in the former alone.
  const noise = new Float64Array(n);
  for (let f = 0; f + 5 < n - 1; f++) {
    let fourth = 0;
    let sixth = 0;
    for (let i = f * 3; i < f * 3 + 3; i++) {
      const third = w[i + 12] - 3 * w[i + 9] + 3 * w[i + 6] - w[i + 3];
      const fifth = w[i + 15] - 5 * w[i + 12] + 10 * w[i + 9] - 10 * w[i + 6] + 5 * w[i + 3] - w[i];
      fourth += third * third;
      sixth += fifth * fifth;
    }
    noise[f + 3] = Math.min(fourth / 70, sixth / 924);
  }
  for (const pop of pops) noise.fill(0, Math.max(0, pop.start - 3), Math.min(n, pop.end + 4));
  const half = Math.max(2, Math.round(0.08 * fps));
  const events: JointEvent[] = [];
  let sum = 0;
  let open: { start: number; end: number; value: number } | undefined;
  for (let f = 0; f < n; f++) {
    if (f === 0) for (let g = 0; g < Math.min(n, half); g++) sum += noise[g];
    if (f + half < n) sum += noise[f + half];
    if (f - half - 1 >= 0) sum -= noise[f - half - 1];
    const sigma = Math.sqrt(Math.max(0, sum) / (2 * half + 1)) * DEGREES;
    if (sigma > LEAST_JITTER) {
      if (open && f - open.end <= half) {
        open.end = f;
        open.value = Math.max(open.value, sigma);
      } else {
        if (open) events.push({ joint, ...open });
        open = { start: f, end: f, value: sigma };
      }
    }
  }
  if (open) events.push({ joint, ...open });
  return events.filter((event) => (event.end - event.start > half || event.value > SURE * LEAST_JITTER) && trembles(w, event));
}

/** Turning of a lane between frames, as rotation vectors [frame][3]. */
function turning(lane: Float64Array, n: number): Float64Array {
  const w = new Float64Array((n - 1) * 3);
  const q = new Float64Array(4);
  for (let f = 0; f + 1 < n; f++) {
    const o = f * 4;
    for (let i = 0; i < 4; i++) q[i] = i < 3 ? -lane[o + i] : lane[o + i];
    multiplyQuatFlat(q, 0, q, 0, lane, o + 4);
    logQuatFlat(w, f * 3, q, 0);
  }
  return w;
}

/** Second differences of white noise are turned against their neighbours by −2/3 on the mean; those of a landing or a quick turn are not. */
const TURNED = -0.35;

/** Is a stretch of turning between frames [frame][3] that of noise, one frame back and the next forth, rather than of a quick movement? */
function trembles(w: Float64Array, { start, end }: Pick<JointEvent, "start" | "end">): boolean {
  const last = w.length / 3 - 1;
  const d = (f: number) => [0, 1, 2].map((i) => w[f * 3 + i] - w[(f - 1) * 3 + i]);
  let [product, square] = [0, 0];
  for (let f = Math.max(1, start - 2); f < Math.min(last, end + 2); f++) {
    const [a, b] = [d(f), d(f + 1)];
    product += a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    square += (a[0] ** 2 + a[1] ** 2 + a[2] ** 2 + b[0] ** 2 + b[1] ** 2 + b[2] ** 2) / 2;
  }
  return square > 0 && product / square < TURNED;
}
