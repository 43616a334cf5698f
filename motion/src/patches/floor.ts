import { z } from "zod";
import { moveBody, type RigidMove } from "../clip/roots.ts";
import { carryAnchors } from "../contacts/carryAnchors.ts";
import { type Ground, groundTilt, LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { fromToQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { definePatch, type PatchContext, THE_MOMENT } from "./kind.ts";

const schema = z.strictObject({
  height: z.enum(["found", "set"]),
  heightCm: z.number().min(-300).max(300),
  level: z.boolean(),
});
type FloorSettings = z.infer<typeof schema>;

/** A floor steeper than this is meant to be steep (a ramp, a gangway) and is not levelled, radians. */
export const STEEPEST_TILT = (2.5 * Math.PI) / 180;

export const floorPatch = definePatch<FloorSettings>({
  kind: "floor",
  title: "Set floor",
  group: "ground",
  description: "Moves and levels the whole motion so that the floor its feet found lies at height zero.",
  schema,
  defaults: { height: "found", heightCm: 0, level: true },
  masked: false,
  place: "bottom",
  once: true,
  treats: { kinds: ["floor", "tilt"], propose: () => ({}) },
  fields: {
    height: { label: "Floor height", help: "As found under the resting feet, or set by hand", choices: { found: "as found" } },
    heightCm: { label: "Set height", unit: "cm", step: 0.1, help: "Used when the height is set by hand: where the floor lies in the clip as it comes" },
    level: { label: "Take out its tilt" },
  },
  sees: () => THE_MOMENT,
  /** Rigid: the plane's point over the world origin goes to the origin, its normal to +Y. Strength and range scale the move. What was anchored goes along. */
  apply(motion: Motion, settings: FloorSettings, context: PatchContext): Motion {
    const found = motion.ground;
    const level = settings.level && groundTilt(found) <= STEEPEST_TILT;
    const height = settings.height === "set" ? settings.heightCm / 100 : found.height;
    const plane = level ? planeGround(height, found.slopeX, found.slopeZ) : planeGround(height);
    if (plane.height === 0 && plane.slopeX === 0 && plane.slopeZ === 0) return motion;
    const { skeleton } = motion.character;
    const moves = Array.from(context.weights, (w): RigidMove | null =>
      w === 0
        ? null
        : {
            shift: [0, -plane.height * w, 0],
            turn: fromToQuatFlat(new Float64Array(4), 0, -plane.slopeX * w, 1, -plane.slopeZ * w, 0, 1, 0) as Float64Array,
          },
    );
    const moveAt = (f: number) => moves[Math.max(0, Math.min(moves.length - 1, f))] ?? null;
    const clip = moveBody(skeleton, motion.clip, moveAt);
    return {
      ...motion,
      clip,
      contacts: carryAnchors(motion.contacts, moveAt),
      settled: motion.settled && (motion.settled === motion.clip ? clip : moveBody(skeleton, motion.settled, moveAt)),
      ground: context.whole ? groundLeft(found, level, settings) : motion.ground,
    };
  },
});

/** What is left of the ground once it has been moved and levelled. */
function groundLeft(found: Ground, level: boolean, settings: FloorSettings): Ground {
  const rest = level ? { ...LEVEL_GROUND, shapes: found.shapes } : { ...found, height: 0 };
  return settings.height === "set" ? { ...rest, height: found.height - settings.heightCm / 100 } : rest;
}
