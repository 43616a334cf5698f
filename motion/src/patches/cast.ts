import { z } from "zod";
import { bakedOnto, bodyOf } from "../cast/bake.ts";
import { partInWords } from "../character/parts.ts";
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
const NAMED = 8;

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
    const { motion: cast, without } = bakedOnto(motion, bodyOf(context.other(onto, "onto", true)), context.pause, { hands });
    if (without.length > 0) {
      const names = without
        .slice(0, NAMED)
        .map((part) => partInWords(part))
        .join(", ");
      context.note("onto", `what has no partner on this body stays behind: ${names}${without.length > NAMED ? ` and ${without.length - NAMED} more` : ""}`);
    }
    return cast;
  },
});
