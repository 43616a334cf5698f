import { ClipDraft } from "../clip/clip.ts";
import { legJoints } from "../contacts/find.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { laneNoise, rotationLane, steadiedLane } from "../signal/smoothRotation.ts";

/** Noise above which a joint counts as trembling, radians (1 σ). */
const TREMBLES = (0.1 * Math.PI) / 180;
/** Half-width of the smoothing, seconds, for a little noise and for a degree of it: the widest, where nothing but noise would be lost. */
const NARROW = 0.07;
const WIDE = 0.13;

/**
 * Smooths the joints that carry the feet (root to foot, and toes) where they tremble, since a foot held still turns the trembling of
 * the hips into trembling knees. Joints below the threshold, and everything else, keep their bits.
 */
export function steadyLegs(motion: Motion, strength: number, weights: Float64Array): Motion {
  if (strength === 0) return motion;
  const { clip } = motion;
  const joints = legJoints(motion.character);
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
      if (weights[f] === 0 || quatAngleFlat(smooth, f * 4, lane, f * 4) < 1e-7) continue;
      slerpQuatFlat(q, 0, lane, f * 4, smooth, f * 4, strength * weights[f]);
      draft.setRotation(joint, f, q);
    }
  }
  if (!changed) return motion;
  const steadied = { ...motion, clip: draft.done() };
  return endsTremble(steadied) <= endsTremble(motion) ? steadied : motion;
}

/**
 * Mean size of the third differences of where head and hands go. In some captures the joints' noise cancels along the chain (a solver
 * found the hips' tremble and took it back in the spine); there smoothing the hips alone would shake the hands.
 */
function endsTremble(motion: Motion): number {
  const { clip } = motion;
  const { skeleton, body } = motion.character;
  let sum = 0;
  for (const joint of [body.roles.head, body.roles.leftHand, body.roles.rightHand]) {
    if (joint === undefined) continue;
    const p = jointTrack(skeleton, clip, joint).positions;
    for (let i = 9; i < p.length; i++) sum += Math.abs(p[i] - 3 * p[i - 3] + 3 * p[i - 6] - p[i - 9]);
  }
  return sum;
}
