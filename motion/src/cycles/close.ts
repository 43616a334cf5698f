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

/**
 * A clip whose poses and speeds at the end of a stretch are those of its start, one stretch later. Half of the difference goes to either end, so that
 * both meet in the middle, and is spread: rotations in the joint's own frame, c(t) from c₀ to c₁; what the speeds still differ by is taken out close to the seam, where a
 * bump with the right slope and no height at the seam does it. `phaseOf` says for each frame of `clip` how far into the stretch it is, frames.
 */
export function closedClip(clip: Clip, source: Clip, stretch: Stretch, phaseOf: (frame: number) => number): Clip {
  const { start, end, later, earlier } = stretch;
  const length = end - start;
  const heads = splinedClip(source, Float64Array.of(start, start + Math.min(1, length / 3), start + Math.min(2, (2 * length) / 3)));
  const tails = splinedClip(source, Float64Array.of(end - Math.min(2, (2 * length) / 3), end - Math.min(1, length / 3), end));
  const step = Math.min(1, length / 3);
  const [headsLater, tailsEarlier] = [later(heads), earlier(tails)];
  const bump = Math.min(SPEED_SECONDS * clip.fps, length / 3);
  const spread = stretch.over === null ? null : Math.min(stretch.over / 2, length / 2);
  const draft = ClipDraft.of(clip);
  const c = new Float64Array(3);
  const q = new Float64Array(4);
  const turn = new Float64Array(4);
  const at = (gap: Gap, phase: number) => {
    const left = length - phase;
    const [w0, w1] = spread === null ? [left / length, phase / length] : [1 - quinticStep(phase / spread), 1 - quinticStep(left / spread)];
    const s0 = phase < bump ? phase * (1 - phase / bump) ** 2 : 0;
    const s1 = left < bump ? -left * (1 - left / bump) ** 2 : 0;
    for (let i = 0; i < 3; i++) c[i] = w0 * gap.start[i] + w1 * gap.end[i] + s0 * gap.startSpeed[i] + s1 * gap.endSpeed[i];
    return c;
  };
  for (let j = 0; j < clip.jointCount; j++) {
    const gap = gapOf(
      (list, f, dst) => readRotation(list, j, f, dst, 0),
      (a, b) => betweenTurns(a, b),
      { heads, tails, headsLater, tailsEarlier, step },
    );
    if (!gap) continue;
    for (let f = 0; f < clip.frameCount; f++) {
      expQuatFlat(turn, 0, at(gap, phaseOf(f)), 0);
      readRotation(clip, j, f, q, 0);
      multiplyQuatFlat(q, 0, q, 0, turn, 0);
      normalizeQuatFlat(q, 0);
      draft.setRotation(j, f, q);
    }
  }
  for (let s = 0; s < clip.positionJoints.length; s++) {
    const gap = gapOf(
      (list, f, dst) => readPosition(list, s, f, dst, 0),
      (a, b) => Float64Array.of(b[0] - a[0], b[1] - a[1], b[2] - a[2]),
      { heads, tails, headsLater, tailsEarlier, step },
    );
    if (!gap) continue;
    for (let f = 0; f < clip.frameCount; f++) {
      at(gap, phaseOf(f));
      readPosition(clip, s, f, q, 0);
      draft.setPosition(s, f, [q[0] + c[0], q[1] + c[1], q[2] + c[2]]);
    }
  }
  return draft.done();
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
