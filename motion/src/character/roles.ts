/**
 * The parts of a body that everything else speaks of. H-Anim (ISO/IEC 19774) and VRM 1.0 names map onto these.
 * On a quadruped the fore leg uses the arm's roles (UpperArm, Forearm, Hand = from the carpus down) and the hind leg the leg's.
 */
export const SIDES = ["left", "right"] as const;
export type Side = (typeof SIDES)[number];

const CENTRE_ROLES = ["hips", "spine", "spine2", "spine3", "spine4", "spine5", "chest", "neck", "neck2", "neck3", "head"] as const;
const TAIL_ROLES = ["tail", "tail2", "tail3", "tail4", "tail5", "tail6", "tail7", "tail8"] as const;
const LIMB_PARTS = ["Collar", "UpperArm", "Forearm", "Hand", "HandEnd", "Thigh", "Shin", "Foot", "Toe"] as const;
export const FINGERS = ["Thumb", "Index", "Middle", "Ring", "Little"] as const;
const FINGER_PARTS = [
  "Thumb",
  "Thumb2",
  "Thumb3",
  "Index",
  "Index2",
  "Index3",
  "Middle",
  "Middle2",
  "Middle3",
  "Ring",
  "Ring2",
  "Ring3",
  "Little",
  "Little2",
  "Little3",
] as const;

export type CentreRole = (typeof CENTRE_ROLES)[number] | (typeof TAIL_ROLES)[number];
export type LimbPart = (typeof LIMB_PARTS)[number] | (typeof FINGER_PARTS)[number];
export type Role = CentreRole | `${Side}${LimbPart}`;

export const SPINE_ROLES = ["spine", "spine2", "spine3", "spine4", "spine5"] as const satisfies readonly Role[];
export const NECK_ROLES = ["neck", "neck2", "neck3"] as const satisfies readonly Role[];
export const TAIL: readonly CentreRole[] = TAIL_ROLES;

/** Every role, in the order in which people list a body. */
export const ROLES: readonly Role[] = [
  ...CENTRE_ROLES,
  ...SIDES.flatMap((side) => [...LIMB_PARTS, ...FINGER_PARTS].map((part) => `${side}${part}` as const)),
  ...TAIL_ROLES,
];

export function isRole(text: string): text is Role {
  return (ROLES as readonly string[]).includes(text);
}

/** What the roles of an animal's legs are called: nobody speaks of a goat's forearms. */
const ANIMAL_PARTS: Readonly<Partial<Record<LimbPart, string>>> = {
  Collar: "shoulder blade",
  UpperArm: "fore leg, upper",
  Forearm: "fore leg, lower",
  Hand: "fore cannon",
  HandEnd: "fore hoof",
  Thigh: "hind leg, upper",
  Shin: "hind leg, lower",
  Foot: "hind cannon",
  Toe: "hind hoof",
};

/** "leftUpperArm" → "Left upper arm"; on a four-legged body "Left fore leg, upper". */
export function roleLabel(role: Role, plan: "biped" | "quadruped" = "biped"): string {
  const [, side, part] = /^(left|right)(.+)$/.exec(role) ?? [];
  const animal = plan === "quadruped" && part ? ANIMAL_PARTS[part as LimbPart] : undefined;
  const words = animal
    ? `${side} ${animal}`
    : role
        .replace(/([A-Z])/g, " $1")
        .replace(/(\d)$/, " $1")
        .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
