import type { Clip } from "../clip/clip.ts";
import { FULL_STRETCH } from "../kinematics/twoBone.ts";
import { length3 } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { smoothEnvelope } from "../signal/filters.ts";
import type { EndTargets } from "./footTargets.ts";
import type { LimbCourse } from "./limbCourses.ts";
import { settingsAt } from "./plants.ts";
import type { PlantSettings } from "./settings.ts";

/** Seconds over which the hips come down for a reach, or up for a fold. */
const DROP_SECONDS = 0.12;
/** Bend of a knee, or hock, at which thigh and shank lie on each other, radians. */
const FOLDED = (150 * Math.PI) / 180;

/** Frames to either side over which a change of where one leg shall be can move the hips. */
export function dropCarries(fps: number): number {
  return 2 * 4 * half(fps) + 2;
}

function half(fps: number): number {
  return Math.max(1, Math.round(DROP_SECONDS * fps));
}

/**
 * How far the hips come down at each frame, metres (less than zero: up), never further than allowed: zero where every leg reaches softly and none is folded into itself. They come up first, for the leg that is
 * folded most: an end close to its own start has no direction, and what trembles there throws the knee about. Then they come down from there for the leg that is stretched most. The source's own
 * stretch and fold are never too much.
 */
export function hipsDrop(
  clip: Clip,
  courses: readonly LimbCourse[],
  targets: readonly EndTargets[],
  plants: Motion["plants"],
  weights: Float64Array,
  changed: readonly (Uint8Array | null)[],
): Float64Array {
  const limits = hipLimits(plants, clip.frameCount);
  const [rising, dropping] = [new Float64Array(clip.frameCount), new Float64Array(clip.frameCount)];
  const eachLeg = (ask: (leg: Leg, frame: number) => void) => {
    const leg = { upper: 0, lower: 0, own: 0, level: 0, above: 0 };
    courses.forEach(({ hip, knee, end }, i) => {
      const [ankle, target] = [end.positions, targets[i].positions];
      for (let f = 0; f < clip.frameCount; f++) {
        if (weights[f] === 0 || changed[i]?.[f] === 0) continue;
        const o = f * 3;
        leg.upper = distance(hip, knee, o);
        leg.lower = distance(knee, ankle, o);
        leg.own = distance(hip, ankle, o);
        leg.level = length3(hip[o] - target[o], 0, hip[o + 2] - target[o + 2]);
        leg.above = hip[o + 1] - target[o + 1];
        ask(leg, f);
      }
    });
  };
  eachLeg((leg, f) => {
    const needed = riseNeeded(leg);
    if (needed > rising[f]) rising[f] = Math.min(needed, limits(f).most);
  });
  const rises = rising.some((v) => v > 0);
  const rise = rises ? smoothEnvelope(rising, half(clip.fps)) : rising;
  eachLeg((leg, f) => {
    const { most, bend } = limits(f);
    leg.above += rise[f];
    const needed = dropNeeded(leg, bend);
    if (needed > dropping[f]) dropping[f] = Math.min(needed, most);
  });
  const drop = smoothEnvelope(dropping, half(clip.fps));
  const near = changed[0] ? awayFromUnchanged(changed as Uint8Array[]) : null;
  return drop.map((d, f) => (d === rise[f] ? 0 : (d - rise[f]) * weights[f] * (near ? quinticStep(near[f] / half(clip.fps)) : 1)));
}

/** A leg at a frame, metres: its bones, from hip to ankle as it comes, and from the hip to where the ankle shall be. */
interface Leg {
  upper: number;
  lower: number;
  own: number;
  level: number;
  above: number;
}

/** How near an end comes to where its leg begins with the leg folded up, of the lengths of its bones, metres. */
export function foldedReach(upper: number, lower: number): number {
  return Math.sqrt(upper * upper + lower * lower + 2 * upper * lower * Math.cos(FOLDED));
}

function riseNeeded({ upper, lower, own, level, above }: Leg): number {
  const least = Math.min(foldedReach(upper, lower), own);
  return level * level + above * above >= least * least ? 0 : Math.sqrt(least * least - level * level) - above;
}

/** `bend` of the softest knee, radians. What stands too far to the side is not reached however far they come down, and no nearer once they are as low as it. */
function dropNeeded({ upper, lower, own, level, above }: Leg, bend: number): number {
  const soft = Math.sqrt(upper * upper + lower * lower + 2 * upper * lower * Math.cos(bend));
  const reach = Math.min((upper + lower) * FULL_STRETCH, Math.max(soft, own));
  if (level * level + above * above <= reach * reach || above <= 0) return 0;
  return above - Math.sqrt(Math.max(0, reach * reach - level * level));
}

/** How far the hips may move, metres, and the bend of the softest knee, radians, at each frame. */
function hipLimits(plants: Motion["plants"], frameCount: number): (frame: number) => { most: number; bend: number } {
  const of = (settings: PlantSettings) => ({ most: settings.hipsMayDropCm / 100, bend: Math.PI - (settings.softKneeDegrees * Math.PI) / 180 });
  if (plants.length <= 1) {
    const only = of(settingsAt(plants, 0));
    return () => only;
  }
  const all = Array.from({ length: frameCount }, (_, f) => of(settingsAt(plants, f)));
  return (frame) => all[frame];
}

/** Frames from each frame to the nearest that no leg has changed on. */
function awayFromUnchanged(changed: readonly Uint8Array[]): Float64Array {
  const n = changed[0].length;
  const away = Float64Array.from({ length: n }, (_, f) => (changed.some((marks) => marks[f]) ? n : 0));
  for (let f = 1; f < n; f++) away[f] = Math.min(away[f], away[f - 1] + 1);
  for (let f = n - 2; f >= 0; f--) away[f] = Math.min(away[f], away[f + 1] + 1);
  return away;
}

function distance(a: Float64Array, b: Float64Array, o: number): number {
  return length3(a[o] - b[o], a[o + 1] - b[o + 1], a[o + 2] - b[o + 2]);
}
