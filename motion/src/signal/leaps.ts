import { type Clip, ClipDraft, readPosition, type Track } from "../clip/clip.ts";
import { spikesIn } from "./pops.ts";
import { CUBIC } from "./spikes.ts";

/** A body that is off by less than this share of its height for a frame has not leapt. */
const LEAST_LEAP = 0.006;

/** Least size of a leap of a character's body, metres. */
export function leastLeap({ height }: { readonly height: number }): number {
  return LEAST_LEAP * height;
}

/** Leaps of a track, found once: tracks are never changed. */
const KNOWN = new WeakMap<Track, { readonly least: number; readonly frames: readonly number[] }>();

/** The frames on which a joint's place, of those that a clip gives places, leaps away by `least` metres or more for one frame and back: what turns of joints are that do so, places are in metres (see `popSpikes`). */
export function leapsOf(clip: Clip, slot: number, least: number): readonly number[] {
  const track = clip.positions[slot];
  const known = KNOWN.get(track);
  if (known?.least === least) return known.frames;
  const n = clip.frameCount;
  const places = new Float64Array(n * 3);
  for (let f = 0; f < n; f++) readPosition(clip, slot, f, places, f * 3);
  const offs = new Float64Array(n * 3);
  for (let i = 3; i < n * 3 - 3; i++) offs[i] = places[i] - (places[i - 3] + places[i + 3]) / 2;
  const frames = spikesIn(offs, n, least, "quieter");
  KNOWN.set(track, { least, frames });
  return frames;
}

/** The clip with one-frame leaps of its joints' places, each of `least` metres or more, taken back as far as `weightAt` says: onto the cubic through two frames on either side, which all that are found have. The very clip where there are none. */
export function withoutLeaps(clip: Clip, least: number, weightAt: (frame: number) => number = () => 1): Clip {
  let draft: ClipDraft | null = null;
  const near = new Float64Array(3);
  const place = new Float64Array(3);
  for (let slot = 0; slot < clip.positions.length; slot++)
    for (const f of leapsOf(clip, slot, least)) {
      const weight = weightAt(f);
      if (weight === 0) continue;
      draft ??= ClipDraft.of(clip);
      readPosition(clip, slot, f, place, 0);
      for (let i = 0; i < 3; i++) place[i] *= 1 - weight;
      for (const [k, share] of CUBIC) {
        readPosition(clip, slot, f + k, near, 0);
        for (let i = 0; i < 3; i++) place[i] += weight * share * near[i];
      }
      draft.setPosition(slot, f, place);
    }
  return draft ? draft.done() : clip;
}
