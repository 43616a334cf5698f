import { type Clip, jointTrack, pointTrack, type Skeleton } from "@stride/motion";
import type { Made, MadeContact } from "../rolling/made.ts";
import { scaled } from "../rolling/matrix.ts";
import { f1Score } from "../score.ts";

/** Limits that are tried, metres: each so many times the one before; and how much more heights count than level distances. */
const LIMITS = { from: 0.0005, to: 0.08, step: 1.15 } as const;
const HEIGHTS = [1, 2, 4, 8] as const;

/** The course [frame][3] of what rests in a contact, metres: its joint, or a place in the frame of one; null where nobody knows. `size` is how many times its size the file's body is. */
export function restingCourse(skeleton: Skeleton, clip: Clip, { joints }: Made, { joint, at }: MadeContact, size: number): Float64Array | null {
  const track = (of: number) => jointTrack(skeleton, clip, skeleton.names.indexOf(joints[of]));
  if (joint !== undefined) return track(joint).positions;
  return at ? pointTrack(track(at.joint), scaled(at.place, size)) : null;
}

/**
 * The F1 of one who knows of each stand where it truly is, and in its middle that it is one, and goes from there to either side for as long as the part is within one limit of that place:
 * the limit that suits the clip most, heights weighed as suits it most. `trembling` is the clip as its joints are, over its true way. What frame by frame is not told by the distance from
 * a place can only be told by what stands have in common.
 */
export function bestByPlaces(made: Made, skeleton: Skeleton, truth: Clip, trembling: Clip, size: number): number {
  const stands = made.contacts.flatMap((contact) => {
    const [place, seen] = [truth, trembling].map((clip) => restingCourse(skeleton, clip, made, contact, size));
    return place && seen ? [{ contact, place, seen }] : [];
  });
  const frames = made.turns.length;
  let best = 0;
  for (let limit: number = LIMITS.from; limit < LIMITS.to; limit *= LIMITS.step)
    for (const tall of HEIGHTS) {
      const found = stands.map(({ contact: { point, start, end }, place, seen }) => {
        const middle = Math.round((start + end) / 2);
        const away = (f: number) => {
          const [x, y, z] = [0, 1, 2].map((i) => seen[f * 3 + i] - place[middle * 3 + i]);
          return Math.hypot(x, tall * y, z);
        };
        let [from, to] = [middle, middle];
        while (from > 0 && away(from - 1) <= limit) from--;
        while (to < frames - 1 && away(to + 1) <= limit) to++;
        return { point, start: from, end: to };
      });
      best = Math.max(
        best,
        f1Score(
          stands.map((s) => s.contact),
          found,
          frames,
        ),
      );
    }
  return best;
}
