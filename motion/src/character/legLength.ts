import type { Character } from "./character.ts";

/** Thigh and shin along the bones, on four legs the mean of fore and hind; a share of the height where no leg is known. Metres. */
export function legLengthOf({ rig, body, height }: Character): number {
  const legs = rig.limbs.filter((l) => l.kind === "leg" || body.plan === "quadruped");
  return legs.length > 0 ? legs.reduce((sum, l) => sum + l.length, 0) / legs.length : height / 2;
}
