import { type Clip, ClipDraft, cropClip, resampleClip, samplePose } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import type { Motion } from "../motion.ts";
import { composeWarps, frameOf, framesIn, inputAt, isIdentity, outputSpans, type TimeWarp } from "./warp.ts";

/**
 * A motion with its time changed: clip, contacts and plants all go through the same map. Moments that fall on whole frames keep their bits;
 * between frames rotations are slerped. An identity returns the motion itself. Every kind of patch that is about time goes through here.
 */
export function throughWarp(motion: Motion, warp: TimeWarp): Motion {
  if (isIdentity(warp)) return motion;
  const { fps } = motion.clip;
  const frameCount = framesIn(warp.seconds, fps);
  const frames = Float64Array.from({ length: frameCount }, (_, f) => Math.min(motion.clip.frameCount - 1, Math.max(0, frameOf(inputAt(warp, f / fps), fps))));
  const clip = warpedClip(motion.clip, frames);
  return {
    ...motion,
    clip,
    time: composeWarps(warp, motion.time),
    contacts: warpedContacts(motion.contacts, warp, fps, frameCount),
    plants: motion.plants.map((plant) => ({ ...plant, weights: frames.map((f) => between(plant.weights, f)) })),
    settled: motion.settled && (motion.settled === motion.clip ? clip : warpedClip(motion.settled, frames)),
  };
}

/** The clip's poses at these (fractional) frames. */
function warpedClip(clip: Clip, frames: Float64Array): Clip {
  const first = frames[0];
  if (Number.isInteger(first) && frames.every((f, i) => f === first + i)) return cropClip(clip, first, first + frames.length - 1);
  const draft = ClipDraft.make(clip.name, clip.fps, frames.length, clip.jointCount, clip.positionJoints);
  const rotations = new Float64Array(clip.jointCount * 4);
  const positions = new Float64Array(clip.positionJoints.length * 3);
  frames.forEach((frame, f) => {
    samplePose(clip, frame, rotations, positions);
    for (let j = 0; j < clip.jointCount; j++) draft.setRotation(j, f, rotations, j * 4);
    for (let s = 0; s < clip.positionJoints.length; s++) draft.setPosition(s, f, positions, s * 3);
  });
  return draft.done();
}

/** Each contact wherever some of it is shown: the frames that lie inside. */
function warpedContacts(contacts: readonly Contact[], warp: TimeWarp, fps: number, frameCount: number): Contact[] {
  return contacts.flatMap((contact) =>
    outputSpans(warp, contact.start / fps, contact.end / fps).flatMap(([a, b]) => {
      const start = Math.max(0, Math.ceil(frameOf(a, fps)));
      const end = Math.min(frameCount - 1, Math.floor(frameOf(b, fps)));
      return end >= start ? [{ ...contact, start, end }] : [];
    }),
  );
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
  return { ...motion, clip, contacts, plants: motion.plants.map((p) => ({ ...p, weights: weights(p.weights) })), settled: null };
}
