import { type Clip, ClipDraft } from "../clip/clip.ts";
import { legJoints } from "../contacts/findFeet.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { laneNoise, rotationLane, steadiedLane } from "../signal/smoothRotation.ts";
import { withoutSpikes } from "../signal/spikes.ts";

/** Noise above which a joint counts as trembling, radians (1 σ). */
const TREMBLES = (0.1 * Math.PI) / 180;
/** Half-width of the smoothing, seconds, for a little noise and for a degree of it: the widest, where nothing but noise would be lost. */
const NARROW = 0.07;
const WIDE = 0.13;

/** The motion without one-frame spikes in the joints that carry the feet, as far as they are to be steadied; as it is where that would shake the body. */
export function mendLegs(motion: Motion, strength: number, weights: Float64Array): Motion {
  if (strength === 0) return motion;
  return remembered(MENDED, motion, strength, weights, () => {
    const clip = withoutSpikes(motion.clip, legJoints(motion.character), (f) => strength * weights[f]);
    return clip === motion.clip || shaken(motion, { ...motion, clip }) ? motion.clip : clip;
  });
}

/** What was made of a clip last, and of what else: while other settings of a plant are tried, its legs stay as they are. */
interface Remembered {
  readonly character: Motion["character"];
  readonly strength: number;
  readonly weights: Float64Array;
  readonly clip: Clip;
}
const MENDED = new WeakMap<Clip, Remembered>();
const STEADIED = new WeakMap<Clip, Remembered>();

function remembered(store: WeakMap<Clip, Remembered>, motion: Motion, strength: number, weights: Float64Array, make: () => Clip): Motion {
  const { character } = motion;
  let known = store.get(motion.clip);
  if (!known || known.character !== character || known.strength !== strength || !known.weights.every((w, f) => w === weights[f])) {
    known = { character, strength, weights, clip: make() };
    store.set(motion.clip, known);
  }
  return known.clip === motion.clip ? motion : { ...motion, clip: known.clip };
}

/**
 * Smooths the joints that carry the feet (root to foot, and toes) where they tremble, since a foot held still turns the trembling of
 * the hips into trembling knees. Joints below the threshold, and everything else, keep their bits. Where that would shake what hangs on the hips,
 * nothing is smoothed.
 */
export function steadyLegs(motion: Motion, strength: number, weights: Float64Array): Motion {
  if (strength === 0) return motion;
  return remembered(STEADIED, motion, strength, weights, () => {
    const steadied = smoothed(motion, legJoints(motion.character), strength, weights);
    return steadied === motion || shaken(motion, steadied) ? motion.clip : steadied.clip;
  });
}

function smoothed(motion: Motion, joints: Iterable<number>, strength: number, weights: Float64Array): Motion {
  const { clip } = motion;
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
  return changed ? { ...motion, clip: draft.done() } : motion;
}

/**
 * Do chest, neck, head, shoulders or hands tremble more than they did (mean length of third differences of where they go)? In some captures the joints'
 * noise cancels along the chain: a solver found the hips' tremble and took it back in the spine.
 */
function shaken(before: Motion, after: Motion): boolean {
  const { roles } = before.character.body;
  const parts = [roles.chest, roles.neck, roles.head, roles.leftUpperArm, roles.rightUpperArm, roles.leftHand, roles.rightHand];
  return parts.some((joint) => joint !== undefined && tremble(after, joint) > tremble(before, joint));
}

function tremble({ clip, character }: Motion, joint: number): number {
  const p = jointTrack(character.skeleton, clip, joint).positions;
  let sum = 0;
  for (let i = 9; i < p.length; i += 3) sum += Math.hypot(...[i, i + 1, i + 2].map((k) => p[k] - 3 * p[k - 3] + 3 * p[k - 6] - p[k - 9]));
  return sum;
}
