import type { Made } from "./made.ts";

/** A motion drawn by steps, as each of its poses is held for so many frames: what is down while all of a pose's frames are is down on all of them, and nothing else is. */
export function held(made: Made, frames: number): Made {
  const last = made.turns.length - 1;
  const pose = (f: number) => f - (f % frames);
  return {
    ...made,
    turns: made.turns.map((_, f) => made.turns[pose(f)]),
    roots: made.roots.map((_, f) => made.roots[pose(f)]),
    contacts: made.contacts.flatMap((contact) => {
      const [start, end] = [frames * Math.ceil(contact.start / frames), Math.min(last, pose(contact.end) + frames - 1)];
      return start <= end ? [{ ...contact, start, end }] : [];
    }),
  };
}
