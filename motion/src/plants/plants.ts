import type { Character } from "../character/character.ts";
import { type ContactPoint, liesBeyond } from "../character/contactPoints.ts";
import type { RigLimb } from "../character/rig.ts";
import type { Contact } from "../contacts/contact.ts";
import type { LivePlant, Motion } from "../motion.ts";
import { PLANT_DEFAULTS, type PlantSettings } from "./settings.ts";

/** A limb's end with the points that rest on it: heel and toe of a foot, a hoof, a palm. */
export interface LimbEnd {
  readonly limb: RigLimb;
  readonly points: readonly ContactPoint[];
  /** what lies beyond it and can rest by itself: the tip of a toe; null where there is none */
  readonly tip: ContactPoint | null;
  readonly bears: boolean;
}

/** The limb ends of a body that can be planted, legs before arms. */
export function limbEnds(character: Character, points: readonly ContactPoint[]): LimbEnd[] {
  return character.rig.limbs.flatMap((limb, i) => {
    const own = points.filter((p) => p.limb === i && p.joint === limb.end);
    const tip = points.find((p) => p.limb === i && liesBeyond(p, character.rig)) ?? null;
    return own.length > 0 ? [{ limb, points: own, tip, bears: own.some((p) => p.bears) }] : [];
  });
}

/** Ramps before and after a contact, whole frames. */
export interface RampFrames {
  readonly landing: number;
  readonly lift: number;
}

/** Weight of all plants together at each frame: the strongest has the say. */
export function plantWeights(plants: readonly LivePlant[], frameCount: number): Float64Array {
  const out = new Float64Array(frameCount);
  for (const { weights } of plants) for (let f = 0; f < frameCount; f++) out[f] = Math.max(out[f], weights[f]);
  return out;
}

/** Weight at each frame of those plants that keep the skin out of the ground; null where none does. */
export function clearingWeights(plants: readonly LivePlant[], frameCount: number): Float64Array | null {
  const clearing = plants.filter(({ settings }) => settings.clearSkin);
  return clearing.length > 0 ? plantWeights(clearing, frameCount) : null;
}

/** Settings of the plant that is strongest at a frame (the later of two alike); the defaults where there is none. */
export function settingsAt(plants: readonly LivePlant[], frame: number): PlantSettings {
  let best: LivePlant | undefined;
  for (const plant of plants) if (!best || (plant.weights[frame] ?? 0) >= (best.weights[frame] ?? 0)) best = plant;
  return best?.settings ?? PLANT_DEFAULTS;
}

export function rampFrames(settings: PlantSettings, fps: number): RampFrames {
  return { landing: Math.round(settings.landingRamp * fps), lift: Math.round(settings.liftRamp * fps) };
}

/** Ramps that are in force for a contact, frames: its own, or those of the plant that holds it. */
export function contactRamps(motion: Pick<Motion, "plants" | "clip">, contact: Contact): { readonly rampIn: number; readonly rampOut: number } {
  const { landing, lift } = rampFrames(settingsAt(motion.plants, Math.round((contact.start + contact.end) / 2)), motion.clip.fps);
  return { rampIn: contact.rampIn ?? landing, rampOut: contact.rampOut ?? lift };
}
