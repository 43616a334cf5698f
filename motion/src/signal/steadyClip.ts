import { type Clip, ClipDraft } from "../clip/clip.ts";
import { quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import { laneNoise, rotationLane, steadiedLane } from "./smoothRotation.ts";

/** Noise above which a joint counts as trembling, radians (1 σ). */
const TREMBLES = (0.1 * Math.PI) / 180;
/** Half-width of the smoothing, seconds, for a little noise and for a degree of it: the widest, where nothing but noise would be lost. */
const NARROW = 0.07;
const WIDE = 0.13;

/** The clip with those of some joints smoothed that tremble, as far as the weights say; the very clip where none does. Everything else keeps its bits. */
export function steadiedClip(clip: Clip, joints: Iterable<number>, weightAt: (frame: number) => number = () => 1): Clip {
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  let changed = false;
  for (const joint of joints) {
    const lane = rotationLane(clip, joint);
    const noise = laneNoise(lane, clip.frameCount);
    if (noise < TREMBLES) continue;
    changed = true;
    const seconds = NARROW + (WIDE - NARROW) * Math.min(1, noise / (4 * TREMBLES));
    const smooth = steadiedLane(lane, clip.frameCount, Math.max(2, Math.round(seconds * clip.fps)), noise);
    for (let f = 0; f < clip.frameCount; f++) {
      const weight = weightAt(f);
      if (weight === 0 || quatAngleFlat(smooth, f * 4, lane, f * 4) < 1e-7) continue;
      slerpQuatFlat(q, 0, lane, f * 4, smooth, f * 4, weight);
      draft.setRotation(joint, f, q);
    }
  }
  return changed ? draft.done() : clip;
}
