import type { Character } from "../character/character.ts";
import { handMiddle } from "../character/contactPoints.ts";
import type { Side } from "../character/roles.ts";
import { rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";

/** An arm that two bodies have. */
export interface Arm {
  readonly side: Side;
  /** the hand's joint on either body, and its palm in the joint's frame, metres */
  readonly from: number;
  readonly to: number;
  readonly fromPalm: readonly number[];
  readonly toPalm: readonly number[];
  readonly limb: Motion["character"]["rig"]["limbs"][number];
}

/** What an arm hangs on with its collar. */
export function hungOn({ skeleton }: Character, { collar, upper }: Arm["limb"]): number {
  const above = skeleton.parents[collar >= 0 ? collar : upper];
  return above >= 0 ? above : upper;
}

/** The arms that two bodies on two legs have both. */
export function armsOf(target: Character, source: Character): Arm[] {
  return (["left", "right"] as const).flatMap((side): Arm[] => {
    const [from, to] = [source.body.roles[`${side}Hand`], target.body.roles[`${side}Hand`]];
    const limb = target.rig.limbs.find((l) => l.kind === "arm" && l.end === to);
    if (from === undefined || to === undefined || !limb || source.body.plan !== "biped" || target.body.plan !== "biped") return [];
    return [{ side, from, to, fromPalm: palmOf(source, side, from), toPalm: palmOf(target, side, to), limb }];
  });
}

/** Middle of the hand by its joints, or half along its volume where they do not say where it ends: the same on a body with a skin and on one without. */
function palmOf(character: Character, side: Side, hand: number): readonly number[] {
  const middle = handMiddle(character.skeleton, character.body, side);
  if (Math.hypot(...middle) > 0) return middle;
  const volume = character.volumes.find((v) => v.joint === hand);
  if (!volume) return [0, 0, 0];
  const way = rotateVecFlat(new Float64Array(3), 0, [...volume.turn], 0, [0, volume.size[1] / 2, 0], 0);
  return [0, 1, 2].map((c) => volume.origin[c] + way[c]);
}
