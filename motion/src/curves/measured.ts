import { z } from "zod";
import { type PartRef, partRefSchema } from "../character/parts.ts";
import type { Rig } from "../character/rig.ts";
import type { Clip } from "../clip/clip.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { nearestTurn } from "../math/euler.ts";
import { axisAngleQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { FrameOp } from "../pose/editFrame.ts";
import { headingOf } from "../pose/spaces.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";

const part = partRefSchema;

/** A quantity that is read off the body at every frame. Lengths in centimetres, angles in degrees, as people see and key them. */
export const measureSchema = z.discriminatedUnion("of", [
  /** place of a joint along an axis of the world, or of the body from the hips */
  z.strictObject({ of: z.literal("position"), part, axis: z.enum(["x", "y", "z"]), space: z.enum(["world", "body"]) }),
  z.strictObject({ of: z.literal("distance"), part, to: part }),
  /** of a joint over the floor */
  z.strictObject({ of: z.literal("height"), part }),
  /** of the body about the vertical */
  z.strictObject({ of: z.literal("heading") }),
  /** of the trunk, from the vertical, forward positive */
  z.strictObject({ of: z.literal("lean") }),
  /** of the hips to the body's left from the middle between the feet */
  z.strictObject({ of: z.literal("sway") }),
]);
export type Measure = z.infer<typeof measureSchema>;

const AXES = { x: 0, y: 1, z: 2 } as const;

/** What a person calls it. */
export function measureLabel(measure: Measure, nameOf: (part: PartRef) => string): string {
  switch (measure.of) {
    case "position":
      return measure.space === "world"
        ? `${nameOf(measure.part)} ${measure.axis}, world`
        : `${nameOf(measure.part)} ${{ x: "to the left", y: "up", z: "forward" }[measure.axis]} of the hips`;
    case "distance":
      return `${nameOf(measure.part)} to ${nameOf(measure.to)}`;
    case "height":
      return `${nameOf(measure.part)} over the floor`;
    case "heading":
      return "Heading";
    case "lean":
      return "Lean";
    case "sway":
      return "Sway";
  }
}

export function measureUnit(measure: Measure): "cm" | "°" {
  return measure.of === "heading" || measure.of === "lean" ? "°" : "cm";
}

/** A measure with its joints found; reads one frame and says what edit of the frame changes it by an amount. */
export interface Gauge {
  /** the joint that is moved for it; −1 when the body as a whole is */
  readonly moves: number;
  readonly unit: "cm" | "°";
  read(frame: PoseFrame): number;
  /** operations that change the reading by `by` (cm or degrees) */
  drive(frame: PoseFrame, by: number): FrameOp[];
}

const UP = [0, 1, 0] as const;

/** Resolves a measure on a body. `index` finds the joint of a part and throws when there is none. */
export function gaugeOf(measure: Measure, rig: Rig, ground: Ground, index: (part: PartRef) => number): Gauge {
  const at = (frame: PoseFrame, joint: number) => frame.worldPositions.subarray(joint * 3, joint * 3 + 3);
  const bodyAxis = (frame: PoseFrame, axis: number) => {
    const q = axisAngleQuatFlat([0, 0, 0, 1], 0, 0, 1, 0, headingOf(frame, rig));
    return rotateVecFlat(
      [0, 0, 0],
      0,
      q,
      0,
      [0, 1, 2].map((i) => (i === axis ? 1 : 0)),
      0,
    );
  };
  const move = (joint: number, direction: ArrayLike<number>, by: number): FrameOp[] => [
    { op: "move", joint, space: "world", vector: [0, 1, 2].map((i) => (direction[i] * by) / 100) },
  ];
  switch (measure.of) {
    case "position": {
      const joint = index(measure.part);
      const axis = AXES[measure.axis];
      if (measure.space === "world") {
        const direction = [0, 1, 2].map((i) => (i === axis ? 1 : 0));
        return { moves: joint, unit: "cm", read: (frame) => at(frame, joint)[axis] * 100, drive: (_, by) => move(joint, direction, by) };
      }
      return {
        moves: joint,
        unit: "cm",
        read: (frame) => {
          const direction = bodyAxis(frame, axis);
          const a = at(frame, joint);
          const b = at(frame, rig.hips);
          return 100 * [0, 1, 2].reduce((sum, i) => sum + direction[i] * (a[i] - b[i]), 0);
        },
        drive: (frame, by) => move(joint, bodyAxis(frame, axis), by),
      };
    }
    case "distance": {
      const a = index(measure.part);
      const b = index(measure.to);
      const apart = (frame: PoseFrame) => [0, 1, 2].map((i) => at(frame, a)[i] - at(frame, b)[i]);
      return {
        moves: a,
        unit: "cm",
        read: (frame) => 100 * Math.hypot(...apart(frame)),
        drive: (frame, by) => {
          const way = apart(frame);
          const length = Math.hypot(...way) || 1;
          return move(
            a,
            way.map((v) => v / length),
            Math.max(by, -100 * length),
          );
        },
      };
    }
    case "height": {
      const joint = index(measure.part);
      return {
        moves: joint,
        unit: "cm",
        read: (frame) => {
          const p = at(frame, joint);
          return 100 * (p[1] - groundHeight(ground, p[0], p[2]));
        },
        drive: (_, by) => move(joint, UP, by),
      };
    }
    case "heading":
      return {
        moves: -1,
        unit: "°",
        read: (frame) => (headingOf(frame, rig) * 180) / Math.PI,
        drive: (_, by) => [{ op: "turn", joint: rig.hips, space: "world", vector: [0, (by * Math.PI) / 180, 0], pivot: null }],
      };
    case "lean":
      return {
        moves: -1,
        unit: "°",
        read: (frame) => {
          const forward = bodyAxis(frame, 2);
          const a = at(frame, rig.chest);
          const b = at(frame, rig.hips);
          const ahead = [0, 1, 2].reduce((sum, i) => sum + forward[i] * (a[i] - b[i]), 0);
          return (Math.atan2(ahead, a[1] - b[1]) * 180) / Math.PI;
        },
        drive: (_, by) => [{ op: "turn", joint: rig.spine[0] ?? rig.hips, space: "body", vector: [(by * Math.PI) / 180, 0, 0], pivot: null }],
      };
    case "sway": {
      const feet = rig.limbs.filter((limb) => limb.kind === "leg").map((limb) => limb.end);
      return {
        moves: -1,
        unit: "cm",
        read: (frame) => {
          const left = bodyAxis(frame, 0);
          const p = at(frame, rig.hips);
          return 100 * [0, 1, 2].reduce((sum, i) => sum + left[i] * (p[i] - feet.reduce((s, foot) => s + at(frame, foot)[i], 0) / Math.max(1, feet.length)), 0);
        },
        drive: (frame, by) => move(rig.hips, bodyAxis(frame, 0), by),
      };
    }
  }
}

/** A measure over a whole clip: one value a frame, headings unrolled. */
export function measuredCurve(skeleton: Skeleton, clip: Clip, gauge: Gauge): Float64Array {
  const frame = new PoseFrame(skeleton, clip);
  const out = new Float64Array(clip.frameCount);
  for (let f = 0; f < clip.frameCount; f++) {
    frame.load(clip, f);
    const value = gauge.read(frame);
    out[f] = gauge.unit === "°" && f > 0 ? (nearestTurn((value * Math.PI) / 180, (out[f - 1] * Math.PI) / 180) * 180) / Math.PI : value;
  }
  return out;
}
