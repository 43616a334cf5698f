import { cropClip } from "./clip/clip.ts";
import type { Contact } from "./contacts/contact.ts";
import type { Motion } from "./motion.ts";
import { composeWarps, cropWarp } from "./time/warp.ts";

/** Frames from..to of a motion as a motion of its own; contacts keep their lengths, and may reach beyond it. */
export function pieceOf(motion: Motion, from: number, to: number): Motion {
  const contacts: Contact[] = motion.contacts.map((c) => ({ ...c, start: c.start - from, end: c.end - from }));
  const clip = cropClip(motion.clip, from, to);
  const { fps } = clip;
  return {
    ...motion,
    contacts,
    clip,
    time: composeWarps(cropWarp(from / fps, to / fps), motion.time),
    plants: motion.plants.map((plant) => ({ ...plant, weights: plant.weights.slice(from, to + 1) })),
    groundTravel: motion.groundTravel && { x: motion.groundTravel.x.slice(from, to + 1), z: motion.groundTravel.z.slice(from, to + 1) },
    settled: null,
  };
}
