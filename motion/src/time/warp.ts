import { hermite, hermiteInverse } from "./timeCurve.ts";

/**
 * A stretch of time that is shown as it is, or faster, slower, or held: moments out of [outStart, outEnd] show those of [inStart, inEnd], evenly, or
 * along a monotone cubic with the speeds given.
 */
export interface WarpPiece {
  readonly outStart: number;
  readonly outEnd: number;
  readonly inStart: number;
  readonly inEnd: number;
  /** seconds beneath for one above, at its start and at its end; without them the same all along */
  readonly speeds?: readonly [number, number];
}

/**
 * Which moment of a motion beneath each moment of a motion above shows, seconds. Data, so that it crosses threads. Pieces lie in order of
 * `out` and meet; a loop shows a stretch several times, a trim shows some never.
 */
export interface TimeWarp {
  /** length of the motion above, seconds */
  readonly seconds: number;
  readonly pieces: readonly WarpPiece[];
}

/** Moments nearer than this are one, seconds: far below a frame, far above what doubles lose. */
export const SAME_MOMENT = 1e-7;

export function identityWarp(seconds: number): TimeWarp {
  return { seconds, pieces: [{ outStart: 0, outEnd: seconds, inStart: 0, inEnd: seconds }] };
}

/** Keeps the stretch from..to. */
export function cropWarp(from: number, to: number): TimeWarp {
  return { seconds: to - from, pieces: [{ outStart: 0, outEnd: to - from, inStart: from, inEnd: to }] };
}

/** Does a map show each moment as itself? It may still end before what it shows does. */
export function isIdentity({ seconds, pieces }: TimeWarp): boolean {
  const [only] = pieces;
  return pieces.length === 1 && !only.speeds && only.inStart === only.outStart && only.inEnd === only.outEnd && only.outStart === 0 && only.outEnd === seconds;
}

/** The moment beneath that a moment above shows; moments outside are taken for the nearest end. */
export function inputAt({ pieces }: TimeWarp, out: number): number {
  return through(pieceAt(pieces, out), out);
}

/** The first piece that reaches as far as a moment above; the last one for moments behind them all. */
function pieceAt(pieces: readonly WarpPiece[], out: number): WarpPiece {
  let [low, high] = [0, pieces.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (out <= pieces[middle].outEnd) high = middle;
    else low = middle + 1;
  }
  return pieces[low];
}

function through(piece: WarpPiece, out: number): number {
  const { outStart, outEnd, inStart, inEnd, speeds } = piece;
  const length = outEnd - outStart;
  if (speeds) return hermite(piece, speeds, Math.max(outStart, Math.min(outEnd, out)));
  // At the same speed a shift alone, so that whole frames stay whole frames.
  if (Math.abs(inEnd - inStart - length) < 1e-12) return Math.max(inStart, Math.min(inEnd, inStart + (out - outStart)));
  const share = length > 0 ? Math.max(0, Math.min(1, (out - outStart) / length)) : 0;
  return inStart + share * (inEnd - inStart);
}

/** The moment above at which a piece shows a moment of its own; the first for one that holds. */
function backThrough(piece: WarpPiece, moment: number): number {
  const { outStart, outEnd, inStart, inEnd, speeds } = piece;
  if (inEnd === inStart) return outStart;
  if (speeds) return hermiteInverse(piece, speeds, moment);
  if (Math.abs(inEnd - inStart - (outEnd - outStart)) < 1e-12) return outStart + (moment - inStart);
  return outStart + ((moment - inStart) * (outEnd - outStart)) / (inEnd - inStart);
}

/** The moments above that show a moment beneath, in order: none where it was cut away, several where it is repeated. */
export function outputsAt({ pieces }: TimeWarp, moment: number): number[] {
  const found: number[] = [];
  for (const piece of pieces) {
    const { inStart, inEnd } = piece;
    const low = Math.min(inStart, inEnd);
    const high = Math.max(inStart, inEnd);
    if (moment < low - SAME_MOMENT || moment > high + SAME_MOMENT) continue;
    const inside = Math.max(low, Math.min(high, moment));
    const out = backThrough(piece, inside);
    if (found.length === 0 || out - found[found.length - 1] > SAME_MOMENT) found.push(out);
  }
  return found;
}

/** The stretches above that show some of a stretch beneath, in order: [start, end] each. */
export function outputSpans({ pieces }: TimeWarp, from: number, to: number): [number, number][] {
  const spans: [number, number][] = [];
  for (const piece of pieces) {
    const { outStart, outEnd, inStart, inEnd } = piece;
    const low = Math.max(from, Math.min(inStart, inEnd));
    const high = Math.min(to, Math.max(inStart, inEnd));
    if (low > high + SAME_MOMENT) continue;
    const at = (moment: number) =>
      inEnd === inStart ? [outStart, outEnd] : [backThrough(piece, Math.max(Math.min(inStart, inEnd), Math.min(Math.max(inStart, inEnd), moment)))];
    const ends = [...at(low), ...at(Math.max(low, high))];
    const span: [number, number] = [Math.min(...ends), Math.max(...ends)];
    const before = spans[spans.length - 1];
    if (before && span[0] - before[1] < SAME_MOMENT && continues(piece, pieces)) before[1] = Math.max(before[1], span[1]);
    else spans.push(span);
  }
  return spans;
}

