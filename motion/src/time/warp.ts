/** A stretch of time that is shown as it is, or faster, slower, or held: moments out of [outStart, outEnd] show those of [inStart, inEnd], evenly. */
export interface WarpPiece {
  readonly outStart: number;
  readonly outEnd: number;
  readonly inStart: number;
  readonly inEnd: number;
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

export function isIdentity({ seconds, pieces }: TimeWarp): boolean {
  const [only] = pieces;
  return pieces.length === 1 && only.inStart === only.outStart && only.inEnd === only.outEnd && only.outStart === 0 && only.outEnd === seconds;
}

/** The moment beneath that a moment above shows; moments outside are taken for the nearest end. */
export function inputAt({ pieces }: TimeWarp, out: number): number {
  const piece = pieces.find((p) => out <= p.outEnd) ?? pieces[pieces.length - 1];
  return through(piece, out);
}

function through({ outStart, outEnd, inStart, inEnd }: WarpPiece, out: number): number {
  const length = outEnd - outStart;
  // At the same speed a shift alone, so that whole frames stay whole frames.
  if (Math.abs(inEnd - inStart - length) < 1e-12) return Math.max(inStart, Math.min(inEnd, inStart + (out - outStart)));
  const share = length > 0 ? Math.max(0, Math.min(1, (out - outStart) / length)) : 0;
  return inStart + share * (inEnd - inStart);
}

/** The moment above at which a piece shows a moment of its own; the first for one that holds. */
function backThrough({ outStart, outEnd, inStart, inEnd }: WarpPiece, moment: number): number {
  if (inEnd === inStart) return outStart;
  if (Math.abs(inEnd - inStart - (outEnd - outStart)) < 1e-12) return outStart + (moment - inStart);
  return outStart + ((moment - inStart) * (outEnd - outStart)) / (inEnd - inStart);
}

/** The moments above that show a moment beneath, in order: none where it was cut away, several where it is repeated. */
export function outputsAt({ pieces }: TimeWarp, moment: number): number[] {
  const found: number[] = [];
  for (const { outStart, outEnd, inStart, inEnd } of pieces) {
    const low = Math.min(inStart, inEnd);
    const high = Math.max(inStart, inEnd);
    if (moment < low - SAME_MOMENT || moment > high + SAME_MOMENT) continue;
    const inside = Math.max(low, Math.min(high, moment));
    const out = backThrough({ outStart, outEnd, inStart, inEnd }, inside);
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

/** `above` over `below`: the moment of what `below` shows that each moment of `above` shows. */
export function composeWarps(above: TimeWarp, below: TimeWarp): TimeWarp {
  if (isIdentity(below)) return above;
  if (isIdentity(above)) return { seconds: above.seconds, pieces: below.pieces };
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
      const under = below.pieces.find((p) => middle <= p.outEnd) ?? below.pieces[below.pieces.length - 1];
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
