import {
  type Accent,
  type Acceptance,
  accentsOf,
  acceptanceOf,
  type Cycle,
  clocksOf,
  cropClip,
  cycleBetween,
  cycleMap,
  type Evaluation,
  figureClip,
  findCycles,
  findPart,
  frameOf,
  framesInStep,
  type Hold,
  type InStep,
  type Key,
  legLengthOf,
  limbJoints,
  type Motion,
  type MotionRange,
  measureGait,
  measureUnit,
  mirroredSet,
  mirrorPose,
  momentsBetween,
  type PartRef,
  type PoseEdit,
  PoseFrame,
  partOf,
  pasteEdit,
  previewFrame,
  quatAngleFlat,
  rangeOfMotion,
  restPose,
  type SourceRef,
  type StoredPose,
  type SuppliedSources,
  takePose,
  type Work,
  writeFresh,
} from "@stride/motion";
import { transfer } from "comlink";
import { characterView } from "./characterView.ts";
import { seamView, settleView } from "./otherReadings.ts";
import { curveOf, frameAt, relativePlace, sourceFrame } from "./readings.ts";
import { buffersOf, sentView } from "./sentViews.ts";
import { type StretchRequest, stretchKeys } from "./stretchTools.ts";
import type { CurveSpec, CurveView, CycleView, GaitView, PosedFrame, SeamView, SentBeside, SettleView } from "./views.ts";

/** Thrown out of work that the page no longer wants. */
/** Moments along a side of the picture of how far apart any two are. */
const MAP_SIZE = 120;

/** What is read off the work that was evaluated last: nothing here evaluates, or changes anything. */
export class BenchReadings {
  protected sources: SuppliedSources | undefined;
  protected last: Evaluation | undefined;

  /** Another motion, supplied before, in step with the result; null where it is not there or nothing was evaluated yet. */
  beside(ref: SourceRef, by: InStep): SentBeside | null {
    const other = this.sources?.find(ref);
    if (!other || !this.last) return null;
    const view = sentView(other, null);
    const { frames, footfalls } = framesInStep(this.last.result, other, by);
    return transfer({ view, character: characterView(other), frames, footfalls }, [...buffersOf(view), frames.buffer]);
  }

  /** One frame of a work that is being changed; null where only the whole can tell. */
  preview(work: Work, frame: number): { posed: PosedFrame; milliseconds: number } | null {
    const started = performance.now();
    const piece = this.last && previewFrame(this.last, work, frame);
    if (!piece) return null;
    const pose = new PoseFrame(piece.character.skeleton, piece.clip);
    pose.load(piece.clip, 0);
    return { posed: { frame, positions: pose.worldPositions, rotations: pose.worldRotations }, milliseconds: performance.now() - started };
  }

  /** Takes a pose off a frame of the result: of some joints, or all; from the source, at the moment that the frame shows. */
  takePose(frame: number, joints: readonly number[] | null, from: "result" | "source" | "rest"): StoredPose {
    const { base, result } = this.evaluated();
    const motion = from === "source" ? base : result;
    const pose = frameAt(motion, from === "source" ? sourceFrame(result, frame) : frame);
    return from === "rest" ? restPose(pose, motion.character) : takePose(pose, motion.character, joints && sameParts(result, motion, joints));
  }

  /** The edit that brings a frame of the result into a pose. Throws where they share no part. */
  paste(
    frame: number,
    pose: StoredPose,
    options: { joints: readonly number[] | null; where: "world" | "spot"; amount: number; label: string; mirrored: boolean },
  ): PoseEdit {
    const { result } = this.evaluated();
    const { character } = result;
    return pasteEdit(frameAt(result, frame), character, options.mirrored ? mirrorPose(pose, character.rig) : pose, {
      ...options,
      joints: options.joints ? new Set(options.joints) : null,
    });
  }

  /** Joints of the limb that each joint belongs to, and those of the other side. */
  limbOf(joints: readonly number[], other: boolean): number[] {
    const { skeleton, rig, body } = this.evaluated().result.character;
    const limb = new Set(joints.flatMap((joint) => [...limbJoints(skeleton, rig, joint)]));
    return [...(other ? mirroredSet(limb, skeleton, body) : limb)];
  }

  /** How far each held part of a patch is from where it should be at a frame of the result: centimetres and degrees. */
  deviations(patchId: string, holds: readonly Hold[], frame: number): { cm: number; degrees: number }[] {
    const evaluation = this.evaluated();
    const at = evaluation.stages.findIndex((stage) => stage.patch.id === patchId);
    if (at < 0) return [];
    const clocks = clocksOf(evaluation);
    const own = (stage: number) => frameOf(momentsBetween(clocks, clocks.warps.length, stage, frame / clocks.fps)[0], clocks.fps);
    const before = frameAt(at === 0 ? evaluation.base : evaluation.stages[at - 1].motion, own(at));
    const after = frameAt(evaluation.stages[at].motion, own(at + 1));
    const { character } = evaluation.stages[at].motion;
    const joint = (part: PartRef | null) => (part === null ? -1 : (findPart(character, part) ?? -1));
    return holds.map((hold) => {
      if (joint(hold.part) < 0) return { cm: 0, degrees: 0 };
      const a = relativePlace(before, joint(hold.part), joint(hold.on));
      const b = relativePlace(after, joint(hold.part), joint(hold.on));
      return {
        cm: hold.position ? 100 * Math.hypot(a.place[0] - b.place[0], a.place[1] - b.place[1], a.place[2] - b.place[2]) : 0,
        degrees: hold.orientation ? (quatAngleFlat(a.turn, 0, b.turn, 0) * 180) / Math.PI : 0,
      };
    });
  }

