import { z } from "zod";
import { carriedOnto } from "../cast/onto.ts";
import { legLengthOf } from "../character/legLength.ts";
import { joinedMotion } from "../combine/joined.ts";
import { floored, held, movedTo } from "../combine/other.ts";
import { alignment, framesOf } from "../combine/seam.ts";
import { duration, moment, seconds, timed } from "../documents/fields.ts";
import { MissingSource, PatchError } from "../formats/errors.ts";
import type { Motion } from "../motion.ts";
import { settingsAt } from "../plants/plants.ts";
import { sourceRefSchema } from "../sources.ts";
import { composeWarps, cropWarp, frameOf, framesIn, identityWarp } from "../time/warp.ts";
import { definePatch, type PatchContext, type WarpContext } from "./kind.ts";

const schema = z.strictObject({
  clip: sourceRefSchema.nullable(),
  /** the piece of the other clip that follows, seconds of it; null: from its start, to its end */
  from: seconds.nullable(),
  to: seconds.nullable(),
  how: z.enum(["crossfade", "handOver"]),
  overlap: duration(20),
  alignOn: z.enum(["hips", "foot"]),
  /** moment of what is received behind which it is left off; null: at its end */
  leave: timed(moment).nullable(),
});
export type JoinSettings = z.infer<typeof schema>;

export const joinPatch = definePatch<JoinSettings>({
  kind: "join",
  title: "Join",
  group: "combine",
  description: "Another clip behind this one, in its place and heading: both play over an overlap, or the difference decays. Feet planted in both stay.",
  schema,
  defaults: { clip: null, from: null, to: null, how: "crossfade", overlap: 0.4, alignOn: "foot", leave: null },
  masked: false,
  ranged: false,
  poses: true,
  makes: true,
  fields: {
    clip: { label: "Clip that follows" },
    how: { label: "Goes over", choices: { crossfade: "Both play", handOver: "Hands over" } },
    overlap: { label: "Over", unit: "f", step: 1, inFrames: true, help: "How long both play, or how long the difference takes to decay" },
    alignOn: { label: "Stands on", choices: { hips: "The hips", foot: "A planted foot" }, help: "What is in one place in the middle of the seam" },
    leave: { label: "Left off at", unit: "f", step: 1, inFrames: true, unset: "its end", help: "Frame behind which what is below is left off" },
  },
  inputs: ({ clip }) => (clip ? [clip] : []),
  sees: () => "whole",
  /** What comes behind is at moments that the motion received has not: they stand behind its end. */
  warp(settings, context) {
    if (!settings.clip) return identityWarp(context.seconds);
    const plan = planOf(settings, context);
    return identityWarp(plan.at + plan.length);
  },
  apply(motion, settings, context) {
    if (!settings.clip) {
      context.note("clip", "no clip has been chosen yet, so nothing follows; choose one");
      return motion;
    }
    const { received, fps, id, name, pause } = context;
    const source = context.other(settings.clip, "clip");
    const lengthOf = () => (source.clip.frameCount - 1) / source.clip.fps;
    const plan = planOf(settings, { id, name, seconds: (received.clip.frameCount - 1) / fps, fps, limited: false, received, lengthOf });
    const leave = Math.round(plan.leave * fps);
    const overlap = Math.round(plan.overlap * fps);
    const at = settings.how === "crossfade" ? leave - overlap : leave;
    const first = framesOf(received, 0, leave);
    const second = secondOf(received, source, plan, context);
    const seam = { leave: at, enter: 0, overlap: settings.how === "crossfade" ? overlap : 0 };
    const { move, feet } = alignment(first, second, seam, settings.alignOn);
    if (settings.alignOn === "foot" && feet.length === 0)
      context.note("alignOn", "no foot is planted in both clips at once over the seam, so they stand on the hips; move the seam to where one is");
    pause();
    const placed = movedTo(second, move, received.ground);
    const joined = joinedMotion(first, placed, { how: settings.how, at, overlap }, legLengthOf(received.character), settings.clip.name);
    const frames = framesIn(plan.at + plan.length, fps);
    const shown = composeWarps(cropWarp(0, plan.leave), motion.time);
    return { ...cutTo(joined, frames), time: { seconds: plan.at + plan.length, pieces: shown.pieces } };
  },
});

interface Plan {
  /** seconds: where the first is left off, where the second begins, the piece of the second and its length */
  readonly leave: number;
  readonly at: number;
  readonly from: number;
  readonly to: number;
  readonly length: number;
  readonly overlap: number;
}

/** What is joined where. Throws PatchError where there is too little of either, MissingSource where the other clip is not here. */
function planOf({ clip, from, to, how, overlap, leave }: JoinSettings, { id, name, seconds: length, fps, lengthOf }: WarpContext): Plan {
  const whole = clip ? lengthOf(clip) : 0;
  if (whole === undefined) throw new MissingSource(id, name, "clip", `the clip "${clip?.name}" is not here; add it, or choose another`);
  const frame = (s: number) => Math.round(frameOf(s, fps));
  const snapped = (s: number) => frame(s) / fps;
  const [start, end] = [snapped(Math.min(whole, from ?? 0)), Math.floor(frameOf(Math.min(whole, to ?? whole), fps)) / fps];
  if (!(end > start))
    throw new PatchError(id, name, "from", `frames ${frame(start)}–${frame(end)} of "${clip?.name}" are no piece of it; choose an end behind its start`);
  const left = snapped(Math.max(0, Math.min(length, leave ?? length)));
  const most = Math.min(left, end - start);
  if (how === "crossfade" && overlap > most + 1e-9)
    throw new PatchError(
      id,
      name,
      "overlap",
      `${frame(overlap)} frames are more than there is of the shorter of the two (${frame(most)} frames); make the overlap shorter`,
    );
  const over = how === "crossfade" ? snapped(overlap) : snapped(Math.min(overlap, end - start));
  return { leave: left, at: how === "crossfade" ? left - over : left, from: start, to: end, length: end - start, overlap: over };
}

/** The second motion on this body, its feet on its floor, and held by the plant that holds the first. */
function secondOf(received: Motion, source: Motion, { from, to }: Plan, context: PatchContext): Motion {
  const carried = carriedOnto(source, received);
  if (carried.without.length > 0)
    context.note("clip", `${carried.without.length} parts of the other clip's body have no partner on this one, and are left out`);
  const level = floored(carried.motion);
  const stand =
    received.plants.length > 0 && level.plants.length === 0 ? held(level, settingsAt(received.plants, received.clip.frameCount - 1), context.pause) : level;
  const last = stand.clip.frameCount - 1;
  return framesOf(stand, Math.min(last, Math.round(from * context.fps)), Math.min(last, Math.round(to * context.fps)));
}

/** At most so many frames of a motion: rates that do not divide each other leave a part of a frame. */
function cutTo(motion: Motion, frames: number): Motion {
  return motion.clip.frameCount > frames ? framesOf(motion, 0, frames - 1) : motion;
}
