import type { Character } from "../character/character.ts";
import type { Clip } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { headingOf } from "../pose/spaces.ts";

/** An upright mirror in the world: its unit normal and a place on it, x and z, metres. */
export interface Mirror {
  readonly normal: readonly [number, number, number];
  readonly x: number;
  readonly z: number;
}

/** Where the mirrored body faces and stands on its first frame: as the source's does there, or as seen across the world's x = 0. */
export interface MirrorPlace {
  readonly heading: "keep" | "mirror";
  readonly place: "keep" | "mirror";
}

/** What becomes of keys on joints above the hips: they go along as their own axes see them, or are dropped and the hips carry the body. */
export type StrayRootKeys = "turn" | "drop";

/**
 * The mirror that a clip's first frame and a choice of place ask for, and the shift along the ground (x, z) that follows it. To keep the heading the mirror
 * stands along it; to keep the place it goes through the hips.
 */
export function mirrorFor(
  character: Character,
  clip: Clip,
  { heading, place }: MirrorPlace,
): { readonly mirror: Mirror; readonly shift: readonly [number, number] } {
  const pose = new PoseFrame(character.skeleton, clip);
  pose.load(clip, 0);
  const { hips } = character.rig;
  const angle = heading === "keep" ? headingOf(pose, character.rig) : 0;
  const normal: Mirror["normal"] = [Math.cos(angle), 0, -Math.sin(angle)];
  const [x, z] = [pose.worldPositions[hips * 3], pose.worldPositions[hips * 3 + 2]];
  if (place === "keep") return { mirror: { normal, x, z }, shift: [0, 0] };
  // Through the hips and then to where they are seen across x = 0.
  return { mirror: { normal, x, z }, shift: [-2 * x, 0] };
}
