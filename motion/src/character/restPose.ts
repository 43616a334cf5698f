import { axisAngleQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import { restWorld, type Skeleton } from "../skeleton/skeleton.ts";
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

/**
 * A skeleton with some of its joints turned out of the way its file rests: rest · Rx · Ry · Rz, degrees about the joint's own axes. Names that it has not are passed over.
 */
export function likePose(skeleton: Skeleton, turns: Readonly<Record<string, readonly [number, number, number]>>): Skeleton {
  const turned = Object.entries(turns).filter(([name, turn]) => skeleton.names.includes(name) && turn.some((v) => v !== 0));
  if (turned.length === 0) return skeleton;
  const restRotations = skeleton.restRotations.slice();
  const q = new Float64Array(4);
  for (const [name, turn] of turned) {
    const o = skeleton.names.indexOf(name) * 4;
    turn.forEach((degrees, axis) => {
      axisAngleQuatFlat(q, 0, axis === 0 ? 1 : 0, axis === 1 ? 1 : 0, axis === 2 ? 1 : 0, (degrees * Math.PI) / 180);
      multiplyQuatFlat(restRotations, o, restRotations, o, q, 0);
    });
    normalizeQuatFlat(restRotations, o);
  }
  return { ...skeleton, restRotations };
}
