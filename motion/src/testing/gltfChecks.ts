import { validateBytes } from "gltf-validator";
import type { MotionFile } from "../formats/format.ts";
import { clipWorld } from "../kinematics/forward.ts";

/** World places of all joints, [frame][joint][3]. */
export function places({ skeleton, clip }: Pick<MotionFile, "skeleton" | "clip">): Float64Array {
  return Float64Array.from(clipWorld(skeleton, clip).positions);
}

/** The longest side of the box around some places. */
export function heightOf(positions: Float64Array): number {
  const sides = [0, 1, 2].map((axis) => {
    const values = positions.filter((_, k) => k % 3 === axis);
    return values.reduce((a, b) => Math.max(a, b)) - values.reduce((a, b) => Math.min(a, b));
  });
  return Math.max(...sides);
}

/** The largest difference of any number; infinite where there are not as many. */
export function furthest(a: Float64Array, b: Float64Array): number {
  return a.length === b.length ? a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0) : Number.POSITIVE_INFINITY;
}

/** What the validator of the format's own authors says of a file. */
export async function verdict(bytes: Uint8Array): Promise<{ errors: number; warnings: number; said: string[] }> {
  const { issues } = await validateBytes(bytes);
  const said = issues.messages.filter((m) => m.severity < 2).map((m) => `${m.pointer}: ${m.message}`);
  return { errors: issues.numErrors, warnings: issues.numWarnings, said };
}
