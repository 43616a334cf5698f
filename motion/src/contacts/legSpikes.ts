import type { Character } from "../character/character.ts";
import { type Leg, legsOf } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import { spikeFrames, withoutSpikes } from "../signal/spikes.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { jointTrack } from "./tracks.ts";

/** Frames of each leg's own joints that turn as a spike does and yet are none, by clip: clips are never changed. */
const TRUE_TURNS = new WeakMap<Clip, ReadonlyMap<number, ReadonlySet<number>>>();

/**
 * A clip with the spikes of some joints mended, each as far as `weightAt` says, but for what a leg does of itself: a knee that straightens for one frame as it pushes off turns as a spike does.
 * Its hip and its ankle go along, so that its foot keeps to its course, and leaves it where the knee is mended: that tells it from a fault.
 */
export function withoutLegSpikes(character: Character, clip: Clip, joints: Iterable<number>, weightAt: (frame: number) => number = () => 1): Clip {
  const own = trueTurns(character, clip);
  return withoutSpikes(clip, joints, (f, joint) => (own.get(joint)?.has(f) ? 0 : weightAt(f)));
}

/** Frames at which something that carries a leg's end has a spike that is mended: what its sole does there is not seen. */
export function unseenFrames(character: Character, clip: Clip, leg: Leg): ReadonlySet<number> {
  const own = trueTurns(character, clip);
  return new Set(ancestry(character.skeleton, leg.end).flatMap((joint) => [...spikeFrames(clip, [joint])].filter((f) => !own.get(joint)?.has(f))));
}

function trueTurns({ skeleton, body, rig }: Character, clip: Clip): ReadonlyMap<number, ReadonlySet<number>> {
  const known = TRUE_TURNS.get(clip);
  if (known) return known;
  const out = new Map<number, ReadonlySet<number>>();
  for (const leg of legsOf(skeleton, body, rig)) {
    const joints = [leg.end, leg.toe]
      .flatMap((joint) => (joint < 0 ? [] : ancestry(skeleton, joint)))
      .filter((joint) => ancestry(skeleton, joint).includes(leg.upper));
    const frames = [...spikeFrames(clip, joints)];
    if (frames.length === 0) continue;
    const mended = withoutSpikes(clip, joints);
    const ends = leg.toe < 0 ? [leg.end] : [leg.end, leg.toe];
    const [came, is] = [clip, mended].map((of) => ends.map((joint) => jointTrack(skeleton, of, joint).positions));
    const bends = (courses: readonly Float64Array[], f: number) => courses.reduce((sum, course) => sum + bendAt(course, f), 0);
    const turns = new Set(frames.filter((f) => bends(came, f) < bends(is, f)));
    for (const joint of joints) out.set(joint, turns);
  }
  TRUE_TURNS.set(clip, out);
  return out;
}

/** Second difference of a course at a frame, metres. */
function bendAt(course: Float64Array, f: number): number {
  return Math.hypot(...[0, 1, 2].map((i) => course[(f - 1) * 3 + i] - 2 * course[f * 3 + i] + course[(f + 1) * 3 + i]));
}
