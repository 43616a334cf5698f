import { type Clip, changedWindows, clipWorld, contactRamps, cropClip, type Motion, type Skeleton } from "@stride/motion";
import { footprints } from "./footprints.ts";
import type { ContactView, MotionView, SentView } from "./views.ts";

/** Changed stretches closer than this, frames, go as one. */
const GAP = 32;
/** Above this share of the clip all of it goes. */
const MOST_SHARE = 0.5;

/**
 * A motion as it goes to the page, where `known` is the one that the page has: of the same body and as long, only the stretches that differ go, and
 * contacts and prints only where they have changed.
 */
export function sentView(motion: Motion, known: Motion | null): SentView {
  const { clip, ground, groundTravel, support, time } = motion;
  const { skeleton } = motion.character;
  const shape = { frameCount: clip.frameCount, fps: clip.fps, jointCount: clip.jointCount, ground, groundTravel, support, time };
  const same = known && known.clip.frameCount === clip.frameCount && known.clip.fps === clip.fps && known.character.skeleton === skeleton ? known : null;
  const contacts = same && same.contacts === motion.contacts && same.plants === motion.plants ? null : contactViews(motion);
  const prints = contacts === null && same?.ground === ground && same.points === motion.points && sameFeet(same, motion) ? null : footprints(motion);
  const windows = same ? changedWindows(same.clip, clip, GAP) : [];
  const changed = windows.reduce((sum, [from, to]) => sum + to - from + 1, 0);
  if (!same || changed > MOST_SHARE * clip.frameCount) {
    const { positions, rotations } = clipWorld(skeleton, clip);
    return { ...shape, contacts, prints, whole: { positions, rotations }, stretches: [] };
  }
  return { ...shape, contacts, prints, whole: null, stretches: windows.map(([from, to]) => ({ start: from, ...stretchWorld(skeleton, clip, from, to) })) };
}

function stretchWorld(skeleton: Skeleton, clip: Clip, from: number, to: number) {
  const { positions, rotations } = clipWorld(skeleton, cropClip(clip, from, to));
  return { positions, rotations };
}

/** What a sent view is moved over with rather than copied. */
export function buffersOf(view: SentView): ArrayBuffer[] {
  return [view.whole, ...view.stretches].flatMap((part) => (part ? [part.positions.buffer, part.rotations.buffer] : [])) as ArrayBuffer[];
}

/** The view that the page draws, from what came and the view that it had; what is alike goes on in the arrays that are there. */
export function takenView(sent: SentView, held: MotionView | null): MotionView {
  const { whole, stretches, contacts, prints, ...shape } = sent;
  const from = whole ?? held;
  if (!from || (contacts === null && !held) || (prints === null && !held)) throw new Error("the changes of a view came before the view");
  for (const { start, positions, rotations } of stretches) {
    from.positions.set(positions, start * shape.jointCount * 3);
    from.rotations.set(rotations, start * shape.jointCount * 4);
  }
  return {
    ...shape,
    positions: from.positions,
    rotations: from.rotations,
    contacts: contacts ?? held?.contacts ?? [],
    prints: prints ?? held?.prints ?? [],
  };
}

function contactViews(motion: Motion): ContactView[] {
  return motion.contacts.map((contact) => {
    const { rampIn, rampOut } = contactRamps(motion, contact);
    return { ...contact, landing: rampIn, lift: rampOut };
  });
}

/** Is everything that carries a foot the very same in two motions? */
function sameFeet(a: Motion, b: Motion): boolean {
  const { parents } = a.character.skeleton;
  const carried = new Set<number>();
  for (const point of a.points) if (point.bears) for (let j = point.joint; j >= 0; j = parents[j]) carried.add(j);
  return [...carried].every((j) => a.clip.rotations[j] === b.clip.rotations[j]) && a.clip.positions.every((track, s) => track === b.clip.positions[s]);
}
