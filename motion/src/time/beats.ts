import { monotoneSlopes } from "./timeCurve.ts";
import { identityWarp, SAME_MOMENT, type TimeWarp, type WarpPiece } from "./warp.ts";

/** A mark on a moment of what is received, and the moment at which the result shows it, seconds. A locked one stays where it is when others are moved. */
export interface Beat {
  readonly from: number;
  readonly to: number;
  readonly locked?: boolean;
}

export type Between = "even" | "eased";

/** Least time between two beats of the result, seconds: far below a frame. */
const LEAST_GAP = 1e-4;

/** Where beats cannot be used: which one, and why. */
export function beatProblem(beats: readonly Beat[]): { readonly index: number; readonly reason: string } | null {
  for (let i = 1; i < beats.length; i++) {
    if (beats[i].from < beats[i - 1].from) return { index: i, reason: "marks a moment before the beat in front of it" };
    if (beats[i].to - beats[i - 1].to < LEAST_GAP) return { index: i, reason: "comes no later than the beat in front of it" };
  }
  return null;
}

/**
 * The map of time that beats make of a motion of `seconds`: through every beat exactly; between two at one speed ("even") or along a monotone cubic
 * without overshoot ("eased"); before the first and behind the last at the motion's own speed, its first pose held where a beat is later than what comes
 * before it fills. Beats outside the motion take no part. Without beats the whole runs at `speed`.
 */
export function beatWarp(beats: readonly Beat[], between: Between, speed: number, seconds: number): TimeWarp {
  const used = beats
    .filter((b) => b.from >= -SAME_MOMENT && b.from <= seconds + SAME_MOMENT)
    .map((b) => ({ ...b, from: Math.max(0, Math.min(seconds, b.from)) }));
  if (used.length === 0)
    return speed === 1 ? identityWarp(seconds) : { seconds: seconds / speed, pieces: [{ outStart: 0, outEnd: seconds / speed, inStart: 0, inEnd: seconds }] };
  const [head] = used;
  const tail = used[used.length - 1];
  const pieces: WarpPiece[] = [];
  const add = (piece: WarpPiece) => {
    if (piece.outEnd > piece.outStart) pieces.push(piece);
  };
  if (head.to > head.from) add({ outStart: 0, outEnd: head.to - head.from, inStart: 0, inEnd: 0 });
  const start = Math.max(0, head.to - head.from);
  if (head.to > 0) add({ outStart: start, outEnd: head.to, inStart: head.from - (head.to - start), inEnd: head.from });
  const slopes =
    between === "eased"
      ? monotoneSlopes(
          used.map((b) => b.to),
          used.map((b) => b.from),
          1,
        )
      : null;
  for (let i = 1; i < used.length; i++) {
    const [a, b] = [used[i - 1], used[i]];
    const stretch = { outStart: Math.max(0, a.to), outEnd: b.to, inStart: a.from, inEnd: b.from };
    if (a.to < 0 && b.to > 0) add({ ...stretch, inStart: a.from + ((b.from - a.from) * -a.to) / (b.to - a.to) });
    else if (slopes && !isEven(slopes[i - 1], slopes[i], a, b)) add({ ...stretch, speeds: [slopes[i - 1], slopes[i]] });
    else add(stretch);
  }
  const end = tail.to + (seconds - tail.from);
  add({ outStart: Math.max(0, tail.to), outEnd: end, inStart: tail.from, inEnd: seconds });
  return joined({ seconds: end, pieces }, seconds);
}

function isEven(m0: number, m1: number, a: Beat, b: Beat): boolean {
  const secant = (b.from - a.from) / (b.to - a.to);
  return Math.abs(m0 - secant) < 1e-9 && Math.abs(m1 - secant) < 1e-9;
}

/** Neighbouring pieces at the motion's own speed are one; beats that change nothing leave the motion as it is. */
function joined({ seconds, pieces }: TimeWarp, input: number): TimeWarp {
  const out: WarpPiece[] = [];
  for (const piece of pieces) {
    const before = out[out.length - 1];
    if (before && own(before) && own(piece) && Math.abs(before.inEnd - piece.inStart) < SAME_MOMENT)
      out[out.length - 1] = { ...piece, outStart: before.outStart, inStart: before.inStart };
    else out.push(piece);
  }
  const [only] = out;
  const same =
    out.length === 1 &&
    own(only) &&
    Math.abs(only.inStart) < SAME_MOMENT &&
    Math.abs(only.outEnd - input) < SAME_MOMENT &&
    Math.abs(only.inEnd - input) < SAME_MOMENT;
  return same ? identityWarp(input) : { seconds, pieces: out };
}

