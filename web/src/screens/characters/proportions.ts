import type { BodyMap, Role, Skeleton } from "@stride/motion";

/** A length of a body beside the usual one's. */
export interface Proportion {
  readonly name: string;
  readonly metres: number;
  /** of the body's height; null on four legs */
  readonly share: number | null;
  /** of the usual body's height; null where no table says */
  readonly usual: number | null;
}

/** What is measured, from which part to which, its share of standing height, and what an animal's is called. Shares, after Drillis & Contini (1966) as tabled by Winter, Biomechanics and Motor Control of Human Movement. */
const LIMBS: readonly (readonly [string, Role, Role, number | null, string?])[] = [
  ["Thigh", "leftThigh", "leftShin", 0.245, "Hind leg, upper"],
  ["Shin", "leftShin", "leftFoot", 0.246, "Hind leg, lower"],
  ["Upper arm", "leftUpperArm", "leftForearm", 0.186, "Fore leg, upper"],
  ["Forearm", "leftForearm", "leftHand", 0.146, "Fore leg, lower"],
  ["Shoulders apart", "leftUpperArm", "rightUpperArm", 0.259],
  ["Hip joints apart", "leftThigh", "rightThigh", 0.104],
  ["Trunk, hips to chest", "hips", "chest", null],
  ["Neck to head", "neck", "head", null],
];

/** The body's lengths at rest, along its bones, and how they stand to the usual person's. `positions` is the rest pose in the world [joint][3]. */
export function proportionsOf(skeleton: Pick<Skeleton, "parents">, { plan, roles }: BodyMap, positions: ArrayLike<number>, height: number): Proportion[] {
  return LIMBS.flatMap(([words, from, to, usual, ofAnimal]): Proportion[] => {
    const name = plan === "quadruped" ? (ofAnimal ?? words) : words;
    const [a, b] = [roles[from], roles[to]];
    if (a === undefined || b === undefined) return [];
    const metres = alongBones(skeleton.parents, positions, a, b);
    return [{ name, metres, share: plan === "biped" && height > 0 ? metres / height : null, usual: plan === "biped" ? usual : null }];
  });
}

function alongBones(parents: ArrayLike<number>, positions: ArrayLike<number>, a: number, b: number): number {
  const between = (i: number, j: number) => Math.hypot(...[0, 1, 2].map((c) => positions[i * 3 + c] - positions[j * 3 + c]));
  let length = 0;
  for (let joint = b; joint >= 0; joint = parents[joint]) {
    if (joint === a) return length;
    if (parents[joint] >= 0) length += between(joint, parents[joint]);
  }
  // Not one above the other: straight across.
  return between(a, b);
}

/** Joints of one side with their partners on the other. */
export function mirrorPairs({ roles }: BodyMap): { readonly left: number; readonly right: number; readonly part: string }[] {
  return (Object.entries(roles) as [Role, number][]).flatMap(([role, left]) => {
    if (!role.startsWith("left")) return [];
    const right = roles[`right${role.slice(4)}` as Role];
    return right === undefined ? [] : [{ left, right, part: role.slice(4) }];
  });
}
