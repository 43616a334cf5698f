import { z } from "zod";
import { bestCycle } from "../cycles/find.ts";
import { type LoopStretch, looped, loopWarp } from "../cycles/loopMotion.ts";
import { duration, moment, timed } from "../documents/fields.ts";
import { PatchError } from "../formats/errors.ts";
import { frameOf } from "../time/warp.ts";
import { definePatch, type WarpContext } from "./kind.ts";

/** Most repeats, and the longest loop, seconds. */
const MOST_REPEATS = 500;
const LONGEST = 3600;
/** A cycle has at least so many frames. */
const LEAST_FRAMES = 4;

const schema = z.strictObject({
  /** null, both: the best cycle found */
  from: timed(moment).nullable(),
  to: timed(moment).nullable(),
  repeats: z.number().int().min(1).max(MOST_REPEATS),
  travel: z.enum(["carry", "spot", "return"]),
  half: z.enum(["first", "second"]).nullable(),
  closeOver: duration(60).nullable(),
});
export type LoopSettings = z.infer<typeof schema>;

export const loopPatch = definePatch<LoopSettings>({
  kind: "loop",
  title: "Loop",
  group: "time",
  description: "Closes a stretch so that it can be played over and over, and repeats it; travel goes on, planted feet that stand at the seam stay.",
  schema,
  defaults: { from: null, to: null, repeats: 1, travel: "carry", half: null, closeOver: null },
  masked: false,
  ranged: false,
  poses: true,
  makes: true,
  fields: {
    repeats: { label: "Repeats", step: 1 },
    travel: { label: "Travel", choices: { carry: "Goes on", spot: "On the spot", return: "Starts anew" } },
    half: {
      label: "Authored",
      unset: "Both halves",
      choices: { first: "First", second: "Second" },
      help: "One half is authored and mirrored into the other",
    },
    closeOver: {
      label: "Close over",
      unit: "f",
      step: 1,
      inFrames: true,
      unset: "the whole cycle",
      help: "Frames around the seam over which its two sides are brought together",
    },
  },
  treats: {
    kinds: ["gap"],
    propose: (_, { clip }) => ({ settings: { from: 0, to: (clip.frameCount - 1) / clip.fps } }),
  },
  sees: () => "whole",
  warp(settings, context) {
    const { from, to } = stretchOf(settings, context);
    return loopWarp(settings, from, to);
  },
  apply(motion, settings, { id, name, fps, received, pause }) {
    const seconds = (received.clip.frameCount - 1) / fps;
    const stretch = stretchOf(settings, { id, name, seconds, fps, limited: false, received, lengthOf: () => undefined });
    return looped(motion, received, settings, stretch, pause);
  },
});

/** The stretch that is repeated, seconds. Throws PatchError where there is none. */
function stretchOf({ from, to, repeats, half }: LoopSettings, { id, name, seconds, fps, received }: WarpContext): LoopStretch {
  if (from === null && to === null) {
    if (!received) throw new PatchError(id, name, "from", "the cycle is not known before the motion is");
    const cycle = bestCycle(received, half !== null);
    if (!cycle)
      throw new PatchError(id, name, "from", "the body never comes back to where it was, so no cycle was found; set the first and the last frame of one");
    return checked(cycle.from, cycle.to);
  }
  return checked(Math.max(0, from ?? 0), Math.min(seconds, to ?? seconds));

  function checked(start: number, end: number) {
    const frame = (m: number) => Math.round(frameOf(m, fps));
    if ((end - start) * fps < LEAST_FRAMES)
      throw new PatchError(
        id,
        name,
        "to",
        `frames ${frame(start)}–${frame(end)} are too few for a cycle; choose an end at least ${LEAST_FRAMES} frames behind its start`,
      );
    if ((end - start) * repeats > LONGEST) throw new PatchError(id, name, "repeats", `${repeats} repeats come to more than an hour; choose fewer`);
    return { from: start, to: end };
  }
}
