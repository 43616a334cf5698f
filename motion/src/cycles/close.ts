import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { splinedClip } from "../clip/spline.ts";
import { conjugateQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";

/** A stretch whose two ends are to meet: frames (not rounded) of a clip, and what its start becomes at its end. */
export interface Stretch {
  readonly start: number;
  readonly end: number;
  /** over how many frames on both sides of the seam the difference is spread; null: over all of the stretch */
  readonly over: number | null;
  /** a clip as it is one stretch later, and as it was one stretch before: each the other's inverse */
  readonly later: (clip: Clip) => Clip;
  readonly earlier: (clip: Clip) => Clip;
}

/** Speeds are brought together over as much on either side of the seam, seconds, and never over more than a third of the stretch. */
const SPEED_SECONDS = 0.2;

/** The difference between the ends of a track, as what is added at the start and at the end, and to the speeds there (a frame): [3] each. */
interface Gap {
  readonly start: Float64Array;
  readonly end: Float64Array;
  readonly startSpeed: Float64Array;
  readonly endSpeed: Float64Array;
}

/** How often what is still apart once the ends are brought together is looked at again: the spread itself tells in the speeds, and turns do not simply add up. */
const ROUNDS = 3;

/**
 * A clip whose poses and speeds at the end of a stretch are those of its start, one stretch later. Half of the difference goes to either end, so that
 * both meet in the middle, and is spread: rotations in the joint's own frame, c(t) from c₀ to c₁; what the speeds still differ by is taken out close to the seam, where a
 * bump with the right slope and no height at the seam does it. `phaseOf` says for each frame of `clip` how far into the stretch it is, frames.
 */
export function closedClip(clip: Clip, source: Clip, stretch: Stretch, phaseOf: (frame: number) => number): Clip {
  const { start, end, later, earlier } = stretch;
  const length = end - start;
  const step = Math.min(1, length / 3);
  const [headPhases, tailPhases] = [
    [0, step, 2 * step],
    [length - 2 * step, length - step, length],
  ];
  const samples = (phases: number[]) =>
    splinedClip(
      source,
      Float64Array.from(phases, (p) => start + p),
    );
  const [heads, tails] = [samples(headPhases), samples(tailPhases)];
  const spread = spreadOver(length, Math.min(SPEED_SECONDS * clip.fps, length / 3), stretch.over === null ? null : Math.min(stretch.over / 2, length / 2));
  let gaps = noGaps(clip);
  for (let round = 0; round < ROUNDS; round++) {
    const [head, tail] = [withGaps(heads, gaps, spread, (f) => headPhases[f]), withGaps(tails, gaps, spread, (f) => tailPhases[f])];
    const left = gapsOf({ heads: head, tails: tail, headsLater: later(head), tailsEarlier: earlier(tail), step });
    gaps = {
      rotations: gaps.rotations.map((gap, j) => sumOf(gap, left.rotations[j])),
      positions: gaps.positions.map((gap, s) => sumOf(gap, left.positions[s])),
    };
  }
  return withGaps(clip, gaps, spread, phaseOf);
}

/** A gap for each joint's rotation and for each position track; null where the ends meet. */
interface Gaps {
  readonly rotations: readonly (Gap | null)[];
  readonly positions: readonly (Gap | null)[];
}

function noGaps(clip: Clip): Gaps {
  return { rotations: Array.from({ length: clip.jointCount }, () => null), positions: Array.from(clip.positionJoints, () => null) };
}

function sumOf(a: Gap | null, b: Gap | null): Gap | null {
  if (!a || !b) return a ?? b;
  const sum = (u: Float64Array, v: Float64Array) => u.map((x, i) => x + v[i]);
  return { start: sum(a.start, b.start), end: sum(a.end, b.end), startSpeed: sum(a.startSpeed, b.startSpeed), endSpeed: sum(a.endSpeed, b.endSpeed) };
}

/** What a gap adds at a phase, to `dst` [3]. */
type Spread = (dst: Float64Array, gap: Gap, phase: number) => void;

function spreadOver(length: number, bump: number, ramp: number | null): Spread {
  return (dst, gap, phase) => {
    const left = length - phase;
    const [w0, w1] = ramp === null ? [left / length, phase / length] : [1 - quinticStep(phase / ramp), 1 - quinticStep(left / ramp)];
    const s0 = phase < bump ? phase * (1 - phase / bump) ** 2 : 0;
    const s1 = left < bump ? -left * (1 - left / bump) ** 2 : 0;
    for (let i = 0; i < 3; i++) dst[i] = w0 * gap.start[i] + w1 * gap.end[i] + s0 * gap.startSpeed[i] + s1 * gap.endSpeed[i];
  };
}

/** A clip with its gaps spread over it; what has none keeps its bits. */
function withGaps(clip: Clip, gaps: Gaps, spread: Spread, phaseOf: (frame: number) => number): Clip {
  const draft = ClipDraft.of(clip);
  const c = new Float64Array(3);
  const [q, turn] = [new Float64Array(4), new Float64Array(4)];
  gaps.rotations.forEach((gap, j) => {
    if (!gap) return;
    for (let f = 0; f < clip.frameCount; f++) {
      spread(c, gap, phaseOf(f));
      expQuatFlat(turn, 0, c, 0);
      readRotation(clip, j, f, q, 0);
      multiplyQuatFlat(q, 0, q, 0, turn, 0);
      normalizeQuatFlat(q, 0);
      draft.setRotation(j, f, q);
    }
  });
  gaps.positions.forEach((gap, s) => {
    if (!gap) return;
    for (let f = 0; f < clip.frameCount; f++) {
      spread(c, gap, phaseOf(f));
      readPosition(clip, s, f, q, 0);
      draft.setPosition(s, f, [q[0] + c[0], q[1] + c[1], q[2] + c[2]]);
    }
  });
  return draft.done();
}

function gapsOf(ends: Ends): Gaps {
  const { jointCount, positionJoints } = ends.heads;
  return {
    rotations: Array.from({ length: jointCount }, (_, j) => gapOf((list, f, dst) => readRotation(list, j, f, dst, 0), betweenTurns, ends)),
    positions: Array.from(positionJoints, (_, s) =>
      gapOf(
        (list, f, dst) => readPosition(list, s, f, dst, 0),
        (a, b) => Float64Array.of(b[0] - a[0], b[1] - a[1], b[2] - a[2]),
        ends,
      ),
    ),
  };
}

interface Ends {
  readonly heads: Clip;
  readonly tails: Clip;
  readonly headsLater: Clip;
  readonly tailsEarlier: Clip;
  /** frames between the samples of the ends */
  readonly step: number;
}

/** Differences below this are none: far under what samples can tell. */
const NOTHING = 1e-9;

function gapOf(
  read: (clip: Clip, frame: number, dst: Float64Array) => void,
  between: (a: Float64Array, b: Float64Array) => Float64Array,
  { heads, tails, headsLater, tailsEarlier, step }: Ends,
): Gap | null {
  const sample = (clip: Clip, frame: number) => {
    const v = new Float64Array(4);
    read(clip, frame, v);
    return v;
  };
  // Speed at an end from three samples on its inner side, as the parabola through them has it.
  const atHead = (clip: Clip) => {
    const [a, b, d] = [sample(clip, 0), sample(clip, 1), sample(clip, 2)];
    const [ab, ad] = [between(a, b), between(a, d)];
    return ab.map((v, i) => (4 * v - ad[i]) / (2 * step));
  };
  const atTail = (clip: Clip) => {
    const [a, b, d] = [sample(clip, 0), sample(clip, 1), sample(clip, 2)];
    const [db, da] = [between(d, b), between(d, a)];
    return db.map((v, i) => (da[i] - 4 * v) / (2 * step));
  };
  const half = (v: Float64Array, sign: number) => v.map((x) => (sign * x) / 2);
  const start = half(between(sample(heads, 0), sample(tailsEarlier, 2)), 1);
  const end = half(between(sample(tails, 2), sample(headsLater, 0)), 1);
  const [before, here] = [atTail(tailsEarlier), atHead(heads)];
  const [behind, there] = [atHead(headsLater), atTail(tails)];
  const startSpeed = half(
    before.map((v, i) => v - here[i]),
    1,
  );
  const endSpeed = half(
    behind.map((v, i) => v - there[i]),
    1,
  );
  const size = [start, end, startSpeed, endSpeed].reduce((most, v) => Math.max(most, Math.hypot(v[0], v[1], v[2])), 0);
  return size < NOTHING ? null : { start, end, startSpeed, endSpeed };
}

/** log(a⁻¹·b): the turn, in the joint's own frame, from one rotation to another. */
function betweenTurns(a: Float64Array, b: Float64Array): Float64Array {
  const q = new Float64Array(4);
  conjugateQuatFlat(q, 0, a, 0);
  multiplyQuatFlat(q, 0, q, 0, b, 0);
  normalizeQuatFlat(q, 0);
  const v = new Float64Array(3);
  logQuatFlat(v, 0, q, 0);
  return v;
}
