import type { Character } from "../../character/character.ts";
import type { Role } from "../../character/roles.ts";
import { tPose } from "../../character/tPose.ts";
import { vrmName } from "../../character/vocabularies.ts";
import type { Clip } from "../../clip/clip.ts";
import { MotionFormatError } from "../errors.ts";
import type { KeyTolerance } from "../format.ts";
import { type GltfParts, writeBare } from "./write.ts";

/** Bones that a VRM humanoid has to have (VRM 1.0, "Humanoid"). */
const REQUIRED = [
  "hips",
  "spine",
  "head",
  ...["left", "right"].flatMap((s) => ["UpperArm", "LowerArm", "Hand", "UpperLeg", "LowerLeg", "Foot"].map((p) => s + p)),
];

/**
 * A motion as a VRM animation (VRMC_vrm_animation 1.0): a bare skeleton whose nodes rest in a T-pose, facing +Z with its soles at 0, as that format asks; which node is which bone; and the motion
 * as it is. Throws MotionFormatError for a body that is no person's, or lacks a bone that the format asks for.
 */
export function writeVrmAnimation(character: Character | undefined, clip: Clip, thin?: KeyTolerance): GltfParts {
  if (character?.body.plan !== "biped")
    throw new MotionFormatError("a VRM animation is of a body on two legs; write another kind of file", 0, `${clip.name}.vrma`);
  const { roles } = character.body;
  const bones = (Object.entries(roles) as [Role, number][]).flatMap(([role, joint]) => {
    const name = vrmName(role, roles);
    return name ? [[name, { node: joint }] as const] : [];
  });
  const there = new Set(bones.map(([name]) => name));
  const missing = REQUIRED.filter((name) => !there.has(name));
  if (missing.length > 0)
    throw new MotionFormatError(
      `a VRM animation needs ${missing.join(", ")}, which this body's map does not name; name them in its body map`,
      0,
      `${clip.name}.vrma`,
    );
  const { json, bin } = writeBare(tPose(character), clip, thin);
  return {
    json: {
      ...json,
      extensionsUsed: ["VRMC_vrm_animation"],
      extensions: { VRMC_vrm_animation: { specVersion: "1.0", humanoid: { humanBones: Object.fromEntries(bones) } } },
    },
    bin,
  };
}
