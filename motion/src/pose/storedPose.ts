import { z } from "zod";
import { keyName, unitQuaternion, vector } from "../documents/fields.ts";
import { isLoose, type Loose } from "../documents/steps.ts";

export const POSE_FORMAT = "patch-stride.pose/2";

/**
 * A pose that can be pasted onto any body: how each part is turned against its parent, by part ("leftHand") or, for joints without a known part,
 * by name ("=Lantern"), in the axes of the world at rest (R_p·l·R⁻¹ with l the local rotation and R the rotations at rest; l itself where the
 * rest pose is the zero pose).
 * `rest` says which way each part's bone pointed at rest on the body it was taken from (left, up and forward of that body), so that a body
 * with another rest pose can be brought into the same one; poses of old have none and count from whatever rest they are pasted on. The hips'
 * rotation is relative to the body's heading; `place` is the hips' place (world, metres) when it was taken.
 */
export const storedPoseSchema = z.strictObject({
  format: z.literal(POSE_FORMAT),
  rotations: z.record(keyName, unitQuaternion),
  rest: z.record(keyName, vector).default({}),
  heading: z.number(),
  place: vector,
});
export type StoredPose = z.infer<typeof storedPoseSchema>;

/** Pose 1 → 2: without directions at rest. Anything that is no pose of version 1 is left to be refused by the schema. */
export function upgradePose1(data: unknown): unknown {
  if (!isLoose(data) || (data as Loose).format !== "patch-stride.pose/1") return data;
  return { ...data, format: POSE_FORMAT };
}
