import { z } from "zod";
import type { Clip } from "../clip/clip.ts";
import { splinedClip } from "../clip/spline.ts";
import { sortContacts } from "../contacts/contact.ts";
import { duration, moment, seconds, timed } from "../documents/fields.ts";
import { PatchError } from "../formats/errors.ts";
import type { Motion } from "../motion.ts";
import { beatProblem, beatWarp } from "../time/beats.ts";
import { warpedContacts, warpedFrames } from "../time/through.ts";
import { fittedWarp, frameOf, identityWarp, isIdentity, type TimeWarp } from "../time/warp.ts";
import { definePatch } from "./kind.ts";

const schema = z.strictObject({
  /** moment received → moment made */
  beats: z
    .array(z.strictObject({ from: timed(moment), to: seconds, locked: z.boolean().optional() }))
    .max(2000)
    .meta({ field: "beats" }),
  between: z.enum(["even", "eased"]),
  /** how much faster the whole runs while there are no beats */
  speed: duration(100).min(0.01),
});
export type RetimeSettings = z.infer<typeof schema>;

export const retimePatch = definePatch<RetimeSettings>({
  kind: "retime",
  title: "Retime",
  group: "time",
  description: "Beats dragged in time; what is between them follows, and contacts go along. Limited to parts, only those are retimed.",
  schema,
  defaults: { beats: [], between: "eased", speed: 1 },
  masked: true,
  ranged: false,
  fields: {
    between: { label: "Between beats", choices: { even: "At one speed", eased: "Eased" } },
  },
  sees: () => "whole",
  afterMove: (was, is) => ({ ...is, beats: atTheirSpeeds(was.beats, is.beats) }),
  warp(settings, { id, name, seconds: length, fps, limited }) {
    const problem = beatProblem(settings.beats);
    if (problem) {
      const beat = settings.beats[problem.index];
      throw new PatchError(
        id,
        name,
        `beats.${problem.index}`,
        `the beat at frame ${Math.round(frameOf(beat.to, fps))} ${problem.reason}; move it, or take it out`,
      );
    }
    return limited ? identityWarp(length) : beatWarp(settings.beats, settings.between, settings.speed, length);
  },
  apply(motion, settings, { joints }) {
    if (!joints) return motion;
    const length = (motion.clip.frameCount - 1) / motion.clip.fps;
    return partsThrough(motion, fittedWarp(beatWarp(settings.beats, settings.between, settings.speed, length), length), joints);
  },
});

/** Beats whose moments received have moved, with each stretch between them at the speed that it had; one that is held lasts as long as it did. */
function atTheirSpeeds(was: RetimeSettings["beats"], is: RetimeSettings["beats"]): RetimeSettings["beats"] {
  let to = Math.max(0, (was[0]?.to ?? 0) + (is[0]?.from ?? 0) - (was[0]?.from ?? 0));
  return is.map((beat, i) => {
    if (i > 0) {
      const [received, made] = [was[i].from - was[i - 1].from, was[i].to - was[i - 1].to];
      to += received > 0 ? (made * (beat.from - is[i - 1].from)) / received : made;
    }
    return { ...beat, to };
  });
}

/** A motion in which some joints alone go through a map of time, with the contacts of the points that hang on them; the rest keeps its bits. */
function partsThrough(motion: Motion, warp: TimeWarp, joints: ReadonlySet<number>): Motion {
  if (isIdentity(warp)) return motion;
  const { clip } = motion;
  const other = splinedClip(clip, warpedFrames(clip, warp));
  const mixed: Clip = {
    ...clip,
    rotations: clip.rotations.map((track, j) => (joints.has(j) ? other.rotations[j] : track)),
    positions: clip.positions.map((track, s) => (joints.has(clip.positionJoints[s]) ? other.positions[s] : track)),
  };
  const own = new Set(motion.points.filter((p) => joints.has(p.joint)).map((p) => p.id));
  const [going, staying] = [motion.contacts.filter((c) => own.has(c.point)), motion.contacts.filter((c) => !own.has(c.point))];
  return { ...motion, clip: mixed, contacts: sortContacts([...staying, ...warpedContacts(going, warp, clip.fps, clip.frameCount)]), settled: null };
}
