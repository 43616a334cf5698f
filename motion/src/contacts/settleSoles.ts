import { expectedOver, type Sole } from "../character/soles.ts";
import { fitGround, type GroundFit, type RestPoint } from "../ground/fitGround.ts";
import { type Ground, planeGround } from "../ground/ground.ts";
import { median } from "../signal/robust.ts";

/** A joint that rests this high over the clip's own zero, as a share of the leg, may well be inside a thick sole or hoof. */
const THICKEST_SOLE = 0.1;
const TALLEST_HOOF = 0.12;
/** A joint that rests this far under it, metres for a leg of 0.9 m, is through the floor. */
const DEEPEST = 0.006;

/**
 * Decides between "the ground is off" and "the sole is thicker than the skeleton shows". While the lowest joints rest where soles and hooves can
 * explain, the clip's own zero is believed and each part keeps its height over it; beyond that the ground is off, by what usual proportions, or where the feet have been seen to roll,
 * leave over (`off`, metres at the place that a slope is counted from). Estimated points are moved onto the ground.
 */
export function settleSoles(soles: readonly Sole[], points: readonly RestPoint[]): { readonly soles: Sole[]; readonly off: number } {
  const fit = fitGround(points);
  const { heights } = fit;
  const lift = liftOf(points, fit);
  const joints = soles.flatMap((sole) =>
    sole.points.flatMap((p) => (p.modelled && heights.has(p.id) ? [{ sole, height: (heights.get(p.id) ?? 0) + lift }] : [])),
  );
  const seen =
    joints.length > 0
      ? joints
      : soles.flatMap((sole) => sole.points.flatMap((p) => (heights.has(p.id) ? [{ sole, height: (heights.get(p.id) ?? 0) + lift }] : [])));
  if (seen.length === 0) return { soles: [...soles], off: 0 };
  const scale = seen.reduce((sum, { sole }) => sum + sole.legLength, 0) / seen.length;
  const most = Math.max(
    ...seen.map(({ sole }) =>
      sole.points.length > 1 ? THICKEST_SOLE * sole.legLength : TALLEST_HOOF * (sole.legLength + Math.hypot(...sole.points[0].local)),
    ),
  );
  const mean = seen.reduce((sum, { height }) => sum + height, 0) / seen.length;
  const plausible = seen.every(({ height }) => height > -DEEPEST * (scale / 0.9) && height < most);
  const likeliest = fitGround(points, 0);
  const off = plausible ? 0 : mean - seen.reduce((sum, { sole }) => sum + expectedOver(sole, fit, likeliest), 0) / seen.length;
  const settled = soles.map((sole) => ({
    ...sole,
    points: sole.points.map((p) => {
      const height = heights.get(p.id);
      if (height === undefined) return p;
      const clearance = height + lift - off;
      return p.modelled || p.rolledAt
        ? { ...p, clearance }
        : { ...p, local: [0, 1, 2].map((i) => p.local[i] - sole.upLocal[i] * clearance) as unknown as [number, number, number] };
    }),
  }));
  return { soles: settled, off };
}

/** How much higher a slope lies where it is counted from than at the world's origin: at the place nearest to that which the feet have been to, metres. */
export function liftOf(points: readonly RestPoint[], { slopeX, slopeZ }: GroundFit): number {
  const nearest = (axis: 0 | 2) => {
    const values = points.map((p) => p.point[axis]);
    return Math.max(Math.min(...values), Math.min(0, Math.max(...values)));
  };
  return points.length > 0 ? slopeX * nearest(0) + slopeZ * nearest(2) : 0;
}

/** The plane that points rest on with the clearances that they have: joints, where there are any. */
export function planeUnder(soles: readonly Sole[], fit: GroundFit): Ground {
  const points = soles.flatMap((sole) => sole.points.filter((p) => fit.heights.has(p.id)));
  const joints = points.filter((p) => p.modelled);
  const heights = (joints.length > 0 ? joints : points).map((p) => (fit.heights.get(p.id) ?? 0) - p.clearance);
  return planeGround(heights.length > 0 ? median(heights) : 0, fit.slopeX, fit.slopeZ);
}
