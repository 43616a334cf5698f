import { footSkins } from "../character/footSkin.ts";
import { handSkins } from "../character/handSkin.ts";
import type { Clip } from "../clip/clip.ts";
import { jointTracks } from "../contacts/tracks.ts";
import type { Motion } from "../motion.ts";
import { clearHand, comesLow } from "./clearHands.ts";
import { clearSkin } from "./clearSkin.ts";
import type { FootTargets } from "./footTargets.ts";
import { clearingWeights, type LimbEnd } from "./plants.ts";

/** What a toe or hoof is turned by: rotations in its own frame [frame][4]. */
export interface ToeTurn {
  readonly joint: number;
  readonly by: Float64Array;
}

/** Changes the targets of limbs' ends so that their skin is out of the ground, so far as the plants of a motion ask for it. Returns what toes and hooves are turned by; null for ends without, or where they are not. */
export function clearEnds(motion: Motion, clip: Clip, ends: readonly LimbEnd[], targets: readonly FootTargets[], pause: () => void): (ToeTurn | null)[] {
  const { character, ground, points } = motion;
  const weights = clearingWeights(motion.plants, clip.frameCount);
  if (!weights) return ends.map(() => null);
  const [feet, hands] = [footSkins(character, points), handSkins(character, points)];
  const clearing = { ground, weights, height: character.height };
  return ends.map(({ limb }, i) => {
    const [foot, hand] = [feet.get(limb.end), hands.get(limb.end)];
    if (foot || hand) pause();
    if (hand) clearHand(hand, targets[i], character.skeleton, clip, clearing);
    const by = foot && clearSkin(foot, targets[i], character.skeleton, clip, clearing);
    return by ? { joint: foot.toe, by } : null;
  });
}

/** The last joint of a limb that is changed with it: the toe, where a motion's plants keep the skin of the foot out of the ground. */
export function lastJoint({ plants, character, points }: Motion, { limb }: LimbEnd): number {
  const toe = plants.some(({ settings }) => settings.clearSkin) ? (footSkins(character, points).get(limb.end)?.toe ?? -1) : -1;
  return toe >= 0 ? toe : limb.end;
}

/** The ends of arms whose skin is to be kept out of the ground, and that come near to it. */
export function lowHands({ plants, character, points, ground }: Motion, clip: Clip, ends: readonly LimbEnd[]): ReadonlySet<LimbEnd> {
  if (!plants.some(({ settings }) => settings.clearSkin)) return new Set();
  const hands = handSkins(character, points);
  const arms = ends.filter(({ limb }) => hands.has(limb.end));
  const joints = arms.map(({ limb }) => limb.end);
  const tracks = jointTracks(character.skeleton, clip, joints);
  return new Set(
    arms.filter(({ limb }, i) => {
      const hand = hands.get(limb.end);
      return hand && comesLow(hand, tracks[i], { ground });
    }),
  );
}
