import { z } from "zod";
import type { BodyMap } from "../character/bodyMap.ts";
import { FINGERS, type Role, type Side } from "../character/roles.ts";
import { cross } from "../math/cross.ts";
import { axisAngleQuatFlat, multiplyQuatFlat } from "../math/quat.ts";
import { boneLength, type Skeleton, tipOf } from "../skeleton/skeleton.ts";

const curl = z.number().min(-20).max(100);

/** A named pose of the fingers. Degrees from the straight fingers of the rest pose. */
export const handShapeSchema = z
  .strictObject({
    /** bend of every joint of a finger towards the palm */
    thumb: curl,
    index: curl,
    middle: curl,
    ring: curl,
    little: curl,
    /** between neighbouring fingers */
    spread: z.number().min(-10).max(25),
    /** the thumb's base turned across the palm */
    thumbAcross: z.number().min(-20).max(80),
    /** more bend on single joints, by part without its side ("Index2") */
    single: z.record(z.string().regex(/^(Thumb|Index|Middle|Ring|Little)[23]?$/), z.number().min(-60).max(110)),
  })
  .meta({ field: "handShape" });
export type HandShape = z.infer<typeof handShapeSchema>;

export const FLAT_HAND: HandShape = { thumb: 0, index: 0, middle: 0, ring: 0, little: 0, spread: 0, thumbAcross: 0, single: {} };

/** Radius of a finger, metres, on a hand of ordinary size: what a grip adds to the shaft's own radius. */
const FINGER_RADIUS = 0.008;

export type ReadyShape = "flat" | "relaxed" | "fist" | "pinch" | "shaft3" | "shaft6";

export const READY_SHAPES: readonly { readonly name: ReadyShape; readonly label: string }[] = [
  { name: "flat", label: "Flat" },
  { name: "relaxed", label: "Relaxed" },
  { name: "fist", label: "Fist" },
  { name: "pinch", label: "Pinch" },
  { name: "shaft3", label: "Round 3 cm" },
  { name: "shaft6", label: "Round 6 cm" },
];

/**
 * A ready shape for a hand. Relaxed: bends of 5 to 10 degrees a joint, more towards the little finger (common practice). Round a shaft: a
 * finger whose segments (length L) touch a circle of radius r bends by 2·atan(L / 2r) at each joint, with r the shaft's radius and the
 * finger's own together.
 */
export function readyShape(name: ReadyShape, skeleton: Skeleton, body: BodyMap, side: Side): HandShape {
  switch (name) {
    case "flat":
      return FLAT_HAND;
    case "relaxed":
      return { ...FLAT_HAND, thumb: 5, index: 6, middle: 7.5, ring: 9, little: 10, spread: 5, thumbAcross: 10 };
    case "fist":
      return { ...FLAT_HAND, thumb: 40, index: 82, middle: 85, ring: 87, little: 88, thumbAcross: 45 };
    case "pinch":
      return { ...FLAT_HAND, thumb: 28, index: 48, middle: 30, ring: 24, little: 20, spread: 3, thumbAcross: 50 };
    case "shaft3":
    case "shaft6": {
      const radius = (name === "shaft3" ? 0.015 : 0.03) + FINGER_RADIUS;
      const bend = (finger: (typeof FINGERS)[number]) => {
        const lengths = [2, 3].flatMap((i) => {
          const joint = body.roles[`${side}${finger}${i}` as Role];
          return joint === undefined ? [] : [boneLength(skeleton, joint)];
        });
        if (lengths.length === 0) return 0;
        const mean = lengths.reduce((a, b) => a + b, 0) / lengths.length;
        return Math.min(100, (2 * Math.atan(mean / (2 * radius)) * 180) / Math.PI);
      };
      return {
        ...FLAT_HAND,
        thumb: bend("Thumb") * 0.7,
        index: bend("Index"),
        middle: bend("Middle"),
        ring: bend("Ring"),
        little: bend("Little"),
        thumbAcross: 55,
      };
    }
  }
}

/** Where the palm of a hand faces at rest, and how its fingers lie: read off the skeleton, whichever way it was built. */
interface PalmFrame {
  /** the way the fingers point, from little to index, and out of the palm; unit vectors in the hand's frame */
  readonly along: readonly number[];
  readonly across: readonly number[];
  readonly palm: readonly number[];
}

const sub = (a: readonly number[], b: readonly number[]) => a.map((v, i) => v - b[i]);
const unit = (v: readonly number[] | Float64Array) => {
  const n = Math.hypot(...v) || 1;
  return Array.from(v, (x) => x / n);
};

