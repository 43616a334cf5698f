import { type Clip, rotationBetween } from "../clip/clip.ts";
import { median } from "../signal/robust.ts";
import { LOOP_GAP_DEGREES, LOOP_GAP_RECURS, LOOP_GAP_SHARE, LOOP_GAP_STEPS } from "./tolerances.ts";

const DEGREES = 180 / Math.PI;

/** How a clip's ends lie to each other, and what poses of it usually differ by: mean angles of its joints, degrees. */
export interface LoopGap {
  /** between the first and the last frame */
  readonly gap: number;
  /** between frames half the clip apart */
  readonly usual: number;
  /** from its first frame to the next, or from the one before to its last, whichever is more */
  readonly step: number;
  /** between the first frame and the nearest to it that is not at either end; infinite where a loop would not pop anyway */
  readonly recurs: number;
}

/** Pairs of frames half the clip apart that stand for all. */
const GAP_SAMPLES = 12;
/** What lies within that share of the clip of its first frame, or at its last, has not come back to it. */
const AT_THE_ENDS = 0.1;

/** How a clip's ends lie to each other. Cost linear in joints, and in frames as well only where a loop would pop but for what comes again. */
export function loopGap(clip: Clip): LoopGap {
  const last = clip.frameCount - 1;
  const between = (a: number, b: number) => {
    let sum = 0;
    for (let joint = 0; joint < clip.jointCount; joint++) sum += rotationBetween(clip, a, clip, b, joint) / clip.jointCount;
    return sum * DEGREES;
  };
  const half = clip.frameCount >> 1;
  const gaps = Array.from({ length: GAP_SAMPLES }, (_, i) => {
    const f = Math.floor((i * (last - half)) / (GAP_SAMPLES - 1));
    return between(f, f + half);
  });
  const seen: LoopGap = {
    gap: between(0, last),
    usual: median(gaps),
    step: Math.max(between(0, Math.min(1, last)), between(Math.max(0, last - 1), last)),
    recurs: Number.POSITIVE_INFINITY,
  };
  // All frames are looked at only where that tells.
  if (!loopWouldPop(seen)) return seen;
  let recurs = Number.POSITIVE_INFINITY;
  for (let f = Math.ceil(AT_THE_ENDS * last); f < last; f++) recurs = Math.min(recurs, between(0, f));
  return { ...seen, recurs };
}

/**
 * Is a clip meant to loop, though its ends do not meet? They are near, and much nearer than its poses usually are; further off than from one frame to the next, which is what a
 * loop leaps by anyway; and the first pose does not come again elsewhere: of a cycle that goes on and on, where it is cut says nothing.
 */
export function loopWouldPop({ gap, usual, step, recurs }: LoopGap): boolean {
  return (
    gap > LOOP_GAP_DEGREES[0] && gap < LOOP_GAP_DEGREES[1] && gap < LOOP_GAP_SHARE * usual && gap > LOOP_GAP_STEPS * step && recurs > LOOP_GAP_RECURS * gap
  );
}
