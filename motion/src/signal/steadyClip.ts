import { type Clip, ClipDraft, type Track } from "../clip/clip.ts";
import { quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";
import { laneNoise, rotationLane, steadiedLane } from "./smoothRotation.ts";

/** Joints of which the worst trembles by less than this are still; from twice as much on they are steadied fully, radians (1 σ). */
export const STIRS = (0.03 * Math.PI) / 180;
/** From here on trembling is plain to see. */
export const TREMBLES = (0.1 * Math.PI) / 180;
/** A single joint with less noise than this has none worth smoothing. */
const NONE = (0.01 * Math.PI) / 180;
/** Half-width of the smoothing, seconds, for a little noise and for so much of it: the widest, where nothing but noise would be lost. */
const NARROW = 0.07;
const WIDE = 0.13;
const MUCH = (0.4 * Math.PI) / 180;

/** The noise of a joint's rotations, and what they are steadied; null until that is asked for. */
interface Known {
  readonly fps: number;
  readonly noise: number;
  smooth: Float64Array | null;
}

/** What was made of a track last: tracks are never changed, and most patches leave most of them as they are. */
const KNOWN = new WeakMap<Track, Known>();

function knownOf(clip: Clip, joint: number): Known {
  const track = clip.rotations[joint];
  const known = KNOWN.get(track);
  if (known?.fps === clip.fps) return known;
  const made: Known = { fps: clip.fps, noise: laneNoise(rotationLane(clip, joint), clip.frameCount), smooth: null };
  KNOWN.set(track, made);
  return made;
}

/**
 * The clip with some joints of a chain smoothed where it trembles, as far as the weights say, from so much noise on; the very clip where it does not. Everything else keeps its bits.
 * The joints of a chain are steadied together: in a capture their noise partly cancels, and one made smooth alone leaves the others' bare.
 */
export function steadiedClip(clip: Clip, joints: Iterable<number>, from: number, weightAt: (frame: number) => number = () => 1): Clip {
  const chain = [...joints].map((joint) => ({ joint, known: knownOf(clip, joint) }));
  const share = quinticStep(Math.max(0, ...chain.map(({ known }) => known.noise)) / from - 1);
  if (share === 0) return clip;
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  for (const { joint, known } of chain) {
    if (known.noise < NONE) continue;
    const lane = rotationLane(clip, joint);
    const seconds = NARROW + (WIDE - NARROW) * Math.min(1, known.noise / MUCH);
    known.smooth ??= steadiedLane(lane, clip.frameCount, Math.max(2, Math.round(seconds * clip.fps)), known.noise);
    const { smooth } = known;
    for (let f = 0; f < clip.frameCount; f++) {
      const weight = share * weightAt(f);
      if (weight === 0 || quatAngleFlat(smooth, f * 4, lane, f * 4) < 1e-7) continue;
      slerpQuatFlat(q, 0, lane, f * 4, smooth, f * 4, weight);
      draft.setRotation(joint, f, q);
    }
  }
  return draft.done();
}
