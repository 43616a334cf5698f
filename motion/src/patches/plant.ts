import { copyClip } from "../clip/clip.ts";
import { partTracks } from "../contacts/find.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { levelVelocity, travelDisplacement, travelError } from "../contacts/travel.ts";
import type { Motion } from "../motion.ts";
import { placeAnchors } from "../plants/anchors.ts";
import { PLANT_DEFAULTS, type PlantSettings, plantSettingsSchema } from "../plants/settings.ts";
import { retrack, solvePlants } from "../plants/solve.ts";
import { steadyLegs } from "../plants/steady.ts";
import { definePatch, type PatchContext } from "./kind.ts";

export const plantPatch = definePatch<PlantSettings>({
  kind: "plant",
  title: "Plant feet",
  description: "Takes the travel's error out of the root, then holds every contact still where it rests.",
  schema: plantSettingsSchema,
  defaults: PLANT_DEFAULTS,
  masked: false,
  local: false,
  fields: {
    travelStrength: {
      label: "Travel follows the feet",
      unit: "%",
      factor: 100,
      step: 0.01,
      help: "How much of the root's wrong travel is taken out before any leg is bent",
    },
    steadyLegs: {
      label: "Steady trembling legs",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "Legs and hips that tremble (over 0.1° of noise) are smoothed first; clean ones are left as they are",
    },
    hipsMayDropCm: { label: "Hips may drop", unit: "cm", step: 0.5, help: "The most the hips come down so that a leg reaches" },
    softKneeDegrees: { label: "Soft knee from", unit: "°", step: 1, help: "Knees are not taken straighter than this where the hips can help" },
    landingRampInFrames: {
      label: "Landing ramp",
      unit: "f",
      step: 1,
      help: "Frames before a landing over which the foot comes to its place (at 30 frames a second)",
    },
    liftRampInFrames: {
      label: "Lift ramp",
      unit: "f",
      step: 1,
      help: "Frames after a lift over which the foot returns to its own course (at 30 frames a second)",
    },
    rests: { label: "Rests", help: "Where a foot is held: where it settles, or where it is on its span's first or last frame" },
  },
  apply(motion: Motion, settings: PlantSettings, context: PatchContext): Motion {
    const contacts = motion.contacts.filter((c) => c.end >= context.start && c.start <= context.end);
    if (motion.soles.length === 0) return motion;
    const corrected = correctTravel(steadyLegs(motion, settings.steadyLegs, context.weights), settings.travelStrength, context);
    const soles = retrack(motion.soles, motion.skeleton, corrected.clip);
    const anchored = placeAnchors(contacts, soles, motion.floor, settings);
    const clip = solvePlants(motion.skeleton, corrected.clip, soles, anchored, motion.floor, settings, context.weights);
    const untouched = motion.contacts.filter((c) => !contacts.includes(c));
    const all = [...untouched, ...anchored].sort((a, b) => a.start - b.start || a.part.localeCompare(b.part));
    return { ...motion, clip, contacts: all, plant: { settings, weights: context.weights, solved: clip } };
  },
});

/** The root's level path with the movement of planted parts taken out. Over a part of a clip it starts at zero and fades with the range. */
export function correctTravel(motion: Motion, strength: number, context: PatchContext): Motion {
  if (strength === 0) return motion;
  const soles = retrack(motion.soles, motion.skeleton, motion.clip);
  const { frameCount, fps } = motion.clip;
  const k = motion.clip.positionJoints.length * 3;
  // The hips' course, not the root's: some skeletons have a root that stays at the origin.
  const hips = jointTrack(motion.skeleton, motion.clip, motion.body.roles.hips ?? 0);
  const velocity = levelVelocity(hips.positions, 3, frameCount, fps);
  const error = travelDisplacement(travelError(motion.contacts, partTracks(soles), frameCount, fps), velocity, fps);
  const clip = copyClip(motion.clip);
  const [x0, z0] = context.whole ? [0, 0] : [error[context.start * 2], error[context.start * 2 + 1]];
  for (let f = 0; f < frameCount; f++) {
    const w = strength * context.weights[f];
    if (w === 0) continue;
    clip.positions[f * k] -= w * (error[f * 2] - x0);
    clip.positions[f * k + 2] -= w * (error[f * 2 + 1] - z0);
  }
  return { ...motion, clip };
}
