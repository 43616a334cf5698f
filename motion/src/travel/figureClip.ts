import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import type { Motion } from "../motion.ts";

/** The clip as the figure shows it: less the travel that the ground does. What is exported. */
export function figureClip({ character, clip, groundTravel }: Motion): Clip {
  return groundTravel ? moveBody(character.skeleton, clip, (f) => ({ shift: [groundTravel.x[f], 0, groundTravel.z[f]], turn: null })) : clip;
}
