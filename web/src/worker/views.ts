import type {
  BodyMap,
  Clocks,
  Contact,
  ContactPoint,
  Cycle,
  CycleMap,
  Finding,
  Ground,
  GroundTravel,
  Landing,
  Measure,
  MeasuredGait,
  PatchNote,
  Rig,
  SeamChoice,
  Skeleton,
  Skin,
  Support,
  TimeWarp,
  Totals,
  Volume,
  Work,
} from "@stride/motion";

/** A contact as the footfall chart draws it: with the ramps that are in force for it, frames. */
export interface ContactView extends Contact {
  readonly landing: number;
  readonly lift: number;
}

/** A motion as the page draws it. positions [frame][joint][3] and rotations [frame][joint][4] are in the world. */
export interface MotionView {
  readonly frameCount: number;
  readonly fps: number;
  readonly jointCount: number;
  readonly positions: Float32Array;
  readonly rotations: Float32Array;
  readonly contacts: readonly ContactView[];
  readonly ground: Ground;
  /** how the ground moves under the figure; null: it lies still */
  readonly groundTravel: GroundTravel | null;
  /** what the source was taken for */
  readonly support: Support;
  readonly prints: readonly Footprint[];
  /** which moment of the source each of its moments shows */
  readonly time: TimeWarp;
}

/** World transforms of the frames from `start` on: [frame][joint][3] and [frame][joint][4]. */
export interface Stretch {
  readonly start: number;
  readonly positions: Float32Array;
  readonly rotations: Float32Array;
}

/** A view on its way to the page: the whole of it, or the stretches in which it differs from the one that the page has; null: as there. */
export interface SentView extends Omit<MotionView, "positions" | "rotations" | "contacts" | "prints"> {
  readonly whole: Pick<MotionView, "positions" | "rotations"> | null;
  readonly stretches: readonly Stretch[];
  readonly contacts: readonly ContactView[] | null;
  readonly prints: readonly Footprint[] | null;
}

/** One stand of a foot seen from above: where it rests, which way it points, and what it smears while it should rest. */
export interface Footprint {
  readonly point: string;
  readonly side: "left" | "right";
  readonly start: number;
  readonly end: number;
  readonly x: number;
  readonly z: number;
  /** how far the surface that it stands on lies over the ground's plane, metres: 0 on the ground itself */
  readonly rise: number;
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

/** What the page needs to know of the character. */
export interface CharacterView {
  readonly body: BodyMap;
  readonly rig: Rig;
  readonly points: readonly ContactPoint[];
  readonly volumes: readonly Volume[];
  readonly height: number;
}

/** A body's surface, its joints those of the motion that it is drawn on. */
export type SkinView = Skin;

/** Another motion to be shown beside the result. */
export interface SentBeside {
  readonly view: SentView;
  readonly character: CharacterView;
  /** [frame of the result] frame of the other that is shown with it */
  readonly frames: Float64Array;
  /** footfalls by which they are in step; null by the clock */
  readonly footfalls: number | null;
}

/** What there is of a work before its contacts are found. */
export interface FirstLook {
  readonly document: Work;
  readonly view: SentView;
  readonly character: CharacterView;
}

/** A skeleton with what is read of it. */
export interface BodyView {
  readonly skeleton: Skeleton;
  readonly character: CharacterView;
}

/** Whose bodies are shown: the result's, and the source's where that is another one. */
export interface SentBodies {
  readonly result: BodyView;
  readonly source: BodyView | null;
}

/** A patch that cannot be applied: the motion stops before it. */
export interface Problem {
  readonly patchId: string | null;
  readonly message: string;
}

export interface Posed {
  /** number of this view: the page tells which one it has when it asks for the next */
  readonly serial: number;
  readonly after: SentView;
  /** null while it is what was sent last */
  readonly before: SentView | null;
  /** null while it is what was sent last */
  readonly body: SentBodies | null;
  /** which moments of which stage the others show */
  readonly clocks: Clocks;
  readonly problem: Problem | null;
  readonly notes: readonly PatchNote[];
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

/** Values at each frame of the result, in degrees or centimetres: of the result, and of the source at the moment that the frame shows. */
export interface CurveView {
  readonly unit: "cm" | "°";
  readonly fps: number;
  readonly before: Float64Array;
  readonly result: Float64Array;
}

/** What was measured: slow against posing, so asked for when the person pauses. */
export interface Figures {
  readonly before: MotionFigures;
  readonly after: MotionFigures;
  /** findings of the source that the result shows and no longer has; frames are the source's */
  readonly treated: readonly Finding[];
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
  /** mean distance that the most moved joint went, relative to the hips, cm; null where time was changed */
  readonly poseMovedCm: number | null;
}

/** Cycles of a motion, best first, and how far apart any two of its moments are. */
export interface CycleView {
  readonly cycles: readonly Cycle[];
  readonly map: CycleMap;
}

/** A gait as it is measured, before and after; null where no foot lands twice. */
export interface GaitView {
  readonly before: MeasuredGait | null;
  readonly after: MeasuredGait | null;
  /** metres */
  readonly legLength: number;
}

/** Where one clip may go over into another, best first, and how it does now; seconds that the other clip and what is received last. */
export interface SeamView {
  readonly seams: readonly SeamChoice[];
  readonly now: Omit<SeamChoice, "leave" | "enter">;
  readonly seconds: number;
  readonly received: number;
}

/** How far a part is from where it is to come: turned, degrees; and of the hips how far away, centimetres. */
export interface PartDifference {
  readonly joint: number;
  readonly degrees: number;
  readonly cm: number;
}

/** A body that comes to rest in a pose. */
export interface SettleView {
  /** frames of what the patch makes */
  readonly landings: readonly Landing[];
  /** the pose in its place; null while none is chosen */
  readonly target: PosedFrame | null;
  /** parts that are not there yet on the frame that was asked for, furthest first */
  readonly differences: readonly PartDifference[];
}
