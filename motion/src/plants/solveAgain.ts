import { changedWindows, type FrameWindow, frameTotal, mergedWindows, splicedClip, widened } from "../clip/changes.ts";
import { type Clip, cropClip } from "../clip/clip.ts";
import { type Motion, sameButClip } from "../motion.ts";
import { pieceOf } from "../piece.ts";
import { dropCarries } from "./hipsDrop.ts";
import { contactRamps, limbEnds } from "./plants.ts";
import { solvePlants } from "./solve.ts";
import { standsOfEnd } from "./stands.ts";

/** A motion and what its plants were last solved to. */
export interface Solved {
  readonly input: Motion;
  readonly output: Motion;
}

/** Above this share of the clip one pass over all of it is as quick. */
const MOST_SHARE = 0.4;

/**
 * The motion with its live plants enforced once more where patches behind them have changed it; frames that nothing has changed keep their bits. What
 * was solved before (`known`) is taken over wherever the motion is still the same: only stretches around what has changed are solved, and as much
 * beside them as the hips' drop, ramps and swings carry a change.
 */
export function solveLast(motion: Motion, known: Solved | null, pause: () => void = () => {}): Motion {
  if (motion.plants.length === 0 || motion.settled === motion.clip) return motion;
  const settled = motion.settled?.frameCount === motion.clip.frameCount ? motion.settled : null;
  const done = (clip: Clip): Motion => ({ ...motion, clip, settled: clip });
  if (!settled) return done(solvePlants(motion, null, pause));
  const gap = Math.round(motion.clip.fps / 2);
  const before = known && sameButClip(known.input, motion) && known.input.settled ? known : null;
  const changed = before
    ? mergedWindows([...changedWindows(before.input.clip, motion.clip, gap), ...changedWindows(before.input.settled as Clip, settled, gap)], gap)
    : changedWindows(settled, motion.clip, gap);
  const reach = carriesWithin(motion);
  const renewed = reach(changed);
  const seen = reach(renewed);
  if (frameTotal(seen) > MOST_SHARE * motion.clip.frameCount) return done(solvePlants(motion, { settled, also: null }, pause));
  const pieces = renewed.map((window) => {
    const [from, to] = seen.find(([start, end]) => start <= window[0] && end >= window[1]) as FrameWindow;
    const piece = within(pieceOf(motion, from, to));
    return { piece: solvePlants(piece, { settled: cropClip(settled, from, to), also: null }, pause), offset: from, window };
  });
  return done(splicedClip(before ? before.output.clip : motion.clip, pieces));
}

/**
 * A motion's plants solved on some frames alone: a motion of those frames, as `solvePlants` leaves them. `settled` and `also` are the scope of that
 * (null: everything is solved).
 */
export function solveWindow(motion: Motion, settled: Clip | null, also: Float64Array, window: FrameWindow): Motion {
  const reach = carriesWithin(motion);
  const [[from, to]] = reach(reach([window]));
  const piece = within(pieceOf(motion, from, to));
  const scope = settled && { settled: cropClip(settled, from, to), also: also.slice(from, to + 1) };
  const clip = solvePlants(piece, scope);
  return pieceOf({ ...pieceOf(motion, from, to), clip }, window[0] - from, window[1] - from);
}

/** A piece with its contacts cut to its frames. */
function within(piece: Motion): Motion {
  const last = piece.clip.frameCount - 1;
  const contacts = piece.contacts.flatMap((c) => (c.end < 0 || c.start > last ? [] : [{ ...c, start: Math.max(0, c.start), end: Math.min(last, c.end) }]));
  return { ...piece, contacts };
}

/**
 * As far as a change on some frames can show once plants are solved: over the hips' drop and the longest ramp to either side, and through the swings
 * that begin or end there.
 */
function carriesWithin(motion: Motion): (windows: readonly FrameWindow[]) => FrameWindow[] {
  const { frameCount, fps } = motion.clip;
  const ramps = motion.contacts.map((c) => contactRamps(motion, c));
  const longest = Math.max(0, ...ramps.map((r) => Math.max(r.rampIn, r.rampOut)));
  const pad = dropCarries(fps) + longest;
  const stands = limbEnds(motion.character, motion.points).map((end) => standsOfEnd(end, motion.contacts));
  return (windows) =>
    mergedWindows(
      widened(windows, pad, pad, frameCount).map(([start, end]) => {
        let [from, to] = [start, end];
        for (const list of stands) {
          // A swing that a window cuts is taken whole, with a frame of the stands around it for its slopes.
          const before = list.findLast((s) => s.start <= start);
          const behind = list.find((s) => s.end >= end);
          if (before && before.end < start) from = Math.min(from, Math.max(before.start, before.end - STAND_FRAMES));
          if (behind && behind.start > end) to = Math.max(to, Math.min(behind.end, behind.start + STAND_FRAMES));
        }
        return [Math.max(0, from), Math.min(frameCount - 1, to)] as const;
      }),
      0,
    );
}

/** Frames of a stand that its swing is read off. */
const STAND_FRAMES = 4;
