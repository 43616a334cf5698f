import { flatTrack, rotationBetween } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { travelError } from "../contacts/travel.ts";
import { groundHeight, groundTilt } from "../ground/ground.ts";
import { logQuatFlat, multiplyQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { limbEnds } from "../plants/plants.ts";
import { offMiddle, popSpikes } from "../signal/pops.ts";
import { positionSpikes } from "../signal/positionSpikes.ts";
import { median, quantile } from "../signal/robust.ts";

const DEGREES = 180 / Math.PI;

export interface SpanMeasure {
  readonly contact: Contact;
  /** greatest distance between two places of the part within the span: level in the world, any way on another part */
  readonly slideCm: number;
  /** mean height over the ground; below zero it sinks; 0 on a place of its own or on another part */
  readonly heightCm: number;
  /** level distance from the span's middle place at each frame, cm: the shading of its bar */
  readonly course: Float32Array;
}

export interface JointEvent {
  readonly joint: number;
  readonly start: number;
  readonly end: number;
  readonly value: number;
}

export interface Measures {
  readonly spans: readonly SpanMeasure[];
  /** one-frame jumps of a rotation: value in degrees a frame² */
  readonly pops: readonly JointEvent[];
  /** one-frame jumps, and steps that stay, of a position: value in centimetres */
  readonly jumps: readonly JointEvent[];
  /** steps of over 75° from frame to frame, value in degrees */
  readonly flips: readonly JointEvent[];
  /** stretches of trembling: value is the noise's standard deviation in degrees */
  readonly jitter: readonly JointEvent[];
  /** stretches in which a standing leg is as good as straight, its knee open by 178° or more: value in frames */
  readonly stretched: readonly JointEvent[];
  /** planted parts' movement against the travel, as a share of the travel's speed; positive: the body travels too fast */
  readonly travelErrorShare: number;
  readonly floorHeightCm: number;
  readonly floorTiltDegrees: number;
  /** mean angle between the joints' first and last rotations */
  readonly startEndGapDegrees: number;
  /** the same between frames half the clip apart: what poses of this clip usually differ by */
  readonly usualGapDegrees: number;
}

const LEAST_POP = 6 / DEGREES;
const LEAST_FLIP = 75 / DEGREES;
/** A leg that reaches this share of its full length is straight: two like bones at an angle of 178°. */
const STRAIGHT = 0.99985;

/** Everything the checkup knows of a motion. Cost linear in frames × joints. */
export function measure(motion: Motion): Measures {
  const { clip, character } = motion;
  const tracks = new PointTracks(character.skeleton, clip, motion.points);
  const pops: JointEvent[] = [];
  const flips: JointEvent[] = [];
  const jitter: JointEvent[] = [];
  let gap = 0;
  for (let joint = 0; joint < clip.jointCount; joint++) {
    const lane = flatTrack(clip.rotations[joint], 4);
    for (const f of popSpikes(lane, clip.frameCount, LEAST_POP)) {
      pops.push({ joint, start: f, end: f, value: 2 * offMiddle(lane, f) * DEGREES });
    }
    for (let f = 1; f < clip.frameCount; f++) {
      const angle = rotationBetween(clip, f - 1, clip, f, joint);
      if (angle > LEAST_FLIP) flips.push({ joint, start: f - 1, end: f, value: angle * DEGREES });
    }
    jitter.push(...jitterStretches(lane, clip.frameCount, clip.fps, joint, pops));
    gap += rotationBetween(clip, 0, clip, clip.frameCount - 1, joint) / clip.jointCount;
  }
  const least = LEAST_JUMP_SHARE * character.height;
  const jumps = Array.from(clip.positionJoints).flatMap((joint, slot) =>
    positionSpikes(flatTrack(clip.positions[slot], 3), clip.frameCount, least).map(
      ({ frame, size }): JointEvent => ({ joint, start: frame, end: frame, value: size * 100 }),
    ),
  );
  return {
    spans: motion.contacts.flatMap((contact) => spanMeasure(motion, contact, tracks) ?? []),
    pops,
    jumps,
    flips,
    jitter,
    stretched: stretchedLegs(motion),
    travelErrorShare: travelShare(motion, tracks),
    floorHeightCm: motion.ground.height * 100,
    floorTiltDegrees: groundTilt(motion.ground) * DEGREES,
    startEndGapDegrees: gap * DEGREES,
    usualGapDegrees: usualGap(motion) * DEGREES,
  };
}

/** Pairs of frames half the clip apart that stand for all. */
const GAP_SAMPLES = 12;

function usualGap({ clip }: Motion): number {
  const half = clip.frameCount >> 1;
  const gaps = Array.from({ length: GAP_SAMPLES }, (_, i) => {
    const f = Math.floor((i * (clip.frameCount - 1 - half)) / (GAP_SAMPLES - 1));
    let sum = 0;
    for (let joint = 0; joint < clip.jointCount; joint++) sum += rotationBetween(clip, f, clip, f + half, joint) / clip.jointCount;
    return sum;
  });
  return median(gaps);
}

/** A position that jumps by less than this share of the body's height in a frame is taken for movement. */
const LEAST_JUMP_SHARE = 0.02;

function spanMeasure(motion: Motion, contact: Contact, tracks: PointTracks): SpanMeasure | undefined {
  const course = tracks.spanCourse(contact);
  if (!course) return undefined;
  const n = course.length / 3;
  const axis = (i: number) => Float64Array.from({ length: n }, (_, k) => course[k * 3 + i]);
  const [xs, ys, zs] = [axis(0), axis(1), axis(2)];
  const onPart = typeof contact.on === "object";
  const clearance = tracks.point(contact.point)?.clearance ?? 0;
  let height = 0;
  if (contact.on === "ground")
    for (let i = 0; i < n; i++) height += (ys[i] - clearance - (contact.height ?? 0) - groundHeight(motion.ground, xs[i], zs[i])) / n;
  const [mx, my, mz] = [median(xs), onPart ? median(ys) : 0, median(zs)];
  const off = Float32Array.from(xs, (x, i) => Math.hypot(x - mx, onPart ? ys[i] - my : 0, zs[i] - mz) * 100);
  return { contact, slideCm: widest(xs, onPart ? ys : null, zs) * 100, heightCm: height * 100, course: off };
}

/** Greatest distance between two points of a course; exact for up to 400 points, among every second, third … of more. */
function widest(xs: Float64Array, ys: Float64Array | null, zs: Float64Array): number {
  const n = xs.length;
  const step = Math.max(1, Math.ceil(n / 400));
  let most = 0;
  for (let i = 0; i < n; i += step)
    for (let j = i + 1; j < n; j += step) most = Math.max(most, (xs[i] - xs[j]) ** 2 + (ys ? (ys[i] - ys[j]) ** 2 : 0) + (zs[i] - zs[j]) ** 2);
  return Math.sqrt(most);
}

/**
 * Noise of a joint over short windows: fourth differences of its rotation (third of its turning between frames) over √70, or sixth over
 * √924 if that is less; both are the standard deviation of white noise and nearly nothing for a smooth movement. Frames at a pop are
 * left out.
 */
function jitterStretches(lane: Float64Array, n: number, fps: number, joint: number, pops: readonly JointEvent[]): JointEvent[] {
  if (n < 12) return [];
  const w = new Float64Array((n - 1) * 3);
  const q = new Float64Array(4);
  for (let f = 0; f + 1 < n; f++) {
    const o = f * 4;
    for (let i = 0; i < 4; i++) q[i] = i < 3 ? -lane[o + i] : lane[o + i];
    multiplyQuatFlat(q, 0, q, 0, lane, o + 4);
    logQuatFlat(w, f * 3, q, 0);
  }
  // Variance by the fourth and by the sixth differences: a quick movement at a low frame rate shows in the former alone.
  const noise = new Float64Array(n);
  for (let f = 0; f + 5 < n - 1; f++) {
    let fourth = 0;
    let sixth = 0;
    for (let i = 0; i < 3; i++) {
      const d = [0, 1, 2, 3, 4, 5].map((k) => w[(f + k) * 3 + i]);
      fourth += (d[4] - 3 * d[3] + 3 * d[2] - d[1]) ** 2;
      sixth += (d[5] - 5 * d[4] + 10 * d[3] - 10 * d[2] + 5 * d[1] - d[0]) ** 2;
    }
    noise[f + 3] = Math.min(fourth / 70, sixth / 924);
  }
  for (const pop of pops) if (pop.joint === joint) noise.fill(0, Math.max(0, pop.start - 3), Math.min(n, pop.end + 4));
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
  return events.filter((event) => trembles(w, event));
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

/** Trembling below this is the usual noise of a capture, degrees. */
const LEAST_JITTER = 0.9;

function stretchedLegs(motion: Motion): JointEvent[] {
  const events: JointEvent[] = [];
  const { clip } = motion;
  const { skeleton } = motion.character;
  for (const { limb: leg, points, bears } of limbEnds(motion.character, motion.points)) {
    if (!bears) continue;
    const lane = flatTrack(clip.rotations[leg.lower], 4);
    // Only a plain hinge can be read off the knee's bend: bones' directions in the shin's frame at rest and as bent.
    const u = [0, 1, 2].map((i) => skeleton.offsets[leg.lower * 3 + i]);
    const v = [0, 1, 2].map((i) => skeleton.offsets[leg.end * 3 + i]);
    const l1 = Math.hypot(...u);
    const l2 = Math.hypot(...v);
    const standing = motion.contacts.filter((c) => points.some((p) => p.id === c.point));
    let open: { joint: number; start: number; end: number; value: number } | undefined;
    const flat = new Float64Array(3);
    for (let f = 0; f < clip.frameCount; f++) {
      const o = f * 4;
      const [x, y, z, w] = [lane[o], lane[o + 1], lane[o + 2], lane[o + 3]];
      const tx = 2 * (y * v[2] - z * v[1]);
      const ty = 2 * (z * v[0] - x * v[2]);
      const tz = 2 * (x * v[1] - y * v[0]);
      flat[0] = u[0] + v[0] + w * tx + y * tz - z * ty;
      flat[1] = u[1] + v[1] + w * ty + z * tx - x * tz;
      flat[2] = u[2] + v[2] + w * tz + x * ty - y * tx;
      const straight = Math.hypot(flat[0], flat[1], flat[2]) > STRAIGHT * (l1 + l2) && standing.some((c) => f >= c.start && f <= c.end);
      if (straight) {
        if (open && f === open.end + 1) {
          open.end = f;
          open.value++;
        } else {
          if (open) events.push(open);
          open = { joint: leg.lower, start: f, end: f, value: 1 };
        }
      }
    }
    if (open) events.push(open);
  }
  return events.filter((e) => e.value >= 3);
}

/** A body slower than this on the whole does not travel, m/s. */
const TRAVELS = 0.3;

/** By how much the travel is too fast, as a share of what it should be: planted parts move by share · root where the root goes 1 + share / (1 − share) times as fast. */
function travelShare(motion: Motion, tracks: PointTracks): number {
  const { clip } = motion;
  const { positions } = tracks.joint(motion.character.body.roles.hips ?? 0);
  let path = 0;
  const step = Math.max(1, Math.round(0.3 * clip.fps));
  for (let f = step; f < clip.frameCount; f += step)
    path += Math.hypot(positions[f * 3] - positions[(f - step) * 3], positions[f * 3 + 2] - positions[(f - step) * 3 + 2]);
  if (path < (TRAVELS * (clip.frameCount - 1)) / clip.fps) return 0;
  const { share, drift } = travelError(motion.contacts, tracks.bearing, positions, clip.fps);
  // A drift along the way is a wrong speed too.
  const seconds = (clip.frameCount - 1) / clip.fps;
  const [vx, vz] = [0, 2].map((i) => (positions[(clip.frameCount - 1) * 3 + i] - positions[i]) / seconds);
  const along = Math.hypot(vx, vz) > TRAVELS ? (drift[0] * vx + drift[1] * vz) / (vx * vx + vz * vz) : 0;
  return (share + along) / (1 - share - along);
}

/** The figures people compare, of a whole motion. */
export interface Totals {
  readonly slideWorstCm: number;
  readonly slideP95Cm: number;
  readonly heightWorstCm: number;
  readonly pops: number;
  readonly jumps: number;
  readonly flips: number;
  readonly jitterDegrees: number;
  readonly overStretchedFrames: number;
  readonly travelErrorPercent: number;
  readonly floorHeightCm: number;
  readonly floorTiltDegrees: number;
  readonly startEndGapDegrees: number;
  readonly contacts: number;
}

export function totalsOf(m: Measures): Totals {
  const slides = m.spans.map((s) => s.slideCm);
  return {
    slideWorstCm: largest(slides),
    slideP95Cm: slides.length > 0 ? quantile(slides, 0.95) : 0,
    heightWorstCm: m.spans.reduce((worst, s) => (Math.abs(s.heightCm) > Math.abs(worst) ? s.heightCm : worst), 0),
    pops: m.pops.length,
    jumps: m.jumps.length,
    flips: m.flips.length,
    jitterDegrees: largest(m.jitter.map((j) => j.value)),
    overStretchedFrames: m.stretched.reduce((sum, e) => sum + e.value, 0),
    travelErrorPercent: m.travelErrorShare * 100,
    floorHeightCm: m.floorHeightCm,
    floorTiltDegrees: m.floorTiltDegrees,
    startEndGapDegrees: m.startEndGapDegrees,
    contacts: m.spans.length,
  };
}

/** The largest of some values, 0 for none; a long clip has more of them than a call takes arguments. */
function largest(values: readonly number[]): number {
  return values.reduce((most, v) => Math.max(most, v), 0);
}
