import { z } from "zod";
import { copyClip } from "../clip/clip.ts";
import { type FloorPlane, floorHeightAt, floorTilt, LEVEL_FLOOR } from "../contacts/floor.ts";
import { fromToQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const schema = z.strictObject({
  height: z.enum(["found", "set"]),
  heightCm: z.number().min(-300).max(300),
  level: z.boolean(),
});
type FloorSettings = z.infer<typeof schema>;

/** A floor steeper than this is meant to be steep (a ramp, a gangway) and is not levelled, radians. */
export const STEEPEST_TILT = (5 * Math.PI) / 180;

export const floorPatch = definePatch<FloorSettings>({
  kind: "floor",
  title: "Set floor",
  description: "Moves and levels the whole motion so that the floor its feet found lies at height zero.",
  schema,
  defaults: { height: "found", heightCm: 0, level: true },
  masked: false,
  local: false,
  fields: {
    height: { label: "Floor height", help: "As found under the resting feet, or set by hand" },
    heightCm: { label: "Set height", unit: "cm", step: 0.1, help: "Used when the height is set by hand: where the floor lies in the clip as it comes" },
    level: { label: "Take out its tilt" },
  },
  /** Rigid: the plane's point over the world origin goes to the origin, its normal to +Y. Strength and range scale the move. */
  apply(motion: Motion, settings: FloorSettings, context: PatchContext): Motion {
    const found = motion.floor;
    const level = settings.level && floorTilt(found) <= STEEPEST_TILT;
    const plane: FloorPlane = { ...(level ? found : LEVEL_FLOOR), height: settings.height === "set" ? settings.heightCm / 100 : found.height };
    if (plane.height === 0 && plane.slopeX === 0 && plane.slopeZ === 0) return motion;
    const clip = copyClip(motion.clip);
    const roots = motion.skeleton.names.map((_, j) => j).filter((j) => motion.skeleton.parents[j] < 0);
    const k = clip.positionJoints.length * 3;
    const turn = new Float64Array(4);
    const v = new Float64Array(3);
    for (let f = 0; f < clip.frameCount; f++) {
      const w = context.weights[f];
      if (w === 0) continue;
      fromToQuatFlat(turn, 0, -plane.slopeX * w, 1, -plane.slopeZ * w, 0, 1, 0);
      for (const root of roots) {
        const slot = clip.positionJoints.indexOf(root);
        const o = f * k + slot * 3;
        for (let i = 0; i < 3; i++) v[i] = clip.positions[o + i] - (i === 1 ? plane.height * w : 0);
        rotateVecFlat(v, 0, turn, 0, v, 0);
        clip.positions.set(v, o);
        const q = (f * clip.jointCount + root) * 4;
        multiplyQuatFlat(clip.rotations, q, turn, 0, clip.rotations, q);
      }
    }
    const rest = level ? LEVEL_FLOOR : { ...found, height: 0 };
    const set = settings.height === "set" ? { ...rest, height: floorHeightAt(found, 0, 0) - settings.heightCm / 100 } : rest;
    return { ...motion, clip, floor: context.whole ? set : motion.floor };
  },
});
