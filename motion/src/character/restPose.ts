import { restWorld } from "../skeleton/skeleton.ts";
import type { Character } from "./character.ts";

/** How a body rests: arms straight out, sloping down, or hanging; and by how much, degrees below level (the mean of both). */
export interface RestPose {
  readonly name: "T" | "A" | "arms down" | "arms up" | "unknown";
  readonly armsDownDegrees: number | null;
}

/** Arms within this of level are straight out; beyond the other they hang. Degrees. */
const LEVEL = 15;
const HANGS = 70;

/** Reads a person's rest pose off its upper arms; an animal, or a body without arms, has none of these. */
export function restPoseOf({ skeleton, body, rig }: Pick<Character, "skeleton" | "body"> & { readonly rig: Pick<Character["rig"], "up"> }): RestPose {
  const { positions: p } = restWorld(skeleton);
  const angles = (["left", "right"] as const).flatMap((side) => {
    const [a, b] = [body.roles[`${side}UpperArm`], body.roles[`${side}Forearm`]];
    if (a === undefined || b === undefined || body.plan !== "biped") return [];
    const way = [0, 1, 2].map((c) => p[b * 3 + c] - p[a * 3 + c]);
    const length = Math.hypot(...way);
    if (!(length > 0)) return [];
    return [(-Math.asin(Math.max(-1, Math.min(1, way.reduce((s, v, c) => s + v * rig.up[c], 0) / length))) * 180) / Math.PI];
  });
  if (angles.length === 0) return { name: "unknown", armsDownDegrees: null };
  const down = angles.reduce((s, v) => s + v, 0) / angles.length;
  const name = Math.abs(down) <= LEVEL ? "T" : down < 0 ? "arms up" : down <= HANGS ? "A" : "arms down";
  return { name, armsDownDegrees: down };
}
