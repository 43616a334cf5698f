import type { Clip } from "../clip/clip.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { type BodyMap, type BodyOverrides, mapBody } from "./bodyMap.ts";
import { type ContactPoint, contactPointsOf } from "./contactPoints.ts";
import { type Rig, rigOf } from "./rig.ts";
import { standingHeight, type Volume, volumesOf } from "./volumes.ts";

/** A body: everything that is read once for it, and the same all along a stack. */
export interface Character {
  readonly skeleton: Skeleton;
  readonly body: BodyMap;
  readonly rig: Rig;
  readonly contactPoints: readonly ContactPoint[];
  readonly volumes: readonly Volume[];
  /** standing height, metres */
  readonly height: number;
}

/** Reads a body off its skeleton and a clip in which it moves, with a person's corrections. */
export function characterOf(skeleton: Skeleton, clip: Clip, overrides: BodyOverrides = {}): Character {
  const body = mapBody(skeleton, clip, overrides);
  const rig = rigOf(skeleton, clip, body);
  const height = standingHeight(skeleton, body);
  return { skeleton, body, rig, contactPoints: contactPointsOf(skeleton, clip, body, rig, height), volumes: volumesOf(skeleton, body, height), height };
}