  /** Curves of the result, and of the source at the moments that the result shows. */
  curves(specs: readonly CurveSpec[]): CurveView[] {
    const { base, result } = this.evaluated();
    const { fps } = result.clip;
    return specs.map((spec) => {
      const own = curveSpecOn(result, base, spec);
      const source = own ? curveOf(base, own) : new Float64Array(base.clip.frameCount).fill(Number.NaN);
      return {
        unit: spec.kind === "angle" ? "°" : measureUnit(spec.measure),
        fps,
        before: Float64Array.from({ length: result.clip.frameCount }, (_, f) => source[sourceFrame(result, f)]),
        result: curveOf(result, spec),
      };
    });
  }

  /** Keys that an operation on a stretch of a curve comes to. */
  stretchKeys(request: StretchRequest): Key[] {
    return stretchKeys(request);
  }

  /** How far the hips move over a stretch (frames of what a patch receives), before and after the patch. */
  ranges(patchId: string, start: number, end: number): { before: MotionRange; after: MotionRange } | null {
    const { base, stages } = this.evaluated();
    const at = stages.findIndex((stage) => stage.patch.id === patchId);
    if (at < 0) return null;
    const input = at === 0 ? base : stages[at - 1].motion;
    const last = Math.min(end, input.clip.frameCount - 1);
    const first = Math.min(start, last);
    return { before: rangeOfMotion(input, first, last), after: rangeOfMotion(stages[at].motion, first, last) };
  }

  /** The motion that a patch receives, and the one that it makes; null where it takes no part. */
  private around(patchId: string): { received: Motion; made: Motion } | null {
    const { base, stages } = this.evaluated();
    const at = stages.findIndex((stage) => stage.patch.id === patchId);
    return at < 0 ? null : { received: at === 0 ? base : stages[at - 1].motion, made: stages[at].motion };
  }

  /** Moments of what a patch receives on which beats would stand well. */
  accents(patchId: string): Accent[] {
    const motions = this.around(patchId);
    return motions ? accentsOf(motions.received) : [];
  }

  /** The best cycles of what a patch receives, and how far apart any two of its moments are. */
  cycles(patchId: string): CycleView | null {
    // A loop that cannot be made for want of a cycle still receives something.
    const received = this.around(patchId)?.received ?? this.evaluated().result;
    const map = cycleMap(received, MAP_SIZE);
    return transfer({ cycles: findCycles(received), map }, [map.apart.buffer as ArrayBuffer]);
  }

  /** How a cycle from one moment to another of what a patch receives would have to close; null where the patch takes no part. */
  seam(patchId: string, from: number, to: number): Cycle | null {
    const motions = this.around(patchId);
    return motions && cycleBetween(motions.received, from, to);
  }

  /** The best places to go over from what a join receives into its other clip, and how the seam fits as it is; null where it takes no part or has no clip. */
  seams(patchId: string): SeamView | null {
    const motions = this.around(patchId);
    const patch = this.last?.stages.find((s) => s.patch.id === patchId)?.patch;
    return motions && patch && this.sources ? seamView(motions.received, patch, this.sources) : null;
  }

  /** How a cast has come out; null where the patch takes no part or the body stays as it is. */
  casting(patchId: string): Acceptance | null {
    const motions = this.around(patchId);
    return motions && motions.received.character !== motions.made.character ? acceptanceOf(motions.received, motions.made) : null;
  }

  /** When each leg lands, and what still differs from the pose at a frame of the result; null where the patch takes no part. */
  settling(patchId: string, frame: number): SettleView | null {
    const motions = this.around(patchId);
    const patch = this.last?.stages.find((s) => s.patch.id === patchId)?.patch;
    return motions && patch ? settleView(motions, patch, this.evaluated(), frame) : null;
  }

  /** Frames of the result (inclusive) as the text of a file of their own. */
  fileOf(start: number, end: number, name: string): string {
    const { result } = this.evaluated();
    const clip = cropClip(figureClip(result), Math.max(0, start), Math.min(result.clip.frameCount - 1, end));
    return [...writeFresh(result.character.skeleton, { ...clip, name }, 0.01)].join("");
  }

  /** What of the source's and of the result's gait can be measured. */
  gait(): GaitView {
    const { base, result } = this.evaluated();
    return { before: measureGait(base), after: measureGait(result), legLength: legLengthOf(base.character) };
  }

  protected evaluated(): Evaluation {
    if (!this.last) throw new Error("nothing is evaluated yet");
    return this.last;
  }
}

/** Joints of one motion's body as those of another's, by part; those that it has not are left out. */
function sameParts(from: Motion, to: Motion, joints: readonly number[]): number[] {
  if (from.character === to.character) return [...joints];
  return joints.flatMap((joint) => findPart(to.character, partOf(from.character, joint)) ?? []);
}

/** A curve of one motion's body on another's; null where it has no such part. */
function curveSpecOn(from: Motion, to: Motion, spec: CurveSpec): CurveSpec | null {
  if (spec.kind !== "angle") return spec;
  const [joint] = sameParts(from, to, [spec.joint]);
  return joint === undefined ? null : { ...spec, joint };
}
