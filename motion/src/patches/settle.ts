import { z } from "zod";
import { carriedOnto } from "../cast/onto.ts";
import { type PartRef, partRefSchema } from "../character/parts.ts";
import { type Clip, ClipDraft, cropClip } from "../clip/clip.ts";
import { floored } from "../combine/other.ts";
import { posedFrame } from "../combine/poseTarget.ts";
import { framesOf } from "../combine/seam.ts";
import { jointTracks } from "../contacts/tracks.ts";
import { duration, moment, seconds, timed } from "../documents/fields.ts";
import { PatchError } from "../formats/errors.ts";
import type { Motion } from "../motion.ts";
import { storedPoseSchema } from "../pose/storedPose.ts";
import { backwards } from "../settle/backwards.ts";
import { type Landing, legEnds, planLandings } from "../settle/landings.ts";
import { AHEAD, placedPose } from "../settle/place.ts";
import { settledMotion } from "../settle/settled.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { sourceRefSchema } from "../sources.ts";
import { cropWarp, frameOf, identityWarp } from "../time/warp.ts";
import { definePatch, type PatchContext } from "./kind.ts";

/** Landings that a document may name. */
const MOST_LANDINGS = 16;

const schema = z.strictObject({
  target: z
    .union([z.strictObject({ clip: sourceRefSchema, at: seconds }), z.strictObject({ pose: storedPoseSchema })], {
      error: "expected { clip, at } or { pose }",
    })
    .nullable(),
  /** moment at which it is reached; the motion ends there. Out of it: the moment from which on the motion is itself */
  at: timed(moment),
  /** seconds for trunk and arms */
  over: duration(20),
  /** null: as proposed */
  landings: z
    .array(z.strictObject({ point: z.string().min(1).max(40), at: timed(moment) }))
    .max(MOST_LANDINGS)
    .nullable(),
  leaveOut: z.array(partRefSchema).max(400),
  place: z.enum(["here", "target"]),
  direction: z.enum(["into", "outOf"]),
});
export type SettleSettings = z.infer<typeof schema>;

export const settlePatch = definePatch<SettleSettings>({
  kind: "settle",
  title: "Settle",
  group: "combine",
  description: "Arrives exactly in a pose: the trunk goes over, each leg lands on its own frame in its final place and is still; or leaves from one.",
  schema,
  defaults: { target: null, at: 0, over: 0.8, landings: null, leaveOut: [], place: "here", direction: "into" },
  masked: false,
  ranged: false,
  poses: true,
  makes: true,
  begin: (at) => ({ settings: { at } }),
  fields: {
    direction: { label: "Goes", choices: { into: "Into the pose", outOf: "Out of it" } },
    at: {
      label: "At",
      unit: "f",
      step: 1,
      inFrames: true,
      help: "The frame that is the pose, where the motion ends; out of it: the frame from which on the motion is itself",
    },
    over: { label: "Trunk over", unit: "f", step: 1, inFrames: true, help: "Frames over which trunk, head and arms go over" },
    place: {
      label: "Placed",
      choices: { here: "By its feet", target: "By the pose" },
      help: "Where it comes to rest: where the feet bring the body, or where the pose itself stands",
    },
    leaveOut: { label: "Left out", help: "Parts that go on as they do" },
  },
  inputs: ({ target }) => (target && "clip" in target ? [target.clip] : []),
  sees: () => "whole",
  warp({ target, at, direction }, { id, name, seconds: length, fps }) {
    if (!target || direction === "outOf") return identityWarp(length);
    if (Math.round(frameOf(at, fps)) < 2)
      throw new PatchError(id, name, "at", `frame ${Math.round(frameOf(at, fps))} leaves no time to come to rest in; choose a later one`);
    return cropWarp(0, Math.min(length, Math.round(frameOf(at, fps)) / fps));
  },
  apply(motion, settings, context) {
    if (!settings.target) {
      context.note("target", "no pose to settle in has been chosen yet; choose a clip and its frame, or a kept pose");
      return motion;
    }
    const { fps, id, name } = context;
    if (settings.direction === "into") {
      return arrived(motion, settings, settings.landings, context);
    }
    const last = motion.clip.frameCount - 1;
    const until = Math.min(last, Math.round(frameOf(settings.at, fps)));
    if (until < 2) throw new PatchError(id, name, "at", `frame ${until} leaves no time to come out of the pose; choose a later one`);
    const turned = backwards(framesOf(motion, 0, until));
    const landings = settings.landings && settings.landings.map((l) => ({ ...l, at: until / fps - l.at }));
    const out = backwards(arrived(turned, settings, landings, context));
    return followedBy(out, motion, until);
  },
});

/** When each leg lands as a patch has it, frames of what it makes; null where it has nothing to settle in. */
export function landingsOf(received: Motion, settings: SettleSettings, fps: number): Landing[] | null {
  const last = Math.min(received.clip.frameCount - 1, Math.round(frameOf(settings.at, fps)));
  if (last < 2) return null;
  const cut = framesOf(received, 0, last);
  if (settings.direction === "into") return planLandings(cut, last, wantedFrames(settings.landings, fps));
  const landings = settings.landings && settings.landings.map((l) => ({ ...l, at: last / fps - l.at }));
  return planLandings(backwards(cut), last, wantedFrames(landings, fps)).map(({ point, lift, land }) => ({ point, lift: last - lift, land: last - land }));
}

