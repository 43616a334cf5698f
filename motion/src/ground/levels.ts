import { median, quantile } from "../signal/robust.ts";
import { fitGround, type GroundFit, type RestPoint } from "./fitGround.ts";

/** Rest points whose heights differ by less than this belong to one level, metres for a leg of 0.9 m or longer; less than the second never makes two. */
const ONE_LEVEL = 0.035;
const LEAST_LEVEL = 0.005;
/** Where each place counts by itself, those within this are on one level, metres for a leg of 0.9 m or longer. */
const CLOSE = 0.015;
/** … and so are those within so many times what half of a level's places are off it. */
const SCATTERED = 6;

type Slopes = Pick<GroundFit, "slopeX" | "slopeZ">;

/**
 * How far over the level that a body stands on mostly each rest point lies, metres: 0 for those on it, and the same figure for all that rest on one
 * step or box. Points of each kind of part (both feet's toes, say) are grouped by their height over the fitted slope wherever there is a gap
 * between them; the level nearest to the clip's own zero among those that hold a fair share of the weight is what the others are counted from, for each kind its own that is nearest
 * to it. A kind that never stands there (fore hooves that are on the steps from the first frame on) is counted from where the others do.
 */
export function levelsOf(points: readonly RestPoint[], fit: GroundFit, scale = 1): number[] {
  const sloping = fit.slopeX !== 0 || fit.slopeZ !== 0;
  const none = points.map(() => 0);
  const small = Math.min(1, scale);
  // A flight of steps looks like a slope that no place quite lies on, and on some slope any two places lie; where level steps explain them better, or as well, it is those.
  if (sloping && (mostlyOff(points, fit, none) > OFF_SLOPE * small || fromOneTo(points, fit))) {
    const flat = { slopeX: 0, slopeZ: 0 };
    const levels = grouped(points, flat, scale);
    if (mostlyOff(points, flat, levels) < ON_STEP * small) return levels;
  }
  const levels = grouped(points, fit, scale);
  // A ramp that ends, rough ground: neither one plane, be it ever so unsure, nor steps. Each place is as high as it is.
  const rough = [mostlyOff(points, fit, levels), mostlyOff(points, fitGround(points, 0), none)].every((off) => off > OFF_SLOPE * small);
  return rough ? eachByItself(points, scale) : levels;
}

/** Do all places lie in two spots along a slope, as of a body that jumps off a box, or onto it? */
function fromOneTo(points: readonly RestPoint[], { slopeX, slopeZ }: Slopes): boolean {
  const steep = Math.hypot(slopeX, slopeZ);
  const along = points.map((p) => (slopeX * p.point[0] + slopeZ * p.point[2]) / steep).sort((a, b) => a - b);
  const gaps = along.slice(1).map((v, i) => v - along[i]);
  const widest = gaps.indexOf(Math.max(...gaps));
  return gaps[widest] > APART * Math.max(along[widest] - along[0], along[along.length - 1] - along[widest + 1]);
}

/** Two spots are so many times as far from each other as either is long. */
const APART = 1.2;

/** Where places are mostly further off a slope than this they are not on it; where they are within this of their steps they are on them: metres for a leg of 0.9 m or longer. */
const OFF_SLOPE = 0.02;
const ON_STEP = 0.012;
/** One place in ten may be none: a heel that was rising. */
const MOSTLY = 0.9;

/** How far places lie off their kind's middle height, all but a tenth of them, once slope and levels are taken out. */
function mostlyOff(points: readonly RestPoint[], { slopeX, slopeZ }: Slopes, levels: readonly number[]): number {
  const kind = (part: string) => part.replace(/^(left|right)/, "");
  const off = [...new Set(points.map((p) => kind(p.part)))].flatMap((one) => {
    const heights = points.flatMap((p, i) => (kind(p.part) === one ? [p.point[1] - levels[i] - slopeX * p.point[0] - slopeZ * p.point[2]] : []));
    const middle = median(heights);
    return heights.map((h) => Math.abs(h - middle));
  });
  return quantile(off, MOSTLY);
}

/** A point among those of its kind, and how high over a slope it rests, metres. */
interface Height {
  readonly index: number;
  readonly weight: number;
  readonly height: number;
}

/** Places that are as high as each other, more or less. */
interface Level {
  readonly group: readonly Height[];
  readonly height: number;
  readonly weight: number;
}

