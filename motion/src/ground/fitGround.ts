import { median, solve3 } from "../signal/robust.ts";
import { groundHeight, LEVEL_GROUND, type PlaneGround, planeGround } from "./ground.ts";

/** A place where something rested: x, y, z in metres and how much it counts. */
export interface RestPoint {
  readonly point: readonly [number, number, number];
  readonly weight: number;
}

/** Spread of one rest point about the true floor, and how much tilt a capture stage may have before evidence: both 1 σ. */
const POINT_SIGMA = 0.006;
const TILT_SIGMA = 0.025;
/** Rest points share errors (how thick a sole is, how a skeleton was fitted), so all together count for no more than this many. */
const MOST_EVIDENCE = 25;

/**
 * The floor under rest points: weighted least squares, re-weighted by Tukey's biweight so that a step or a box does not drag it, with a
 * prior that floors are level (tilt only when the evidence is there: a short walk along one line says little across it).
 */
export function fitGround(points: readonly RestPoint[]): PlaneGround {
  if (points.length === 0) return LEVEL_GROUND;
  let floor = planeGround(median(points.map((p) => p.point[1])));
  let cut = 0.25;
  const prior = POINT_SIGMA ** 2 / TILT_SIGMA ** 2;
  const share = Math.min(1, MOST_EVIDENCE / points.reduce((sum, p) => sum + p.weight, 0));
  for (let round = 0; round < 12; round++) {
    // Centred on the weighted mean, so that the level prior does not pull at the height.
    let sum = 0;
    let mx = 0;
    let mz = 0;
    const weights = points.map(({ point, weight }) => {
      const r = (point[1] - groundHeight(floor, point[0], point[2])) / cut;
      const w = Math.abs(r) >= 1 ? 0 : share * weight * (1 - r * r) ** 2;
      sum += w;
      mx += w * point[0];
      mz += w * point[2];
      return w;
    });
    if (sum === 0) break;
    mx /= sum;
    mz /= sum;
    const a = [sum, 0, 0, 0, prior, 0, 0, 0, prior];
    const b = [0, 0, 0];
    points.forEach(({ point }, i) => {
      const w = weights[i];
      const x = point[0] - mx;
      const z = point[2] - mz;
      a[4] += w * x * x;
      a[5] += w * x * z;
      a[7] += w * x * z;
      a[8] += w * z * z;
      b[0] += w * point[1];
      b[1] += w * x * point[1];
      b[2] += w * z * point[1];
    });
    const fit = solve3(a, b);
    if (!fit) break;
    floor = planeGround(fit[0] - fit[1] * mx - fit[2] * mz, fit[1], fit[2]);
    const residuals = points.map(({ point }) => Math.abs(point[1] - groundHeight(floor, point[0], point[2])));
    cut = Math.max(0.02, Math.min(cut, 4.685 * 1.4826 * median(residuals)));
  }
  return floor;
}
