import { limitAxes, pastLimit } from "../character/limits.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { travelModel } from "../contacts/travel.ts";
import { travelEvidenceSteps } from "../contacts/travelEvidence.ts";
import { groundTilt } from "../ground/ground.ts";
import type { Motion } from "../motion.ts";
import { LEAST_JUMP_SHARE } from "../signal/positionSpikes.ts";
import { quantile } from "../signal/robust.ts";
import { type JointEvent, jointFaults, jumpsOf } from "./jointFaults.ts";
import { type LoopGap, loopGap } from "./loopGap.ts";
import { OfItself } from "./ofItself.ts";
import { type SpanMeasure, SpanMeasurer } from "./spans.ts";
import { stretchedLegs } from "./stretched.ts";

const DEGREES = 180 / Math.PI;

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
  /** stretches in which a joint is past what it may do, where that is known: value in degrees */
  readonly pastLimits: readonly JointEvent[];
  /** planted parts' movement against the travel, as a share of the travel's speed; positive: the body travels too fast */
  readonly travelErrorShare: number;
  readonly floorHeightCm: number;
  readonly floorTiltDegrees: number;
  readonly ends: LoopGap;
}

/** Contacts that are measured between two looks at the clock. */
const SPANS_AT_ONCE = 24;

/** Everything the checkup knows of a motion. Cost linear in frames × joints. */
export function measure(motion: Motion): Measures {
  const steps = measureSteps(motion);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/**
 * The same, a little at a time: a joint, some contacts, the course of a part, the travel. What was measured before of joints and contacts that are still as they were costs
 * next to nothing.
 */
export function* measureSteps(motion: Motion): Generator<void, Measures> {
  const { clip, character } = motion;
  const pops: JointEvent[] = [];
  const flips: JointEvent[] = [];
  const jitter: JointEvent[] = [];
  const ofItself = new OfItself(motion);
  for (let joint = 0; joint < clip.jointCount; joint++) {
    const faults = ofItself.without(jointFaults(clip, joint), joint);
    for (const event of faults.pops) pops.push(event);
    for (const event of faults.flips) flips.push(event);
    for (const event of faults.jitter) jitter.push(event);
    yield;
  }
  const least = LEAST_JUMP_SHARE * character.height;
  const jumps: JointEvent[] = [];
  for (let slot = 0; slot < clip.positions.length; slot++) {
    for (const event of jumpsOf(clip, slot, least)) jumps.push(event);
    yield;
  }
  const spans: SpanMeasure[] = [];
  const measurer = new SpanMeasurer(motion);
  for (const [i, contact] of motion.contacts.entries()) {
    const span = measurer.measure(contact);
    if (span) spans.push(span);
    if (i % SPANS_AT_ONCE === 0) yield;
  }
  yield;
  const stretched = stretchedLegs(motion);
  yield;
  const past: JointEvent[] = [];
  const axes = character.limits.length > 0 ? limitAxes(character) : [];
  for (const limit of character.limits) {
    const own = axes[limit.joint];
    if (own) past.push(...pastLimit(character.skeleton, limit, own, clip));
    yield;
  }
  const travelErrorShare = yield* travelShare(motion);
  yield;
  const ends = loopGap(clip);
  yield;
  return {
    spans,
    pops,
    jumps,
    flips,
    jitter,
    stretched,
    pastLimits: past,
    travelErrorShare,
    floorHeightCm: motion.ground.height * 100,
    floorTiltDegrees: groundTilt(motion.ground) * DEGREES,
    ends,
  };
}

/** A body slower than this on the whole does not travel, m/s. */
const TRAVELS = 0.3;

/** By how much the travel is too fast, as a share of what it should be: planted parts move by share · root where the root goes 1 + share / (1 − share) times as fast. */
function* travelShare(motion: Motion): Generator<void, number> {
  const { clip } = motion;
  const tracks = new PointTracks(motion.character.skeleton, clip, motion.points);
  const { positions } = tracks.joint(motion.character.body.roles.hips ?? 0);
  let path = 0;
  const step = Math.max(1, Math.round(0.3 * clip.fps));
  for (let f = step; f < clip.frameCount; f += step)
    path += Math.hypot(positions[f * 3] - positions[(f - step) * 3], positions[f * 3 + 2] - positions[(f - step) * 3 + 2]);
  if (path < (TRAVELS * (clip.frameCount - 1)) / clip.fps) return 0;
  // Each part's course is followed on its own.
  for (const id of new Set(motion.contacts.map((c) => c.point))) {
    tracks.bearing(id);
    yield;
  }
  const evidence = yield* travelEvidenceSteps(motion.contacts, tracks.bearing, positions, clip.fps, tracks.legs(motion.ground));
  yield;
  const { share, drift } = travelModel(evidence, positions, clip.fps);
  yield;
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
    startEndGapDegrees: m.ends.gap,
    contacts: m.spans.length,
  };
}

/** The largest of some values, 0 for none; a long clip has more of them than a call takes arguments. */
function largest(values: readonly number[]): number {
  return values.reduce((most, v) => Math.max(most, v), 0);
}