/** The points of each kind of part, lowest first. */
function kindsOf(points: readonly RestPoint[], { slopeX, slopeZ }: Slopes): Height[][] {
  const kind = (part: string) => part.replace(/^(left|right)/, "");
  return [...new Set(points.map((p) => kind(p.part)))].map((one) =>
    points
      .flatMap((p, index) => (kind(p.part) === one ? [{ index, weight: p.weight, height: p.point[1] - slopeX * p.point[0] - slopeZ * p.point[2] }] : []))
      .sort((a, b) => a.height - b.height),
  );
}

function levelOf(group: readonly Height[]): Level {
  return { group, height: median(group.map((p) => p.height)), weight: group.reduce((sum, p) => sum + p.weight, 0) };
}

/** Levels with a gap between them: each place as high over the usual one as all of its level. */
function grouped(points: readonly RestPoint[], slopes: Slopes, scale: number): number[] {
  const out = new Array<number>(points.length).fill(0);
  const kinds = kindsOf(points, slopes).map((own) => {
    const groups: Height[][] = [];
    for (const p of own) {
      const last = groups.at(-1)?.at(-1);
      if (last && p.height - last.height < Math.max(LEAST_LEVEL, ONE_LEVEL * Math.min(1, scale))) groups.at(-1)?.push(p);
      else groups.push([p]);
    }
    return groups.map(levelOf);
  });
  if (kinds.every((levels) => levels.length < 2)) return out;
  usualOf(kinds, scale).forEach((usual, i) => {
    if (!usual) return;
    for (const { group, height } of kinds[i]) {
      const near = Math.max(CLOSE * Math.min(1, scale), SCATTERED * median(group.map((p) => Math.abs(p.height - height))));
      for (const p of group) {
        // On the foot of a ramp, say: near a level, and not on it.
        const itself = Math.abs(p.height - height) > near;
        if (itself || group !== usual.level?.group) out[p.index] = (itself ? p.height : height) - usual.height;
      }
    }
  });
  return out;
}

/** Each place as high over the usual level as it is itself; the usual level is one of those that places lie close together on. */
function eachByItself(points: readonly RestPoint[], scale: number): number[] {
  const out = new Array<number>(points.length).fill(0);
  const kinds = kindsOf(points, { slopeX: 0, slopeZ: 0 });
  const close = CLOSE * Math.min(1, scale);
  const windows = kinds.map((own) => {
    const starts: number[] = [];
    for (const { height } of own) if (starts.length === 0 || height > starts[starts.length - 1] + close / 4) starts.push(height);
    return starts.map((start) => levelOf(own.filter((p) => p.height >= start && p.height < start + close)));
  });
  usualOf(windows, scale).forEach((usual, i) => {
    const there = new Set(usual?.level?.group);
    if (usual) for (const p of kinds[i]) if (!there.has(p)) out[p.index] = p.height - usual.height;
  });
  return out;
}

/** Where the levels of each kind are counted from, and which of them lies there; null where nothing says. */
function usualOf(kinds: readonly (readonly Level[])[], scale: number): ({ readonly height: number; readonly level: Level | null } | null)[] {
  const nearest = (levels: readonly Level[], height: number): Level | undefined =>
    [...levels].sort((a, b) => Math.abs(a.height - height) - Math.abs(b.height - height))[0];
  const fair = kinds.map((levels) => {
    const total = [...new Set(levels.flatMap((l) => l.group))].reduce((sum, p) => sum + p.weight, 0);
    // What most of a clip climbs away from is where its own zero is, if only two places show it.
    const leaves = (l: Level) =>
      l === levels[0] && l.group.length > 1 && l.weight > LEFT_SHARE * total && l.height > -DEEPEST * scale && l.height < HIGHEST * scale;
    return levels.filter((l) => l.weight > FAIR_SHARE * total || leaves(l));
  });
  const usual = nearest(fair.flat(), 0);
  return kinds.map((_, i) => {
    const own = usual && nearest(fair[i], usual.height);
    if (!usual || !own) return null;
    return Math.abs(own.height - usual.height) < SAME_LEVEL * scale ? { height: own.height, level: own } : { height: usual.height, level: null };
  });
}

/** Kinds of parts on one level rest less than this above each other, metres for a leg of 0.9 m: a joint of the toes over a heel, one hoof's over another's. */
const SAME_LEVEL = 0.065;

/** A level that holds less of the weight than this is not what the body stands on mostly; the lowest may hold less if it is where soles and hooves have joints rest over zero, metres for a leg of 0.9 m. */
const FAIR_SHARE = 0.12;
const LEFT_SHARE = 0.04;
const DEEPEST = 0.006;
const HIGHEST = 0.1;
