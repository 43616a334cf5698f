import { z } from "zod";
import { bakedOnto, bodyOf } from "../cast/bake.ts";
import { type PartRef, partInWords } from "../character/parts.ts";
import { FINGERS } from "../character/roles.ts";
import { sourceRefSchema } from "../sources.ts";
import { definePatch } from "./kind.ts";

const schema = z.strictObject({
  /** the body that it goes onto */
  onto: sourceRefSchema.nullable(),
  /** are hands led to where they meet? */
  hands: z.boolean(),
});
export type CastSettings = z.infer<typeof schema>;

/** Parts without a partner that are named before the rest are counted. */
const NAMED = 6;

export const castPatch = definePatch<CastSettings>({
  kind: "cast",
  title: "Cast",
  group: "deliver",
  description:
    "Puts the motion onto another body: parts turned as their partners are, the way by leg length, contacts held on the new soles, hands where they meet.",
  schema,
  defaults: { onto: null, hands: true },
  masked: false,
  ranged: false,
  poses: true,
  once: true,
  fields: {
    hands: { label: "Hands where they meet", help: "Palms stay as far from each other and from the body as they were, in proportion to the arms" },
  },
  inputs: ({ onto }) => (onto ? [onto] : []),
  sees: () => "whole",
  apply(motion, { onto, hands }, context) {
    if (!onto) {
      context.note("onto", "no character to cast onto has been chosen yet");
      return motion;
    }
    const { motion: cast, without } = bakedOnto(motion, bodyOf(context.other(onto, "onto")), context.pause, { hands });
    if (without.length > 0) context.note("onto", `what has no partner on this body stays behind: ${inWords(without)}`);
    return cast;
  },
});

/** Parts in words, the joints of a finger as one, and all fingers of a body as fingers. */
function inWords(parts: readonly PartRef[]): string {
  const fingers = parts.filter((part) => "role" in part && FINGERS.some((finger) => part.role.includes(finger)));
  const others = [...new Set(parts.filter((part) => !fingers.includes(part)).map((part) => partInWords(part)))];
  const names = [...(fingers.length > 0 ? ["the fingers"] : []), ...others];
  return `${names.slice(0, NAMED).join(", ")}${names.length > NAMED ? ` and ${names.length - NAMED} more` : ""}`;
}