function offsetOf(skeleton: Skeleton, joint: number): number[] {
  return [0, 1, 2].map((c) => skeleton.offsets[joint * 3 + c]);
}

function palmFrame(skeleton: Skeleton, body: BodyMap, side: Side): PalmFrame | null {
  const fingers = (["Index", "Middle", "Ring", "Little"] as const).flatMap((finger) => {
    const joint = body.roles[`${side}${finger}`];
    return joint === undefined ? [] : [joint];
  });
  if (fingers.length < 2) return null;
  const along = unit(fingers.map((j) => direction(skeleton, body, j)).reduce((a, b) => a.map((v, i) => v + b[i])));
  const rough = sub(offsetOf(skeleton, fingers[0]), offsetOf(skeleton, fingers[fingers.length - 1]));
  // Index to little is fixed by anatomy; which way the palm faces follows from the side alone.
  const facing = unit(side === "left" ? cross(along, rough) : cross(rough, along));
  const across = unit(side === "left" ? cross(facing, along) : cross(along, facing));
  return { along, across, palm: facing };
}

/** The way a finger joint points at rest: to its child finger joint or its tip. */
function direction(skeleton: Skeleton, body: BodyMap, joint: number): number[] {
  const child = skeleton.parents.indexOf(joint);
  if (child >= 0 && Object.values(body.roles).includes(child)) return unit(offsetOf(skeleton, child));
  const tip = tipOf(skeleton, joint);
  if (tip && Math.hypot(...tip) > 1e-6) return unit([...tip]);
  return child >= 0 ? unit(offsetOf(skeleton, child)) : unit(offsetOf(skeleton, joint));
}

/** Finger joints of one hand. */
export function fingerJoints(body: BodyMap, side: Side): { readonly joint: number; readonly finger: (typeof FINGERS)[number]; readonly step: 1 | 2 | 3 }[] {
  return FINGERS.flatMap((finger) =>
    ([1, 2, 3] as const).flatMap((step) => {
      const joint = body.roles[`${side}${finger}${step === 1 ? "" : step}` as Role];
      return joint === undefined ? [] : [{ joint, finger, step }];
    }),
  );
}

/** Fan of the fingers: how many gaps each lies from the middle one. */
const FAN = { Thumb: 0, Index: 1, Middle: 0, Ring: -1, Little: -2 } as const;

/**
 * Local rotation of every finger joint of a hand in a shape: [joint, quaternion]. Empty when the body has no fingers there.
 * Bends turn from the way the finger points towards the palm; the thumb bends about the palm's normal-and-along plane of its own.
 */
export function handRotations(skeleton: Skeleton, body: BodyMap, side: Side, shape: HandShape): [number, Float64Array][] {
  const palm = palmFrame(skeleton, body, side);
  if (!palm) return [];
  const out: [number, Float64Array][] = [];
  for (const { joint, finger, step } of fingerJoints(body, side)) {
    const points = direction(skeleton, body, joint);
    const thumb = finger === "Thumb";
    // A thumb closes across the palm: towards the little finger's side and the palm together.
    const towards = thumb ? unit(palm.palm.map((v, i) => 0.6 * v - 0.8 * palm.across[i])) : palm.palm;
    const axis = unit(cross(points, towards));
    const extra = shape.single[`${finger}${step === 1 ? "" : step}`] ?? 0;
    const bend = ((shape[finger.toLowerCase() as Lowercase<typeof finger>] + extra) * Math.PI) / 180;
    const q = axisAngleQuatFlat(new Float64Array(4), 0, axis[0], axis[1], axis[2], bend) as Float64Array;
    if (step === 1) {
      const fan = thumb ? 0 : (FAN[finger] * shape.spread * Math.PI) / 180;
      const sign = side === "left" ? 1 : -1;
      const turn = new Float64Array(4);
      if (thumb) axisAngleQuatFlat(turn, 0, palm.along[0], palm.along[1], palm.along[2], (shape.thumbAcross * sign * Math.PI) / 180);
      else {
        // Towards the index side for a positive fan: along turned onto across.
        const normal = cross(palm.along, palm.across);
        axisAngleQuatFlat(turn, 0, normal[0], normal[1], normal[2], fan);
      }
      multiplyQuatFlat(q, 0, turn, 0, q, 0);
    }
    // From the rest pose on.
    multiplyQuatFlat(q, 0, skeleton.restRotations, joint * 4, q, 0);
    out.push([joint, q]);
  }
  return out;
}
