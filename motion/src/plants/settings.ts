import { z } from "zod";
import { duration } from "../documents/fields.ts";

/** Longest ramp of a plant, seconds. */
export const LONGEST_PLANT_RAMP = 2;

export const plantSettingsSchema = z.strictObject({
  travelStrength: z.number().min(0).max(1),
  /** what becomes of the travel's correction behind a stretch: it goes on from where it is, or has been spread over the stretch and is gone */
  travelAfter: z.enum(["carry", "spread"]),
  steadyLegs: z.number().min(0).max(1),
  hipsMayDropCm: z.number().min(0).max(15),
  softKneeDegrees: z.number().min(140).max(179),
  landingRamp: duration(LONGEST_PLANT_RAMP),
  liftRamp: duration(LONGEST_PLANT_RAMP),
  rests: z.enum(["settle", "first", "last"]),
  layFlat: z.number().min(0).max(1),
  /** are feet turned and raised until none of their skin is in the ground? */
  clearSkin: z.boolean(),
});
export type PlantSettings = z.infer<typeof plantSettingsSchema>;

export const PLANT_DEFAULTS: PlantSettings = {
  travelStrength: 1,
  travelAfter: "carry",
  steadyLegs: 1,
  hipsMayDropCm: 6,
  softKneeDegrees: 168,
  landingRamp: 5 / 30,
  liftRamp: 6 / 30,
  rests: "settle",
  layFlat: 0,
  clearSkin: false,
};
