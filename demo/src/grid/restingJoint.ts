import type { Character } from "../characters.ts";

/** The joint that rests: a toe or hoof; the end of a foot without toes. */
export function restingJoint(roles: Character["roles"], point: string): number {
  const side = point.startsWith("left") ? "left" : "right";
  if (point.endsWith("Fore")) return roles[`${side}HandEnd`] ?? 0;
  return roles[`${side}Toe`] ?? roles[`${side}Foot`] ?? 0;
}
