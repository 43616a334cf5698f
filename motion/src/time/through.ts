import type { Clip } from "../clip/clip.ts";
import { resampleClip, splinedClip } from "../clip/spline.ts";
import { type Contact, sortContacts } from "../contacts/contact.ts";
import type { GroundTravel, Motion } from "../motion.ts";
import { composeWarps, frameOf, framesIn, inputAt, isIdentity, outputSpans, SAME_MOMENT, type TimeWarp } from "./warp.ts";

/**
 * A motion with its time changed: clip, contacts, plants and the ground's travel all go through the same map. Moments that fall on whole frames keep
 * their bits; between frames the clip follows a spline. An identity returns the motion itself. Every kind of patch that is about time goes through here.
 */
export function throughWarp(motion: Motion, warp: TimeWarp): Motion {
  const { fps } = motion.clip;
  // A map that shows every moment as itself may still end before the motion does.
  if (isIdentity(warp) && framesIn(warp.seconds, fps) >= motion.clip.frameCount) return motion;
  const frames = warpedFrames(motion.clip, warp);
  const clip = splinedClip(motion.clip, frames);
  const { settled } = motion;
  // Between frames that were held nothing holds.
  const held = settled !== null && frames.every(Number.isInteger);
  return {
    ...motion,
    clip,
    time: composeWarps(warp, motion.time),
    contacts: warpedContacts(motion.contacts, warp, fps, frames.length),
    plants: motion.plants.map((plant) => ({ ...plant, weights: frames.map((f) => between(plant.weights, f)) })),
    groundTravel: motion.groundTravel && warpedTravel(motion.groundTravel, frames),
    settled: held ? (settled === motion.clip ? clip : splinedClip(settled, frames)) : null,
  };
}

/** The frame (not rounded) of a clip that each frame above a map shows. */
export function warpedFrames(clip: Pick<Clip, "fps" | "frameCount">, warp: TimeWarp): Float64Array {
  const { fps, frameCount } = clip;
  return Float64Array.from({ length: framesIn(warp.seconds, fps) }, (_, f) => Math.min(frameCount - 1, Math.max(0, frameOf(inputAt(warp, f / fps), fps))));
}

/** Each contact wherever some of it is shown, its ends on the nearest frames; its own ramps are as much longer as it is. What meets again is one. */
export function warpedContacts(contacts: readonly Contact[], warp: TimeWarp, fps: number, frameCount: number): Contact[] {
  const shown = contacts.flatMap((contact) =>
    outputSpans(warp, contact.start / fps, contact.end / fps).flatMap(([a, b]): Contact[] => {
      const start = Math.max(0, Math.round(frameOf(a, fps)));
      const end = Math.min(frameCount - 1, Math.round(frameOf(b, fps)));
      // A cut may leave less than a frame of it.
      if (end < start || (b - a < SAME_MOMENT && contact.end > contact.start)) return [];
      const longer = contact.end > contact.start ? ((b - a) * fps) / (contact.end - contact.start) : 1;
      const ramp = (frames: number | null) => frames && Math.round(frames * Math.max(1, longer));
      return [{ ...contact, start, end, rampIn: ramp(contact.rampIn), rampOut: ramp(contact.rampOut) }];
    }),
  );
  return shown;
}

/** Contacts of one point that meet or overlap as one, the first one's in what they differ by. */
export function joinedContacts(contacts: readonly Contact[]): Contact[] {
  const out: Contact[] = [];
  for (const contact of sortContacts(contacts)) {
    const at = out.findLastIndex((c) => c.point === contact.point && c.end >= contact.start - 1 && c.on === contact.on);
    if (at < 0) out.push(contact);
    else out[at] = { ...out[at], end: Math.max(out[at].end, contact.end), rampOut: contact.rampOut };
  }
  return out;
}

function warpedTravel({ x, z }: GroundTravel, frames: Float64Array): GroundTravel {
  return { x: frames.map((f) => between(x, f)), z: frames.map((f) => between(z, f)) };
}

function between(values: Float64Array, frame: number): number {
  const low = Math.floor(frame);
  const high = Math.min(values.length - 1, low + 1);
  return values[low] + (frame - low) * (values[high] - values[low]);
}

/** A motion at another frame rate: the clip resampled, each contact on the frames that lie inside it. The same rate returns the motion itself. */
export function atRate(motion: Motion, fps: number): Motion {
  const clip = resampleClip(motion.clip, fps);
  if (clip === motion.clip) return motion;
  const ratio = fps / motion.clip.fps;
  const last = clip.frameCount - 1;
  const contacts = motion.contacts.flatMap((contact) => {
    const start = Math.max(0, Math.ceil(contact.start * ratio - 1e-4));
    const end = Math.min(last, Math.floor(contact.end * ratio + 1e-4));
    return end >= start ? [{ ...contact, start, end }] : [];
  });
  const weights = (values: Float64Array) => Float64Array.from({ length: clip.frameCount }, (_, f) => between(values, Math.min(values.length - 1, f / ratio)));
  const { groundTravel } = motion;
  return {
    ...motion,
    clip,
    contacts,
    plants: motion.plants.map((p) => ({ ...p, weights: weights(p.weights) })),
    groundTravel: groundTravel && { x: weights(groundTravel.x), z: weights(groundTravel.z) },
    settled: null,
  };
}
