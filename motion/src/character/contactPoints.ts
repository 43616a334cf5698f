import type { Clip } from "../clip/clip.ts";
import { restOffset } from "../contacts/tracks.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry, onlyChild, restWorld, type Skeleton, tipOf } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Rig } from "./rig.ts";
import { SIDES, type Side } from "./roles.ts";
import { buildSole } from "./soles.ts";

/**
 * A place on a body that can rest on something, fixed in a joint's frame (metres). An open set: whatever a character has can be found, set,
 * anchored, measured and planted.
 */
export interface ContactPoint {
  /** its name in documents and reports, such as "leftHeel" */
  readonly id: string;
  readonly joint: number;
  readonly local: readonly [number, number, number];
  /** its height over the surface it rests on, metres: a toe joint lies inside the foot */
  readonly clearance: number;
  /** is it a joint or an end of the skeleton? Others are estimates of where a foot touches the ground */
  readonly modelled: boolean;
  /** joint that reports name for it: a toe rests by its toe joint, though it is fixed in the foot */
  readonly named: number;
  /** limb (index of rig.limbs) that carries it as its end; −1 where the body as a whole has to go to it */
  readonly limb: number;
  readonly side: Side | null;
  /** is it looked for in every clip, and kept out of the ground while it swings? */
  readonly bears: boolean;
  /** does it lie where a person, or the body's own surface, says? Then nothing else moves it */
  readonly placed?: boolean;
}

/** A leg that can stand: its limb, what is below its end joint, and the points it stands on. */
export interface Leg {
  readonly limb: number;
  readonly side: Side;
  readonly upper: number;
  readonly lower: number;
  /** foot, or on a quadruped the metatarsus / metacarpus */
  readonly end: number;
  /** toe or hoof joint, −1 without */
  readonly toe: number;
  /** heel and toe of a foot, or the one point of a hoofed leg */
  readonly parts: readonly string[];
}

/** The legs of a body, left before right, hind before fore. Legs whose joints are not all known are left out. */
export function legsOf(skeleton: Skeleton, body: BodyMap, rig: Rig): Leg[] {
  const leg = (side: Side, kind: "leg" | "arm", tip: "Toe" | "HandEnd", parts: readonly string[]): Leg[] => {
    const limb = rig.limbs.findIndex((l) => l.side === side && l.kind === kind);
    if (limb < 0) return [];
    const { upper, lower, end } = rig.limbs[limb];
    const toe = body.roles[`${side}${tip}`];
    return [{ limb, side, upper, lower, end, toe: toe !== undefined && ancestry(skeleton, toe).includes(end) ? toe : -1, parts }];
  };
  const hind = SIDES.flatMap((side) => leg(side, "leg", "Toe", body.plan === "biped" ? [`${side}Heel`, `${side}Toe`] : [`${side}Hind`]));
  return body.plan === "biped" ? hind : [...hind, ...SIDES.flatMap((side) => leg(side, "arm", "HandEnd", [`${side}Fore`]))];
}

/** The joints from a leg's root to what it stands on, the last first, and those of them that show where that goes: its end, and a toe below it. */
export function legChain(skeleton: Skeleton, { upper, end, toe }: Leg): { readonly joints: readonly number[]; readonly ends: readonly number[] } {
  const ends = toe < 0 ? [end] : [end, toe];
  const above = new Set(ancestry(skeleton, upper).slice(1));
  return { joints: ancestry(skeleton, ends[ends.length - 1]).filter((joint) => !above.has(joint)), ends };
}

/** Depth and height of places on the trunk as shares of body height. */
const BACK = 0.057;
const SEAT = 0.05;
const CROWN = 0.06;

