import type { Side } from "./roles.ts";

/** What a joint's name says, read word by word; undefined where it says nothing. */
export interface NameHint {
  readonly side: Side | undefined;
  /** which end of a four-legged body, where the name says so */
  readonly region: "fore" | "hind" | undefined;
  /** parts the name can mean, best first */
  readonly parts: readonly NamePart[];
}

export type NamePart =
  | "hips"
  | "spine"
  | "chest"
  | "neck"
  | "head"
  | "tail"
  | "collar"
  | "upperArm"
  | "forearm"
  | "hand"
  | "thigh"
  | "shin"
  | "foot"
  | "toe"
  | "thumb"
  | "index"
  | "middle"
  | "ring"
  | "little"
  | "twist"
  | "end"
  | "other";

/** Patterns over the words of a name, joined by spaces and without the side; the first that matches gives its parts. */
const PATTERNS: readonly (readonly [RegExp, readonly NamePart[]])[] = [
  [/\b(twist|roll|helper|ik|pole|target|ctrl|volume|muscle)\b/, ["twist"]],
  [/\b(end|nub|effector|site|tip)\b/, ["end"]],
  [/\b(thumb|pollex)\b/, ["thumb"]],
  [/\b(index|pointer|fore finger|forefinger|finger ?1)\b/, ["index"]],
  [/\b(middle|mid finger|finger ?2)\b/, ["middle"]],
  [/\b(ring|finger ?3)\b/, ["ring"]],
  [/\b(little|pinky|pinkie|finger ?4)\b/, ["little"]],
  [/\bfingers?\b/, ["index"]],
  [/\b(eye|jaw|ear|hair|brow|lip|tongue|teeth|horn|beard|prop|weapon|cape|skirt|coat)s?\b/, ["other"]],
  [/\btail\b/, ["tail"]],
  [/\b(hip joint|hipjoint|hip dummy)\b/, ["other"]],
  [/\b(up leg|upper leg|upleg|upperleg|thigh|femur|hind upper)\b/, ["thigh"]],
  [/\b(low leg|lower leg|lowleg|lowerleg|shin|calf|knee|tibia|crus|hind lower|stifle)\b/, ["shin"]],
  [/\b(toe|toes|ball|toe base|toebase|metatarsal|metatarsals|hoof|paw|phalanx)\b/, ["toe"]],
  [/\b(foot|ankle|talus|talocrural|hock|tarsus|metatarsus)\b/, ["foot"]],
  [/\bleg\b/, ["shin", "thigh"]],
  [/\b(fore arm|forearm|low arm|lower arm|lowarm|lowerarm|elbow|radius|ulna|fore lower)\b/, ["forearm"]],
  [/\b(up arm|upper arm|uparm|upperarm|humerus|fore upper)\b/, ["upperArm"]],
  [/\b(clavicle|collar|collarbone|scapula|sternoclavicular|acromioclavicular)\b/, ["collar"]],
  [/\bshoulder\b/, ["collar", "upperArm"]],
  [/\barm\b/, ["upperArm", "forearm"]],
  [/\b(hand|wrist|palm|radiocarpal|carpus|metacarpus)\b/, ["hand"]],
  [/\b(hips|pelvis|sacrum|waist root|sacroiliac|humanoid root)\b/, ["hips"]],
  [/\bhip\b/, ["thigh", "hips"]],
  [/\b(upper chest|upperchest|chest|thorax|ribcage|rib cage|torso upper)\b/, ["chest", "spine"]],
  [/\b(spine|lower back|lowerback|back|ab|abdomen|abs|belly|waist|lumbar|torso|vl|vt|trunk)\b/, ["spine"]],
  [/\b(neck|vc|cervical)\b/, ["neck"]],
  [/\b(head|skull|skullbase)\b/, ["head"]],
];

/** Splits "Rig|porter:LeftUpLeg_01" and its like into lower-case words: namespaces dropped, camel case and digits parted. */
function wordsOf(name: string): string[] {
  return name
    .replace(/^.*[:|]/, "")
    .replace(/^(\w{1,8}\d{2}|bone|def|org|jnt|joint|humanoid)[\s_.-]+/i, "")
    .replace(/([a-z])([A-Z])/g, "$1 $2")
    .replace(/([A-Z]+)([A-Z][a-z])/g, "$1 $2")
    .replace(/(\d+)/g, " $1 ")
    .split(/[^A-Za-z0-9]+/)
    .filter((word) => word !== "")
    .map((word) => word.toLowerCase());
}

const SIDE_PREFIX = /^(left|right)(.+)$/;
const SHORT_PREFIX =
  /^([lr])(hip|thigh|knee|shin|calf|ankle|foot|toe|toes|collar|clavicle|shoulder|arm|elbow|forearm|wrist|hand|thumb|finger|fingers|femur|tibia|humerus|radius|leg|upleg|hipjoint|upperarm|uparm|lowerarm|lowarm|upperleg|lowerleg)$/;

/** Codes of legs: fore, back or hind with left or right, in either order. */
const LEG_CODE = /^(?:[fbh]([lr])|([lr])[fbh])$/;

/** Reads side and part from a joint's name in any of the usual styles. */
export function readName(name: string): NameHint {
  let side: Side | undefined;
  let region: NameHint["region"];
  const rest: string[] = [];
  for (const word of wordsOf(name)) {
    const long = SIDE_PREFIX.exec(word);
    const short = SHORT_PREFIX.exec(word);
    if (word === "l" || word === "left" || word === "lft") side ??= "left";
    else if (word === "r" || word === "right" || word === "rgt") side ??= "right";
    else if (LEG_CODE.test(word)) {
      side ??= word.includes("l") ? "left" : "right";
      region ??= word.includes("f") ? "fore" : "hind";
    } else if (word === "fore" || word === "front") {
      region ??= "fore";
      rest.push(word);
    } else if (word === "hind" || word === "rear") {
      region ??= "hind";
      rest.push(word);
    } else if (long) {
      side ??= long[1] as Side;
      rest.push(long[2]);
    } else if (short) {
      side ??= short[1] === "l" ? "left" : "right";
      rest.push(short[2]);
    } else rest.push(word);
  }
  const text = rest.join(" ");
  for (const [pattern, parts] of PATTERNS) if (pattern.test(text)) return { side, region, parts };
  return { side, region, parts: [] };
}
