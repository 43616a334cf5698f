import { z } from "zod";
import type { Character } from "../character/character.ts";
import { partName, partOf } from "../character/parts.ts";
import { mirroredMotion } from "../mirror/mirrorMotion.ts";
import { mirrorPairs } from "../mirror/pairs.ts";
import { definePatch } from "./kind.ts";

const schema = z.strictObject({
  heading: z.enum(["keep", "mirror"]),
  place: z.enum(["keep", "mirror"]),
  strayRootKeys: z.enum(["turn", "drop"]),
});
export type MirrorSettings = z.infer<typeof schema>;

/** A rest pose whose sides point further apart than this is told of, radians. */
const TOLD = (2 * Math.PI) / 180;
/** Most joints that a note names. */
const NAMED = 6;

export const mirrorPatch = definePatch<MirrorSettings>({
  kind: "mirror",
  title: "Mirror",
  group: "combine",
  description: "Changes left and right: the body as a mirror along its own heading shows it, contacts and hand shapes along with it.",
  schema,
  defaults: { heading: "keep", place: "keep", strayRootKeys: "turn" },
  masked: false,
  ranged: false,
  poses: true,
  fields: {
    heading: { label: "Heading on the first frame", choices: { keep: "As it is", mirror: "Mirrored across x = 0" } },
    place: { label: "Place on the first frame", choices: { keep: "As it is", mirror: "Mirrored across x = 0" } },
    strayRootKeys: {
      label: "Keys above the hips",
      choices: { turn: "Go along", drop: "Drop them" },
      help: "Keys on a joint above the hips that stand there by accident can be dropped: the joint reads zero then, and the body stays where it is",
    },
  },
  sees: () => "whole",
  apply(motion, settings, context) {
    const { character } = motion;
    const { unpaired, askew } = mirrorPairs(character);
    const moving = unpaired.filter((j) => moves(motion.clip.rotations[j]));
    if (moving.length > 0)
      context.note(
        "heading",
        `nothing on the other side answers ${names(character, moving)}: mirrored across the middle where ${moving.length > 1 ? "they are" : "it is"}`,
      );
    if (askew.radians > TOLD)
      context.note(
        "heading",
        `the rest pose is not the same on both sides (up to ${Math.round((askew.radians * 180) / Math.PI)}° at ${names(character, [askew.joint])}); bones are made to point where the mirror shows them`,
      );
    return mirroredMotion(motion, settings, settings.strayRootKeys);
  },
});

function moves(track: readonly Float32Array[]): boolean {
  const [head] = track;
  return track.some((chunk) => chunk.some((v, i) => v !== head[i % 4]));
}

function names(character: Character, joints: readonly number[]): string {
  const list = joints.slice(0, NAMED).map((j) => partName(partOf(character, j), character.body.plan));
  return joints.length > NAMED ? `${list.join(", ")} and ${joints.length - NAMED} more` : list.join(", ");
}