/** Every contact point of a body as its skeleton shows it. `height` is the body's standing height, metres. */
export function contactPointsOf(skeleton: Skeleton, clip: Clip, body: BodyMap, rig: Rig, height: number): ContactPoint[] {
  const { roles } = body;
  const points: ContactPoint[] = [];
  for (const leg of legsOf(skeleton, body, rig)) {
    for (const { id, local, modelled, clearance } of buildSole(skeleton, clip, leg).points)
      points.push({
        id,
        joint: leg.end,
        local,
        modelled,
        clearance,
        named: id.endsWith("Heel") || leg.toe < 0 ? leg.end : leg.toe,
        limb: leg.limb,
        side: leg.side,
        bears: true,
      });
  }
  for (const leg of legsOf(skeleton, body, rig)) {
    const tip = body.plan === "biped" && leg.toe >= 0 ? toeTip(skeleton, leg) : null;
    if (tip) points.push({ id: `${leg.side}ToeTip`, joint: leg.toe, ...tip, clearance: 0, named: leg.toe, limb: leg.limb, side: leg.side, bears: false });
  }
  const add = (id: string, joint: number | undefined, local: readonly [number, number, number], limb = -1, side: Side | null = null) => {
    if (joint !== undefined) points.push({ id, joint, local, modelled: true, clearance: 0, named: joint, limb, side, bears: false });
  };
  for (const side of SIDES) {
    const arm = rig.limbs.findIndex((l) => l.side === side && l.kind === "arm");
    if (body.plan === "biped" && arm >= 0) add(`${side}Hand`, rig.limbs[arm].end, handMiddle(skeleton, body, side), arm, side);
    add(`${side}Knee`, roles[`${side}Shin`], [0, 0, 0], -1, side);
    if (body.plan === "biped") add(`${side}Elbow`, roles[`${side}Forearm`], [0, 0, 0], -1, side);
  }
  const seen = (joint: number, up: number, forward: number): [number, number, number] => {
    const v = new Float64Array([0, 1, 2].map((i) => height * (up * rig.up[i] + forward * rig.forward[i])));
    rotateVecFlat(v, 0, conjugateQuatFlat(new Float64Array(4), 0, restWorld(skeleton).rotations, joint * 4), 0, v, 0);
    return [v[0], v[1], v[2]];
  };
  const biped = body.plan === "biped";
  if (roles.hips !== undefined) {
    // A quadruped's back is up, a biped's behind.
    const trunk = biped ? rig.chest : (roles.spine2 ?? rig.chest);
    add("back", trunk, biped ? seen(trunk, 0, -BACK) : seen(trunk, BACK, 0));
    add("seat", rig.hips, biped ? seen(rig.hips, -SEAT, -SEAT) : seen(rig.hips, 0, -SEAT));
  }
  if (roles.head !== undefined) add("head", roles.head, seen(roles.head, CROWN, biped ? -BACK : 0));
  return points;
}

/** The middle of the hand, in the frame of its joint: half way to the fingers, or to the hand's tip; at the joint where nothing says. Metres. */
export function handMiddle(skeleton: Skeleton, body: BodyMap, side: Side): [number, number, number] {
  const hand = body.roles[`${side}Hand`];
  if (hand === undefined) return [0, 0, 0];
  const next = body.roles[`${side}Middle`] ?? body.roles[`${side}HandEnd`] ?? onlyChild(skeleton, hand);
  const way = next >= 0 && ancestry(skeleton, next).includes(hand) ? restOffset(skeleton, next, hand) : tipOf(skeleton, hand);
  return way ? [way[0] / 2, way[1] / 2, way[2] / 2] : [0, 0, 0];
}

/** Toes are about so long beside the way from ankle to ball. */
const TOES_LONG = 0.45;

/** Where a foot's toes end, in their joint's frame: the end of their bone, or an estimate straight on. */
function toeTip(skeleton: Skeleton, { end, toe }: Leg): Pick<ContactPoint, "local" | "modelled"> {
  const next = onlyChild(skeleton, toe);
  const tip = next >= 0 ? restOffset(skeleton, next, toe) : tipOf(skeleton, toe);
  if (tip) return { local: [tip[0], tip[1], tip[2]], modelled: true };
  // Level on from the ball, as the foot points at rest.
  const { positions, rotations } = restWorld(skeleton);
  const on = [0, 2].map((c) => positions[toe * 3 + c] - positions[end * 3 + c]);
  const v = new Float64Array([TOES_LONG * on[0], 0, TOES_LONG * on[1]]);
  rotateVecFlat(v, 0, conjugateQuatFlat(new Float64Array(4), 0, rotations, toe * 4), 0, v, 0);
  return { local: [v[0], v[1], v[2]], modelled: false };
}

/** Does a point lie on what hangs on its limb's end, as the tip of a toe does? Such a one is neither looked for nor kept out of the ground; a person says when it rests. */
export function liesBeyond(point: ContactPoint, rig: Rig): boolean {
  return point.limb >= 0 && point.joint !== rig.limbs[point.limb].end;
}

/** "leftToe" → "Left toe", "leftFore" → "Left fore hoof". */
export function pointLabel(id: string): string {
  return id
    .replace(/(Fore|Hind)$/, "$1Hoof")
    .replace(/([A-Z])/g, (c) => ` ${c.toLowerCase()}`)
    .replace(/^./, (c) => c.toUpperCase());
}
