import type { AnyPatchKind, BodyMap, Contact, ContactPart, FieldHint, Finding, FloorPlane, Measure, Skeleton, Totals } from "@stride/motion";

/** A motion as the page draws it. positions [frame][joint][3] and rotations [frame][joint][4] are in the world. */
export interface MotionView {
  readonly frameCount: number;
  readonly fps: number;
  readonly jointCount: number;
  readonly positions: Float32Array;
  readonly rotations: Float32Array;
  readonly contacts: readonly Contact[];
  readonly floor: FloorPlane;
  readonly prints: readonly Footprint[];
  /** frame of the source that frame 0 shows */
  readonly sourceStart: number;
}

/** One stand of a foot seen from above: where it rests, which way it points, and what it smears while it should rest. */
export interface Footprint {
  readonly part: ContactPart;
  readonly side: "left" | "right";
  readonly start: number;
  readonly end: number;
  readonly x: number;
  readonly z: number;
  /** direction of the toes, radians about +Y from +Z */
  readonly heading: number;
  readonly length: number;
  /** course of the part over its span, x and z in turn */
  readonly smear: Float32Array;
}

export interface Opened {
  readonly skeleton: Skeleton;
  readonly fps: number;
  readonly frameCount: number;
  readonly unitScale: number;
  readonly upAxis: "y" | "z";
  readonly warnings: readonly string[];
}

export interface Posed {
  readonly after: MotionView;
  /** null while it is what was sent last */
  readonly before: MotionView | null;
  readonly body: BodyMap;
  /** a patch that cannot be applied: its id and why; the motion then stops before it */
  readonly problem: string | null;
  readonly milliseconds: number;
}

/** One frame in the world, while the rest waits: positions [joint][3], rotations [joint][4]. */
export interface PosedFrame {
  readonly frame: number;
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
}

/** A curve to be drawn: an axis of a joint's angles, or something measured. */
export type CurveSpec =
  | { readonly kind: "angle"; readonly joint: number; readonly axis: "x" | "y" | "z" }
  | { readonly kind: "measure"; readonly measure: Measure };

/** Values a frame in degrees or centimetres: in the source, before and after the layer that keys are set on, and in the result. */
export interface CurveView {
  readonly unit: "cm" | "°";
  readonly before: Float64Array;
  readonly input: Float64Array;
  readonly result: Float64Array;
}

/** What was measured: slow against posing, so asked for when the person pauses. */
export interface Figures {
  readonly before: MotionFigures;
  readonly after: MotionFigures;
  readonly stages: Readonly<Record<string, StageFigures>>;
}

export interface MotionFigures {
  readonly totals: Totals;
  readonly findings: readonly Finding[];
  readonly spans: readonly { readonly contact: Contact; readonly slideCm: number; readonly heightCm: number; readonly course: Float32Array }[];
}

export interface StageFigures {
  readonly before: Totals;
  readonly after: Totals;
  /** mean distance that the most moved joint went, relative to the hips, cm */
  readonly poseMovedCm: number;
}

export type KindView = Pick<AnyPatchKind, "kind" | "title" | "description" | "masked"> & { readonly fields: Readonly<Record<string, FieldHint>> };
