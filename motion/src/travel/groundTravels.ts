import { quinticStep } from "../math/ramp.ts";
import type { GroundTravel } from "../motion.ts";
import { turnedLevel } from "./level.ts";

/** A ground's travel under a body that is turned about the vertical by an angle, radians. */
export function turnedTravel({ x, z }: GroundTravel, yaw: number): GroundTravel {
  const turned = Array.from(x, (v, f) => turnedLevel(v, z[f], yaw));
  return { x: Float64Array.from(turned, (p) => p[0]), z: Float64Array.from(turned, (p) => p[1]) };
}

/** A ground's travel that is as far on a frame as another one is; null goes nowhere. */
export function alignedTravel(travel: GroundTravel | null, to: GroundTravel | null, frame: number): GroundTravel | null {
  if (!travel) return null;
  const aligned = (values: Float64Array, other: Float64Array | undefined) => values.map((v) => v - values[frame] + (other?.[frame] ?? 0));
  return { x: aligned(travel.x, to?.x), z: aligned(travel.z, to?.z) };
}

/** What the ground travels under two bodies mixed by a weight a frame, 0 all of the first; null under neither. */
export function mixedTravel(a: GroundTravel | null, b: GroundTravel | null, weights: Float64Array): GroundTravel | null {
  if (!a && !b) return null;
  const mixed = (p: Float64Array | undefined, q: Float64Array | undefined) => weights.map((w, f) => (1 - w) * (p?.[f] ?? 0) + w * (q?.[f] ?? 0));
  return { x: mixed(a?.x, b?.x), z: mixed(a?.z, b?.z) };
}

/**
 * What the ground travels under a motion and another that follows from its frame `at` on, mixed as bodies are over so many frames of overlap, half of which in their
 * feet are in one place; where the one body is so far from the other there (x, z, metres), and the ground passes under both, it takes them to one place instead of the body. Null where it does under neither.
 */
export function followedTravel(
  a: GroundTravel | null,
  b: GroundTravel | null,
  { at, overlap, apart }: { readonly at: number; readonly overlap: number; readonly apart: readonly [number, number] },
  frameCount: number,
): GroundTravel | null {
  if (!a && !b) return null;
  const [x, z] = a && b ? apart : [0, 0];
  const half = Math.floor(overlap / 2);
  const on = (values: Float64Array | undefined, f: number) => (values ? values[Math.max(0, Math.min(values.length - 1, f))] : 0);
  const followed = (p: Float64Array | undefined, q: Float64Array | undefined, by: number) => {
    const off = on(p, at + half) - on(q, half) + by;
    return Float64Array.from({ length: frameCount }, (_, f) => {
      const w = f < at ? 0 : overlap > 0 ? quinticStep((f - at) / overlap) : 1;
      return (1 - w) * on(p, f) + w * (on(q, f - at) + off);
    });
  };
  return { x: followed(a?.x, b?.x, x), z: followed(a?.z, b?.z, z) };
}
