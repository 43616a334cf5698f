import { z } from "zod";

export const plantSettingsSchema = z.strictObject({
  travelStrength: z.number().min(0).max(1),
  steadyLegs: z.number().min(0).max(1),
  hipsMayDropCm: z.number().min(0).max(15),
  softKneeDegrees: z.number().min(140).max(179),
  landingRampInFrames: z.int().min(0).max(60),
  liftRampInFrames: z.int().min(0).max(60),
  rests: z.enum(["settle", "first", "last"]),
});
export type PlantSettings = z.infer<typeof plantSettingsSchema>;

export const PLANT_DEFAULTS: PlantSettings = {
  travelStrength: 1,
  steadyLegs: 1,
  hipsMayDropCm: 6,
  softKneeDegrees: 172,
  landingRampInFrames: 5,
  liftRampInFrames: 6,
  rests: "settle",
};
/** Ramp lengths in the settings are for 30 frames a second; at other rates they last as long. */
export const RAMP_RATE = 30;