function own(piece: WarpPiece): boolean {
  return !piece.speeds && Math.abs(piece.outEnd - piece.outStart - (piece.inEnd - piece.inStart)) < SAME_MOMENT;
}

/** Beats with one more where the motion received is at `from` and the result shows it at `to`; one that is there already stays. */
export function withBeat(beats: readonly Beat[], from: number, to: number): Beat[] {
  if (beats.some((b) => Math.abs(b.from - from) < LEAST_GAP || Math.abs(b.to - to) < LEAST_GAP)) return [...beats];
  return [...beats, { from, to }].sort((a, b) => a.from - b.from);
}

/** Beats with one taken to another moment, as far as its neighbours let it; a locked one stays. With `along` the later ones go with it, up to the next that is locked. */
export function withMovedBeat(beats: readonly Beat[], index: number, to: number, along = false): Beat[] {
  const beat = beats[index];
  if (!beat || beat.locked) return [...beats];
  const held = beats.findIndex((b, i) => i > index && b.locked);
  const last = along ? (held < 0 ? beats.length : held) - 1 : index;
  const least = index > 0 ? beats[index - 1].to + LEAST_GAP : 0;
  const next = beats[last + 1];
  const most = next ? next.to - LEAST_GAP - (beats[last].to - beat.to) : Number.POSITIVE_INFINITY;
  const by = Math.max(least, Math.min(most, to)) - beat.to;
  return beats.map((b, i) => (i >= index && i <= last ? { ...b, to: b.to + by } : b));
}

/** Beats with the stretch behind one lasting so long; the later ones go along, up to the next that is locked. */
export function withStretchLength(beats: readonly Beat[], index: number, seconds: number): Beat[] {
  return index + 1 < beats.length ? withMovedBeat(beats, index + 1, beats[index].to + seconds, true) : [...beats];
}

/** Speed of the stretch behind each beat but the last: 1 is the motion's own. */
export function stretchSpeeds(beats: readonly Beat[]): number[] {
  return beats.slice(1).map((b, i) => (b.from - beats[i].from) / (b.to - beats[i].to));
}

/** How long the motion drifts on around a moment that is held, seconds beneath. */
const DRIFT = 1 / 15;

/**
 * Beats with a moment held for so many seconds longer: slowly drifting on over a stretch around it, or frozen dead. Later ones go along. `outputAt` tells where a
 * moment beneath is shown now, `length` how long what is beneath is.
 */
export function withHold(beats: readonly Beat[], from: number, seconds: number, frozen: boolean, length: number, outputAt: (moment: number) => number): Beat[] {
  const half = frozen ? 0 : DRIFT / 2;
  const [start, end] = [Math.max(0, from - half), Math.min(length, from + half)];
  const before = beats.filter((b) => b.from < start && b.to < outputAt(start) - LEAST_GAP);
  const behind = beats.filter((b) => b.from > end && b.to > outputAt(end) + LEAST_GAP).map((b) => ({ ...b, to: b.to + seconds }));
  return [...before, { from: start, to: outputAt(start) }, { from: end, to: outputAt(end) + seconds }, ...behind];
}

/** Beats with so many seconds taken out of the stretch of the result that ends at a moment: it plays faster, and what is behind it comes sooner. */
export function withTakenOut(beats: readonly Beat[], from: number, to: number, seconds: number, over: number, inputAt: (moment: number) => number): Beat[] {
  const start = Math.max(0, to - over);
  const taken = Math.min(seconds, to - start - 2 * LEAST_GAP);
  if (!(taken > 0)) return [...beats];
  const before = beats.filter((b) => b.to < start - LEAST_GAP);
  const behind = beats.filter((b) => b.to > to + LEAST_GAP).map((b) => ({ ...b, to: b.to - taken }));
  return [...before, { from: inputAt(start), to: start }, { from, to: to - taken }, ...behind];
}

/** Beats with everything between two of them at one speed. */
export function madeEven(beats: readonly Beat[], first: number, last: number): Beat[] {
  return beats.filter((_, i) => i <= first || i >= last);
}
