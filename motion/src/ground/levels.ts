import { median, quantile } from "../signal/robust.ts";
import type { GroundFit, RestPoint } from "./fitGround.ts";

/** Rest points whose heights differ by less than this belong to one level, metres. */
const ONE_LEVEL = 0.035;

/**
 * How far over the level that a body stands on mostly each rest point lies, metres: 0 for those on it, and the same figure for all that rest on one
 * step or box. Points of each kind of part (both feet's toes, say) are grouped by their height over the fitted slope wherever there is a gap
 * between them; the level nearest to the clip's own zero among those that hold a fair share of the weight is what the others are counted from, for each kind its own that is nearest
 * to it. A kind that never stands there (fore hooves that are on the steps from the first frame on) is counted from where the others do.
 */
export function levelsOf(points: readonly RestPoint[], fit: GroundFit): number[] {
  const sloping = fit.slopeX !== 0 || fit.slopeZ !== 0;
  // A flight of steps looks like a slope that no place quite lies on; where level steps explain the places better, it is one.
  if (
    sloping &&
    mostlyOff(
      points,
      fit,
      points.map(() => 0),
    ) > OFF_SLOPE
  ) {
    const flat = { slopeX: 0, slopeZ: 0, heights: fit.heights };
    const levels = grouped(points, flat);
    if (mostlyOff(points, flat, levels) < ON_STEP) return levels;
  }
  return grouped(points, fit);
}

/** Where places are mostly further off a slope than this they are not on it; where they are within this of their steps they are on them: metres. */
const OFF_SLOPE = 0.02;
const ON_STEP = 0.012;
/** One place in ten may be none: a heel that was rising. */
const MOSTLY = 0.9;

/** How far places lie off their kind's middle height, all but a tenth of them, once slope and levels are taken out. */
function mostlyOff(points: readonly RestPoint[], { slopeX, slopeZ }: GroundFit, levels: readonly number[]): number {
  const kind = (part: string) => part.replace(/^(left|right)/, "");
  const off = [...new Set(points.map((p) => kind(p.part)))].flatMap((one) => {
    const heights = points.flatMap((p, i) => (kind(p.part) === one ? [p.point[1] - levels[i] - slopeX * p.point[0] - slopeZ * p.point[2]] : []));
    const middle = median(heights);
    return heights.map((h) => Math.abs(h - middle));
  });
  return quantile(off, MOSTLY);
}

function grouped(points: readonly RestPoint[], { slopeX, slopeZ }: GroundFit): number[] {
  const out = new Array<number>(points.length).fill(0);
  const kind = (part: string) => part.replace(/^(left|right)/, "");
  const kinds = [...new Set(points.map((p) => kind(p.part)))].map((one) => {
    const own = points
      .flatMap((p, index) => (kind(p.part) === one ? [{ index, weight: p.weight, height: p.point[1] - slopeX * p.point[0] - slopeZ * p.point[2] }] : []))
      .sort((a, b) => a.height - b.height);
    const groups: (typeof own)[] = [];
    for (const p of own) {
      const last = groups.at(-1)?.at(-1);
      if (last && p.height - last.height < ONE_LEVEL) groups.at(-1)?.push(p);
      else groups.push([p]);
    }
    return groups.map((group) => ({ group, height: median(group.map((p) => p.height)), weight: group.reduce((sum, p) => sum + p.weight, 0) }));
  });
  const nearest = <T extends { readonly height: number }>(levels: readonly T[], height: number): T | undefined =>
    [...levels].sort((a, b) => Math.abs(a.height - height) - Math.abs(b.height - height))[0];
  const fair = kinds.map((levels) => {
    const total = levels.reduce((sum, l) => sum + l.weight, 0);
    return levels.filter((l) => l.weight > FAIR_SHARE * total);
  });
  const usual = nearest(fair.flat(), 0);
  if (!usual || kinds.every((levels) => levels.length < 2)) return out;
  kinds.forEach((levels, i) => {
    const own = nearest(fair[i], usual.height);
    if (!own) return;
    const there = Math.abs(own.height - usual.height) < SAME_LEVEL;
    for (const { group, height } of levels) if (!there || group !== own.group) for (const p of group) out[p.index] = height - (there ? own : usual).height;
  });
  return out;
}

/** Kinds of parts on one level rest less than this above each other, metres: an ankle over a heel, a joint in a tall hoof. */
const SAME_LEVEL = 0.08;

/** A level that holds less of the weight than this is not what the body stands on mostly. */
const FAIR_SHARE = 0.12;
