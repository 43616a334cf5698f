import type { Motion } from "../motion.ts";
import { type LimbEnd, limbEnds } from "../plants/plants.ts";
import { standsOfEnd } from "../plants/stands.ts";

/** When a leg comes to its final place: the frame at which its last swing begins, and the one from which on it is still. */
export interface Landing {
  /** the limb end's first contact point, by which documents name it */
  readonly point: string;
  readonly lift: number;
  readonly land: number;
}

/** The shortest and the longest that a last step takes, seconds; and how long one takes that is not in the motion. */
const QUICKEST = 0.12;
const SLOWEST = 0.7;
const MADE_STEP = 0.35;
/** No step is quicker than this share of the leg's usual swing. */
const HURRIED = 0.85;
/** A swing that is cut short is a step if so much of a usual one is left. */
const ENOUGH = 0.65;
/** No leg lands later than so long before the end, seconds: something has to stand when the pose is reached. */
const BEFORE_END = 0.04;

/** Ends of legs that a motion's landings are about. */
export function legEnds(motion: Motion): LimbEnd[] {
  return limbEnds(motion.character, motion.points).filter((end) => end.bears);
}

/**
 * The last step of each leg before the frame `last` of a motion. Without a landing of its own a leg keeps the last one that it has in the motion; one that is in the air at the
 * end lands there. With one (`wanted`, frames by point) it lands on that frame, with the swing that lands nearest to it.
 */
export function planLandings(motion: Motion, last: number, wanted: ReadonlyMap<string, number>): Landing[] {
  const { fps } = motion.clip;
  const latest = Math.max(1, last - Math.round(BEFORE_END * fps));
  return legEnds(motion).map((end): Landing => {
    const stands = standsOfEnd(end, motion.contacts).filter((s) => s.start < last);
    const said = end.points.map((p) => wanted.get(p.id)).find((f) => f !== undefined);
    const swings: { lift: number; land: number }[] = stands.flatMap((s, i) => (i > 0 ? [{ lift: stands[i - 1].end, land: s.start }] : []));
    const tail = stands.at(-1);
    const usual = swings.length > 0 ? swings.reduce((sum, s) => sum + s.land - s.lift, 0) / swings.length : MADE_STEP * fps;
    // In the air when the pose is to be reached: it lands in time where there is enough of its swing, else it has stood since its last landing.
    if (tail && tail.end < last - 1 && latest - tail.end >= ENOUGH * usual) swings.push({ lift: tail.end, land: latest });
    const land = Math.max(1, Math.min(last, said ?? swings.at(-1)?.land ?? Math.min(latest, Math.round(last / 2))));
    const nearest = swings
      .filter((s) => s.lift <= land - QUICKEST * fps)
      .reduce<{ lift: number; land: number } | null>((best, s) => (!best || Math.abs(s.land - land) < Math.abs(best.land - land) ? s : best), null);
    const made = Math.max(0, land - Math.round(MADE_STEP * fps));
    const lift = nearest ? Math.max(nearest.lift, land - Math.round(SLOWEST * fps)) : made;
    // It may lift sooner than in the motion, so as not to be hurried.
    const least = Math.round(Math.max(QUICKEST * fps, HURRIED * usual));
    return { point: end.points[0].id, lift: Math.min(lift, Math.max(0, land - least)), land };
  });
}