/** Does a piece go on where the one before it ended, so that a stretch across both is one? */
function continues(piece: WarpPiece, pieces: readonly WarpPiece[]): boolean {
  const at = pieces.indexOf(piece);
  return at > 0 && Math.abs(pieces[at - 1].inEnd - piece.inStart) < SAME_MOMENT;
}

/** `upper` over `lower`: the moment of what `lower` shows that each moment of `upper` shows. Curved pieces become short straight ones. */
export function composeWarps(upper: TimeWarp, lower: TimeWarp): TimeWarp {
  if (isIdentity(lower)) return upper;
  if (isIdentity(upper) && upper.seconds > lower.seconds - SAME_MOMENT) return { seconds: upper.seconds, pieces: lower.pieces };
  const [above, below] = [straightened(upper), straightened(lower)];
  const pieces: WarpPiece[] = [];
  for (const piece of above.pieces) {
    // Cut where the piece beneath changes.
    const cuts = below.pieces
      .flatMap((p) => [p.outStart, p.outEnd])
      .filter((m) => m > Math.min(piece.inStart, piece.inEnd) + SAME_MOMENT && m < Math.max(piece.inStart, piece.inEnd) - SAME_MOMENT);
    const ends = [piece.inStart, ...[...new Set(cuts)].sort((a, b) => (piece.inEnd >= piece.inStart ? a - b : b - a)), piece.inEnd];
    const length = piece.inEnd - piece.inStart;
    const out = (m: number, end: number) => (length === 0 ? end : piece.outStart + ((m - piece.inStart) * (piece.outEnd - piece.outStart)) / length);
    for (let i = 0; i + 1 < ends.length; i++) {
      const middle = (ends[i] + ends[i + 1]) / 2;
      const under = pieceAt(below.pieces, middle);
      pieces.push({
        outStart: out(ends[i], piece.outStart),
        outEnd: out(ends[i + 1], piece.outEnd),
        inStart: through(under, ends[i]),
        inEnd: through(under, ends[i + 1]),
      });
    }
  }
  return { seconds: above.seconds, pieces };
}

/** Length of the straight pieces that stand for a curved one, seconds: they stay within a ten-thousandth of a second of it at any speed a person sees. */
const SHORT = 1 / 120;

function straightened(warp: TimeWarp): TimeWarp {
  if (!warp.pieces.some((p) => p.speeds)) return warp;
  const pieces = warp.pieces.flatMap((piece): WarpPiece[] => {
    if (!piece.speeds) return [piece];
    const count = Math.max(1, Math.ceil((piece.outEnd - piece.outStart) / SHORT));
    const outs = Array.from({ length: count + 1 }, (_, i) => (i === count ? piece.outEnd : piece.outStart + (i * (piece.outEnd - piece.outStart)) / count));
    const ins = outs.map((out) => through(piece, out));
    return outs.slice(1).map((outEnd, i) => ({ outStart: outs[i], outEnd, inStart: ins[i], inEnd: ins[i + 1] }));
  });
  return { seconds: warp.seconds, pieces };
}

/**
 * The moment above that shows a moment beneath, also of moments that are not shown: before the first shown and behind the last one it goes on at
 * its own speed, so that nothing is lost of what stands there. Of several the one nearest to `near`.
 */
export function outputBeyond(warp: TimeWarp, moment: number, near: number): number {
  const shown = outputsAt(warp, moment);
  if (shown.length > 0) return shown.reduce((best, m) => (Math.abs(m - near) < Math.abs(best - near) ? m : best));
  const { pieces, seconds } = warp;
  const least = pieces.reduce((a, p) => (Math.min(p.inStart, p.inEnd) < Math.min(a.inStart, a.inEnd) ? p : a));
  const most = pieces.reduce((a, p) => (Math.max(p.inStart, p.inEnd) >= Math.max(a.inStart, a.inEnd) ? p : a));
  if (moment < Math.min(least.inStart, least.inEnd)) return moment - Math.min(least.inStart, least.inEnd);
  return seconds + (moment - Math.max(most.inStart, most.inEnd));
}

/** The moment beneath that a moment above shows, also before the start and behind the end: there at its own speed. */
export function inputBeyond(warp: TimeWarp, moment: number): number {
  const past = moment < 0 ? moment : Math.max(0, moment - warp.seconds);
  return inputAt(warp, moment - past) + past;
}

/** Frames that last for so many seconds at a rate: the last one is the last that lies inside. */
export function framesIn(seconds: number, fps: number): number {
  return Math.floor(seconds * fps + 1e-6) + 1;
}

/** Frame (not rounded) of a moment; one that is within a ten-thousandth of a whole frame is meant to be it. */
export function frameOf(seconds: number, fps: number): number {
  const frame = seconds * fps;
  const whole = Math.round(frame);
  return Math.abs(frame - whole) < 1e-4 ? whole : frame;
}

/** Moment of a frame. */
export function momentOf(frame: number, fps: number): number {
  return frame / fps;
}

/** A map cut, or held at its end, so that it makes a motion of so many seconds. */
export function fittedWarp(warp: TimeWarp, length: number): TimeWarp {
  if (warp.seconds >= length) return { ...warp, seconds: length };
  const end = inputAt(warp, warp.seconds);
  return { seconds: length, pieces: [...warp.pieces, { outStart: warp.seconds, outEnd: length, inStart: end, inEnd: end }] };
}
