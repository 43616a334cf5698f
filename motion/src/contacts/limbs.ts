import type { BodyMap } from "../skeleton/bodyMap.ts";
import { SIDES, type Side } from "../skeleton/roles.ts";
import { ancestry, type Skeleton } from "../skeleton/skeleton.ts";
import type { ContactPart } from "./contact.ts";

/** A leg that can stand: the two-bone chain down to its end joint, and what rests below that. */
export interface Leg {
  readonly side: Side;
  readonly upper: number;
  readonly lower: number;
  /** foot, or on a quadruped the metatarsus / metacarpus */
  readonly end: number;
  /** toe or hoof joint, −1 without */
  readonly toe: number;
  /** heel and toe of a foot, or the one part of a hoofed leg */
  readonly parts: readonly ContactPart[];
}

/** The legs of a body, left before right, hind before fore. Legs whose joints are not all known are left out. */
export function legsOf(skeleton: Skeleton, body: BodyMap): Leg[] {
  const legs: Leg[] = [];
  const add = (side: Side, roles: readonly ["Thigh", "Shin", "Foot", "Toe"] | readonly ["UpperArm", "Forearm", "Hand", "HandEnd"], parts: ContactPart[]) => {
    const upper = body.roles[`${side}${roles[0]}`];
    const lower = body.roles[`${side}${roles[1]}`];
    const end = body.roles[`${side}${roles[2]}`];
    if (upper === undefined || lower === undefined || end === undefined) return;
    if (!ancestry(skeleton, end).includes(lower) || !ancestry(skeleton, lower).includes(upper)) return;
    const toe = body.roles[`${side}${roles[3]}`];
    legs.push({ side, upper, lower, end, toe: toe !== undefined && ancestry(skeleton, toe).includes(end) ? toe : -1, parts });
  };
  for (const side of SIDES) {
    add(side, ["Thigh", "Shin", "Foot", "Toe"], body.plan === "biped" ? [`${side}Heel`, `${side}Toe`] : [`${side}Hind`]);
  }
  if (body.plan === "quadruped") for (const side of SIDES) add(side, ["UpperArm", "Forearm", "Hand", "HandEnd"], [`${side}Fore`]);
  return legs;
}

/** The joint that a file or a report names for a contact part. */
export function partJoint(leg: Leg, part: ContactPart): number {
  return part.endsWith("Heel") ? leg.end : leg.toe >= 0 ? leg.toe : leg.end;
}
