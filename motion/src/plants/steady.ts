import type { Clip } from "../clip/clip.ts";
import { edgeSpikes } from "../contacts/edgeSpikes.ts";
import { legJoints } from "../contacts/findFeet.ts";
import { legSpikes } from "../contacts/legSpikes.ts";
import { jointTrack } from "../contacts/tracks.ts";
import type { Motion } from "../motion.ts";
import { leastLeap, withoutLeaps } from "../signal/leaps.ts";
import { withoutRepeats } from "../signal/repeats.ts";
import { withoutSpikes } from "../signal/spikes.ts";
import { steadiedClip } from "../signal/steadyClip.ts";
import { ancestry } from "../skeleton/skeleton.ts";

/** The motion without frames that were shown again, one-frame leaps of the body and one-frame spikes in the joints that carry the feet, as far as they are to be steadied; as it is where that would shake the body. */
export function mendLegs(motion: Motion, strength: number, weights: Float64Array): Motion {
  if (strength === 0) return motion;
  return remembered(MENDED, motion, strength, weights, () => {
    const weightAt = (f: number) => strength * weights[f];
    const landed = withoutLeaps(withoutRepeats(motion.clip, weightAt), leastLeap(motion.character), weightAt);
    const clip = withoutSpikes(landed, spikesOfLegs({ ...motion, clip: landed }), weightAt);
    return clip === landed || shaken({ ...motion, clip: landed }, { ...motion, clip }) ? landed : clip;
  });
}

/** Spikes of what carries the feet: those that the joints' own courses show, and those that a stand beside them does. */
function spikesOfLegs({ character, clip, contacts }: Motion): Map<number, readonly number[]> {
  const shown = legSpikes(character, clip);
  const beside = edgeSpikes(character, { came: clip, mended: withoutSpikes(clip, shown) }, contacts);
  return new Map([...new Set([...shown.keys(), ...beside.keys()])].map((j) => [j, [...new Set([...(shown.get(j) ?? []), ...(beside.get(j) ?? [])])]] as const));
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
    const steady = (joints: Iterable<number>) => steadiedClip(motion.clip, joints, (f) => strength * weights[f]);
    const all = legJoints(motion.character);
    const first = steady(all);
    if (first === motion.clip) return first;
    const left = withoutShaken(motion, { ...motion, clip: first }, all);
    const clip = left.size === all.size ? first : steady(left);
    return clip === motion.clip || shaken(motion, { ...motion, clip }) ? motion.clip : clip;
  });
}

/** Those of the joints that are not of legs alone whose feet tremble more for being steadied: in a capture the noise of a thigh and a shin may cancel. */
function withoutShaken(before: Motion, after: Motion, joints: ReadonlySet<number>): Set<number> {
  const { skeleton, contactPoints } = before.character;
  const legs = [...new Set(contactPoints.flatMap((p) => (p.bears ? [p.named] : [])))].map((foot) => ({ foot, chain: ancestry(skeleton, foot) }));
  const shakes = legs.filter(({ foot }) => tremble(after, foot) > tremble(before, foot));
  // What leads to another foot as well is judged by what hangs on the hips.
  return new Set([...joints].filter((j) => legs.some((leg) => leg.chain.includes(j) && !shakes.includes(leg)) || legs.every(({ chain }) => chain.includes(j))));
}

/**
 * Do chest, neck, head, shoulders or hands tremble more than they did (mean length of third differences of where they go)? In some captures the joints'
 * noise cancels along the chain: a solver found the hips' tremble and took it back in the spine. Fore legs are legs, and not judged as what hangs on them.
 */
function shaken(before: Motion, after: Motion): boolean {
  const { roles } = before.character.body;
  const legs = legJoints(before.character);
  const parts = [roles.chest, roles.neck, roles.head, roles.leftUpperArm, roles.rightUpperArm, roles.leftHand, roles.rightHand];
  return parts.some((joint) => joint !== undefined && !legs.has(joint) && tremble(after, joint) > tremble(before, joint));
}

function tremble({ clip, character }: Motion, joint: number): number {
  const p = jointTrack(character.skeleton, clip, joint).positions;
  let sum = 0;
  for (let i = 9; i < p.length; i += 3) sum += Math.hypot(...[i, i + 1, i + 2].map((k) => p[k] - 3 * p[k - 3] + 3 * p[k - 6] - p[k - 9]));
  return sum;
}
