import type { FrameWindow } from "../clip/changes.ts";
import { settingsUpgrade } from "../documents/steps.ts";
import type { Motion } from "../motion.ts";
import { preparedPlant, preparePlant } from "../plants/prepare.ts";
import { PLANT_DEFAULTS, type PlantSettings, plantSettingsSchema } from "../plants/settings.ts";
import { solvePlants } from "../plants/solve.ts";
import { solveWindow } from "../plants/solveAgain.ts";
import { definePatch, type PatchContext } from "./kind.ts";

/** The rate that ramps of version 1 were counted at: at other rates they lasted as long. */
const RAMP_RATE_1 = 30;

export const plantPatch = definePatch<PlantSettings>({
  kind: "plant",
  title: "Plant feet",
  group: "ground",
  description: "Takes the travel's error out of the root, then holds every contact still where it rests.",
  schema: plantSettingsSchema,
  defaults: PLANT_DEFAULTS,
  masked: false,
  once: true,
  treats: { kinds: ["travel", "slide", "float", "sink", "stretch"], propose: () => ({}) },
  fields: {
    travelStrength: {
      label: "Travel follows the feet",
      unit: "%",
      factor: 100,
      step: 0.01,
      help: "How much of the root's wrong travel is taken out before any leg is bent",
    },
    travelAfter: {
      label: "Behind a stretch, travel",
      choices: { carry: "goes on", spread: "is as it was" },
      onlyWithRange: true,
      help: "Over a stretch of the clip: the body goes on from where the stretch has brought it, or the correction is spread over the stretch and gone at its end",
    },
    steadyLegs: {
      label: "Steady trembling legs",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "Legs and hips that tremble (over 0.1° of noise) are smoothed first, and single frames on which they leap away, or that were shown twice, are put right; clean ones are left as they are",
    },
    hipsMayDropCm: {
      label: "Hips may move",
      unit: "cm",
      step: 0.5,
      help: "The most the hips come down so that a leg reaches, or up so that none is folded into itself",
    },
    softKneeDegrees: { label: "Soft knee from", unit: "°", step: 1, help: "Knees are not taken straighter than this where the hips can help" },
    layFlat: {
      label: "Lay feet flat",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "How far a foot that stands tilted is turned onto the ground before it is held; a contact may say otherwise",
    },
    clearSkin: {
      label: "Keep the skin out of the floor",
      help: "On a body with a skin, feet are turned and raised by the least that has no sole, edge or toe in the floor, and toes bend over it; hands lie on it, and a body that sits or lies comes up",
    },
    landingRamp: { label: "Landing ramp", unit: "f", step: 1, inFrames: true, help: "Time before a landing over which the foot comes to its place" },
    liftRamp: { label: "Lift ramp", unit: "f", step: 1, inFrames: true, help: "Time after a lift over which the foot returns to its own course" },
    rests: {
      label: "Rests",
      choices: { settle: "settles" },
      help: "Where a foot is held: where it settles, or where it is on its span's first or last frame",
    },
  },
  fromFrames: settingsUpgrade({
    landingRampInFrames: (v) => ({ landingRamp: typeof v === "number" ? v / RAMP_RATE_1 : v }),
    liftRampInFrames: (v) => ({ liftRamp: typeof v === "number" ? v / RAMP_RATE_1 : v }),
  }),
  sees: () => "whole",
  apply(motion: Motion, settings: PlantSettings, context: PatchContext): Motion {
    if (settings.clearSkin && !motion.character.details.skin)
      context.note("clearSkin", "this body has no skin of its own in its file: cast it onto the character whose skin it wears, and plant the feet above that");
    const { planted, settled, trembles } = preparePlant(motion, settings, context);
    const held: Motion = { ...planted, plants: [...motion.plants, { settings, weights: context.weights, trembles }] };
    const clip = solvePlants(held, settled && { settled, also: context.weights }, context.pause);
    return { ...held, clip, settled: clip };
  },
  /** What was read of the whole motion is kept as long as only hips, knees and ramps change: then a stretch can be solved by itself. */
  applyWindow(motion: Motion, settings: PlantSettings, context: PatchContext, window: FrameWindow): Motion | null {
    const prepared = preparedPlant(motion, settings, context);
    if (!prepared) return null;
    const held: Motion = { ...prepared.planted, plants: [...motion.plants, { settings, weights: context.weights, trembles: prepared.trembles }] };
    return solveWindow(held, prepared.settled, context.weights, window);
  },
});
