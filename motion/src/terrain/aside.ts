import { length3 } from "../math/quat.ts";
import { raiseSmoothly } from "../plants/aboveGround.ts";
import type { EndTargets } from "../plants/footTargets.ts";
import { foldedReach } from "../plants/hipsDrop.ts";
import type { LimbCourse } from "../plants/limbCourses.ts";

/**
 * A swing over a high step may pass where its hip is: closer to that than the leg folds it goes round, to the leg's own side (`beside` is the course of the
 * hip across from it). It stays at its height, and what rests stays where it is. Does any?
 */
export function swingAside(targets: EndTargets, { hip, knee, end }: LimbCourse, beside: Float64Array, fps: number): boolean {
  const { positions, resting } = targets;
  const n = resting.length;
  const side = new Float64Array(n * 2);
  const lacks = new Float64Array(n);
  for (let f = 0; f < n; f++) {
    const o = f * 3;
    const [ux, uz] = [hip[o] - beside[o], hip[o + 2] - beside[o + 2]];
    const wide = Math.hypot(ux, uz) || 1;
    side[f * 2] = ux / wide;
    side[f * 2 + 1] = uz / wide;
    if (resting[f]) continue;
    const apart = (a: Float64Array, b: Float64Array) => length3(a[o] - b[o], a[o + 1] - b[o + 1], a[o + 2] - b[o + 2]);
    const least = Math.min(foldedReach(apart(hip, knee), apart(knee, end.positions)), apart(hip, end.positions));
    const near = apart(positions, hip);
    if (near >= least) continue;
    const out = side[f * 2] * (positions[o] - hip[o]) + side[f * 2 + 1] * (positions[o + 2] - hip[o + 2]);
    lacks[f] = Math.sqrt(least * least - near * near + out * out) - out;
  }
  if (!lacks.some((lack) => lack > 0)) return false;
  const by = raiseSmoothly(lacks, resting, true, fps);
  for (let f = 0; f < n; f++) {
    positions[f * 3] += by[f] * side[f * 2];
    positions[f * 3 + 2] += by[f] * side[f * 2 + 1];
  }
  return true;
}
