import type { Character } from "../character/character.ts";
import { type Leg, legChain, legsOf } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import { spikesOf, withoutSpikes } from "../signal/spikes.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { jointTrack } from "./tracks.ts";

/** Spikes by joint; of a clip and a character, which are never changed. */
type Spikes = ReadonlyMap<number, readonly number[]>;
const KNOWN = new WeakMap<Clip, WeakMap<Character, Spikes>>();

/**
 * One-frame spikes of the joints of the legs, and of those that carry them, but for what a leg does of itself: a knee that straightens for one frame as it pushes off turns as a
 * spike does. Its hip and its ankle go along, so that its foot keeps to its course, and leaves that where the knee is mended. That tells it from a fault, which takes the foot off.
 */
export function legSpikes(character: Character, clip: Clip): Spikes {
  const own = KNOWN.get(clip) ?? new WeakMap<Character, Spikes>();
  KNOWN.set(clip, own);
  const known = own.get(character) ?? findSpikes(character, clip);
  own.set(character, known);
  return known;
}

/** Frames at which something that carries a leg's end has a spike: what its sole does there is not seen. */
export function unseenFrames(character: Character, clip: Clip, leg: Leg): ReadonlySet<number> {
  const spikes = legSpikes(character, clip);
  return new Set(ancestry(character.skeleton, leg.end).flatMap((joint) => spikes.get(joint) ?? []));
}

function findSpikes({ skeleton, body, rig, contactPoints }: Character, clip: Clip): Spikes {
  const out = new Map<number, readonly number[]>();
  for (const point of contactPoints) if (point.bears) for (const joint of ancestry(skeleton, point.named)) out.set(joint, spikesOf(clip, joint));
  for (const leg of legsOf(skeleton, body, rig)) {
    const { joints, ends } = legChain(skeleton, leg);
    const spikes = new Map(joints.map((joint) => [joint, spikesOf(clip, joint)] as const));
    if (![...spikes.values()].some((frames) => frames.length > 0)) continue;
    const [came, mended] = [clip, withoutSpikes(clip, spikes)].map((of) => ends.map((joint) => jointTrack(skeleton, of, joint).positions));
    for (const [joint, frames] of spikes)
      out.set(
        joint,
        frames.filter((f) => bendAt(mended, f) <= bendAt(came, f)),
      );
  }
  return out;
}

/** How much courses [frame][3] bend at a frame: sum of their second differences, metres. */
function bendAt(courses: readonly Float64Array[], f: number): number {
  let sum = 0;
  for (const course of courses) sum += Math.hypot(...[0, 1, 2].map((i) => course[(f - 1) * 3 + i] - 2 * course[f * 3 + i] + course[(f + 1) * 3 + i]));
  return sum;
}
