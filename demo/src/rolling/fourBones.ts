import type { Made } from "./made.ts";
import { applied, cross, dot, fromAxes, type Mat, minus, plus, product, SAME, scaled, transposed, turn, unit, type Vec } from "./matrix.ts";
import { bentAt } from "./walker.ts";

/** A body on four legs, all of it in shares of its height at the withers (metres); names of its joints in the order of `PARENTS`. */
export interface FourLegged {
  readonly name: string;
  readonly withers: number;
  readonly joints: readonly string[];
}

/** Where a hoof's joint is, how its leg is turned, and how its cannon leans, ahead of the hoof to behind it (radians). */
export interface HoofPose {
  readonly place: Vec;
  readonly yaw: number;
  readonly leaning: number;
}

/** A body at a moment: place and turn of its hips, its neck's, and its hooves. */
export interface FourPose {
  readonly hips: Vec;
  readonly turned: Mat;
  readonly neck: Mat;
  readonly hoofAt: (leg: number) => HoofPose;
}

/** pelvis, spine, chest, neck, head, tail; then each leg */
const PARENTS = [-1, 0, 1, 2, 3, 0, 0, 6, 7, 8, 0, 10, 11, 12, 2, 14, 15, 16, 2, 18, 19, 20] as const;
/** upper and lower bone, cannon and hoof: hind left and right, fore left and right */
export const LEGS = [
  [6, 7, 8, 9],
  [10, 11, 12, 13],
  [14, 15, 16, 17],
  [18, 19, 20, 21],
] as const;
export const POINTS = ["leftHind", "rightHind", "leftFore", "rightFore"] as const;
/** How high a standing hoof's joint is, and how far ahead of the hips fore legs hang. */
export const HOOF_UP = 0.035;
export const SHOULDERS = 0.82;
/** Legs are bent at least so far that they reach this share of their length. */
const REACH = 0.985;

/** Lengths of a leg's bones, and where the joints are in their parents' frames. */
function bonesOf({ withers: w }: FourLegged) {
  const bones = LEGS.map((_, leg) => (leg < 2 ? [0.28, 0.3, 0.27] : [0.24, 0.3, 0.24]).map((share) => share * w));
  const offsets: readonly Vec[] = [
    [0, 0, 0],
    [0, 0.05 * w, 0.35 * w],
    [0, 0.02 * w, 0.45 * w],
    [0, 0.1 * w, 0.15 * w],
    [0, 0.3 * w, 0.2 * w],
    [0, 0, -0.1 * w],
    ...bones.flatMap(([upper, lower, cannon], leg): Vec[] => {
      const aside = (leg % 2 === 0 ? 0.09 : -0.09) * w;
      return [leg < 2 ? [aside, -0.05 * w, 0] : [aside, -0.12 * w, 0.02 * w], [0, -upper, 0], [0, -lower, 0], [0, -cannon, 0]];
    }),
  ];
  const ends: ReadonlyMap<number, Vec> = new Map<number, Vec>([
    [4, [0, -0.05 * w, 0.25 * w]],
    [5, [0, -0.2 * w, -0.1 * w]],
    ...LEGS.map(([, , , hoof]): [number, Vec] => [hoof, [0, -0.03 * w, 0.05 * w]]),
  ]);
  return { bones, offsets, ends };
}

/** A leg at a moment, from its socket in the trunk to its hock. */
function legAt(body: FourLegged, { hips, turned, hoofAt }: Omit<FourPose, "neck">, leg: number) {
  const { bones, offsets } = bonesOf(body);
  const hoof = hoofAt(leg);
  const socket = leg < 2 ? offsets[LEGS[leg][0]] : plus(plus(offsets[1], offsets[2]), offsets[LEGS[leg][0]]);
  const cannon = product(turn("y", hoof.yaw), turn("x", -hoof.leaning));
  return { hip: plus(hips, applied(turned, socket)), hoof, cannon, hock: plus(hoof.place, applied(cannon, [0, bones[leg][2], 0])) };
}

/** Do all legs reach their hooves, and bend as they do? */
export function reaches(body: FourLegged, pose: Omit<FourPose, "neck">): boolean {
  return bonesOf(body).bones.every(([upper, lower], leg) => {
    const { hip, hock } = legAt(body, pose, leg);
    return Math.hypot(...minus(hock, hip)) <= REACH * (upper + lower);
  });
}

/**
 * Poses as joints move: legs are brought to their hooves by the law of cosines. It shares no computation with what is measured on it, nor with the other performances of the demo but
 * that of the walks of this folder. Throws RangeError where a leg does not reach its hoof.
 */
export function posedOnFour(body: FourLegged, poses: readonly FourPose[]): Omit<Made, "fps" | "contacts"> {
  const { bones, offsets, ends } = bonesOf(body);
  const turns = poses.map((pose, frame) => {
    if (!reaches(body, pose)) throw new RangeError(`${body.name}: a leg does not reach its hoof on frame ${frame}`);
    const { turned, neck } = pose;
    const local: Mat[] = PARENTS.map(() => SAME);
    local[0] = turned;
    local[3] = neck;
    LEGS.forEach(([upper, lower, cannon, end], leg) => {
      const { hip, hock, hoof, cannon: leans } = legAt(body, pose, leg);
      const down = unit(minus(hock, hip));
      // Knees bend forwards, elbows back; either way the bones' fronts look ahead.
      const ahead = applied(turn("y", hoof.yaw), [0, 0, 1]);
      const front = unit(minus(ahead, scaled(down, dot(ahead, down))));
      const knee = bentAt(hip, hock, bones[leg][0], bones[leg][1], scaled(front, leg < 2 ? 1 : -1));
      const bone = (from: Vec, to: Vec): Mat => {
        const y = unit(minus(from, to));
        const x = unit(cross(y, front));
        return fromAxes(x, y, cross(x, y));
      };
      const [a, b] = [bone(hip, knee), bone(knee, hock)];
      local[upper] = product(transposed(turned), a);
      local[lower] = product(transposed(a), b);
      local[cannon] = product(transposed(b), leans);
      local[end] = product(transposed(leans), turn("y", hoof.yaw));
    });
    return local;
  });
  return { joints: body.joints, parents: PARENTS, legs: LEGS, offsets, ends, turns, roots: poses.map(({ hips }) => hips) };
}
