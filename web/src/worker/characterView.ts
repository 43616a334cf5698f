import type { Motion } from "@stride/motion";
import type { CharacterView } from "./views.ts";

/** What the page needs to know of the body of a motion. */
export function characterView({ character, points }: Motion): CharacterView {
  const { body, rig, volumes, height } = character;
  return { body, rig, points, volumes, height };
}
