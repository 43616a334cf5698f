import { bodySkin } from "../character/bodySkin.ts";
import type { Character } from "../character/character.ts";
import type { Side } from "../character/roles.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import { armsOf } from "./arms.ts";
import { type Met, metParts } from "./besideBody.ts";
import { OverSkin, type OverSurface } from "./overSkin.ts";
import { Alongside } from "./placedVolume.ts";

/** A hand over a part of its own body: how far its palm is from the body's surface, metres, below zero inside it. */
export interface PalmOver {
  readonly side: Side;
  /** the part's joint on either body */
  readonly from: number;
  readonly to: number;
  readonly was: number;
  readonly is: number;
}

/** Beyond this a palm is over nothing that its body's skin could say better than its volumes, share of the body's height. */
const OVER_SKIN = 0.3;

/**
 * For each arm that both bodies have the part of the body that its palm is nearest to on the source (in the pose that it holds there), and how far it is there and here from the surface: that of the skin, or of the
 * part's volume on a body without one.
 */
export function palmsOver(target: Character, source: Character): (from: PoseFrame, to: PoseFrame) => PalmOver[] {
  const arms = armsOf(target, source);
  const met = metParts(target, source);
  const [skinThere, skinHere] = [source, target].map((character) => {
    const skin = bodySkin(character);
    return skin && { over: new OverSkin(skin), within: OVER_SKIN * character.height };
  });
  const [there, here] = [new Float64Array(3), new Float64Array(3)];
  const [seen, least] = [new Alongside(), new Alongside()];
  const surface: OverSurface = { distance: 0, way: new Float64Array(3) };
  const bySkin = (skin: typeof skinHere, pose: PoseFrame, palm: Float64Array) =>
    skin?.over.pose(pose).over(surface, palm, skin.within) ? surface.distance : undefined;
  return (from, to) => {
    for (const part of met) part.from.place(from);
    return arms.flatMap((arm): PalmOver[] => {
      from.point(there, arm.from, arm.fromPalm);
      to.point(here, arm.to, arm.toPalm);
      let [nearest, was]: [Met | null, number] = [null, Number.POSITIVE_INFINITY];
      for (const part of met) {
        const { away, radius } = part.from.alongside(seen, there);
        if (away - radius < was) [nearest, was] = [part, away - radius];
      }
      if (!nearest) return [];
      const { away, radius } = nearest.to.place(to).alongside(least, here);
      return [
        {
          side: arm.side,
          from: nearest.from.volume.joint,
          to: nearest.to.volume.joint,
          was: bySkin(skinThere, from, there) ?? was,
          is: bySkin(skinHere, to, here) ?? away - radius,
        },
      ];
    });
  };
}
