import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { CUBIC, rotationBetween } from "./spikes.ts";

/** Frames on which a clip repeats the one before, found once: clips are never changed. */
const KNOWN = new WeakMap<Clip, readonly number[]>();
/** Where repeats are nearer to each other than this, frames, they are how it is drawn: it goes by steps. */
const APART = 9;

/**
 * Frames that show the whole pose of the one before again, to the bit: one was dropped, and that before it shown for longer. Single ones, at least nine frames from each other
 * and two from the clip's ends; what goes by steps, or rests, has none.
 */
export function repeatsOf(clip: Clip): readonly number[] {
  const known = KNOWN.get(clip);
  if (known) return known;
  const n = clip.frameCount;
  const same = new Uint8Array(n);
  let left = 0;
  const look = (size: number, first: boolean, read: (frame: number, dst: Float64Array) => void) => {
    const sample = [new Float64Array(4), new Float64Array(4)];
    read(0, sample[0]);
    for (let f = 1; f < n; f++) {
      const [before, here] = [sample[(f - 1) & 1], sample[f & 1]];
      read(f, here);
      if (!first && !same[f]) continue;
      const alike = here.every((v, i) => i >= size || v === before[i]);
      left += Number(alike) - same[f];
      same[f] = Number(alike);
    }
  };
  for (let slot = 0; slot < clip.positions.length; slot++) if (slot === 0 || left > 0) look(3, slot === 0, (f, dst) => readPosition(clip, slot, f, dst, 0));
  for (let joint = 0; joint < clip.jointCount && left > 0; joint++) look(4, false, (f, dst) => readRotation(clip, joint, f, dst, 0));
  const frames = left === 0 ? [] : Array.from(same.keys()).filter((f) => same[f] && f >= 2 && f + 2 < n);
  const alone = frames.filter((f, i) => f - (frames[i - 1] ?? -n) >= APART && (frames[i + 1] ?? 2 * n) - f >= APART);
  KNOWN.set(clip, alone);
  return alone;
}

/** The clip with such frames put where they belong, wherever `weightAt` says anything: every joint on the cubic through two frames on either side. The very clip where there are none. */
export function withoutRepeats(clip: Clip, weightAt: (frame: number) => number = () => 1): Clip {
  const frames = repeatsOf(clip).filter((f) => weightAt(f) > 0);
  if (frames.length === 0) return clip;
  const draft = ClipDraft.of(clip);
  const [q, p, near] = [new Float64Array(4), new Float64Array(3), new Float64Array(3)];
  for (const f of frames) {
    for (let joint = 0; joint < clip.jointCount; joint++) {
      rotationBetween(clip, joint, f, q);
      draft.setRotation(joint, f, q);
    }
    for (let slot = 0; slot < clip.positions.length; slot++) {
      p.fill(0);
      for (const [k, share] of CUBIC) {
        readPosition(clip, slot, f + k, near, 0);
        for (let i = 0; i < 3; i++) p[i] += share * near[i];
      }
      draft.setPosition(slot, f, p);
    }
  }
  return draft.done();
}