function wantedFrames(landings: SettleSettings["landings"], fps: number): Map<string, number> {
  return new Map((landings ?? []).map((l) => [l.point, Math.max(1, Math.round(frameOf(l.at, fps)))]));
}

/** The motion come to rest in the pose, in the furthest place at which all of its legs reach where they land. */
function arrived(motion: Motion, settings: SettleSettings, landings: SettleSettings["landings"], context: PatchContext): Motion {
  const last = motion.clip.frameCount - 1;
  const known = new Set(motion.points.map((p) => p.id));
  for (const { point } of landings ?? []) if (!known.has(point)) context.note("landings", `this body has no contact point called "${point}"`);
  const plan = planLandings(motion, last, wantedFrames(landings, context.fps));
  const part = takingPart(motion, settings.leaveOut, context);
  const { clip, carried } = targetPose(motion, settings, context);
  const joints = carried ? new Set([...part].filter((j) => carried.has(j))) : part;
  const over = Math.round(frameOf(settings.over, context.fps));
  let best: { readonly motion: Motion; readonly off: number } | null = null;
  for (const ahead of settings.place === "target" ? AHEAD.slice(0, 1) : AHEAD) {
    const target = placedPose(motion, clip, settings.place, over, plan, ahead);
    const made = settledMotion(motion, { target, joints, over, landings: plan }, context.pause);
    const off = restlessness(made, plan);
    if (!best || off < best.off) best = { motion: made, off };
    if (off < STILL) break;
  }
  const { motion: made, off } = best as { readonly motion: Motion; readonly off: number };
  if (off >= STILL)
    context.note(
      "landings",
      `a leg lands where it does not reach yet, and comes ${(100 * off).toFixed(1)} cm after; land it later, or let the trunk go over sooner`,
    );
  return made;
}

/** What rests moves by less than this, metres. */
const STILL = 1e-4;

/** How far the ends of legs are from where they end up, at most, from their landings on, metres. */
function restlessness(motion: Motion, plan: readonly Landing[]): number {
  const ends = legEnds(motion);
  const tracks = jointTracks(
    motion.character.skeleton,
    motion.clip,
    ends.map((e) => e.limb.end),
  );
  const last = motion.clip.frameCount - 1;
  let most = 0;
  ends.forEach((end, i) => {
    const land = plan.find((l) => end.points.some((p) => p.id === l.point))?.land ?? last;
    const { positions: p } = tracks[i];
    for (let f = land; f < last; f++) most = Math.max(most, Math.hypot(p[f * 3] - p[last * 3], p[f * 3 + 1] - p[last * 3 + 1], p[f * 3 + 2] - p[last * 3 + 2]));
  });
  return most;
}

/** All joints but those left out, each with what hangs on it. */
function takingPart({ character }: Motion, leaveOut: readonly PartRef[], context: PatchContext): Set<number> {
  const out = leaveOut.map((part) => context.part(part, "leaveOut"));
  return new Set([...character.skeleton.names.keys()].filter((j) => !ancestry(character.skeleton, j).some((a) => out.includes(a))));
}

/** The pose as a clip of one frame on this body, where it stands by itself; and the joints of which it tells. */
function targetPose(motion: Motion, { target }: SettleSettings, context: PatchContext): { clip: Clip; carried: ReadonlySet<number> | null } {
  if (target && "clip" in target) {
    const { motion: other, joints } = carriedOnto(context.other(target.clip, "target"), motion);
    const level = floored(other);
    const frame = Math.max(0, Math.min(level.clip.frameCount - 1, Math.round(frameOf(target.at, level.clip.fps))));
    return { clip: cropClip(level.clip, frame, frame), carried: joints };
  }
  const pose = (target as Extract<SettleSettings["target"], { pose: unknown }>).pose;
  const last = motion.clip.frameCount - 1;
  const one = ClipDraft.of(cropClip(motion.clip, last, last));
  posedFrame(motion, last, pose, "world").storeAll(one, 0);
  return { clip: one.done(), carried: null };
}

/** A motion's first frames, and those of another from the last of them on. */
function followedBy(first: Motion, rest: Motion, at: number): Motion {
  const draft = ClipDraft.of(rest.clip);
  for (let f = 0; f <= at; f++) {
    first.clip.rotations.forEach((track, j) => {
      draft.setRotation(j, f, track[f >> 6], (f & 63) * 4);
    });
    first.clip.positions.forEach((track, s) => {
      draft.setPosition(s, f, track[f >> 6], (f & 63) * 3);
    });
  }
  const clip = draft.done();
  const later = rest.contacts.filter((c) => c.start > at);
  const through = rest.contacts.filter((c) => c.start <= at && c.end > at);
  const contacts = first.contacts.map((c) => {
    const on = c.end >= at ? through.find((t) => t.point === c.point) : undefined;
    return on ? { ...c, end: on.end, rampOut: on.rampOut } : c;
  });
  return {
    ...rest,
    clip,
    contacts: [...contacts, ...later].sort((a, b) => a.start - b.start || a.point.localeCompare(b.point)),
    settled: rest.plants.length > 0 ? clip : null,
  };
}
