import { z } from "zod";
import { type Ground, LEVEL_GROUND } from "../ground/ground.ts";
import { groundShapeSchema } from "../ground/shapes.ts";
import type { Motion } from "../motion.ts";
import { carryOnto } from "../terrain/carryOnto.ts";
import { definePatch } from "./kind.ts";

/** Most shapes of one ground. */
const MOST_SHAPES = 100;

const schema = z.strictObject({
  under: z.enum(["found", "level"]),
  lean: z.number().min(0).max(1),
  shapes: z.array(groundShapeSchema.meta({ field: "groundShape" })).max(MOST_SHAPES),
});
export type GroundSettings = z.infer<typeof schema>;

export const groundPatch = definePatch<GroundSettings>({
  kind: "ground",
  title: "Put on ground",
  group: "ground",
  description: "Takes the motion onto another ground: a slope, steps, boxes, or level; feet, hips and lean go along.",
  schema,
  defaults: { under: "found", lean: 0.3, shapes: [] },
  masked: false,
  ranged: false,
  poses: true,
  fields: {
    under: { label: "Beneath", help: "What the shapes stand on: the ground as it was found, slope and all, or a level one", choices: { found: "as found" } },
    shapes: { label: "Shapes", help: "What stands on the ground, with its measures" },
    lean: {
      label: "Leans into the climb",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "How much of the way's steepness a body on two legs leans forward by, and back as it goes down",
    },
  },
  sees: () => "whole",
  apply(motion: Motion, settings: GroundSettings, context): Motion {
    const beneath = settings.under === "level" ? LEVEL_GROUND : motion.ground;
    const to: Ground = { ...beneath, shapes: settings.shapes };
    const [was, is] = [JSON.stringify(motion.ground), JSON.stringify(to)];
    return was === is ? motion : carryOnto(motion, to, settings.lean, (message) => context.note("shapes", message));
  },
});
