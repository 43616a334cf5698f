import {
  ANGLE_OF_AXIS,
  type BvhFile,
  clipWorld,
  conjugateQuatFlat,
  DocumentError,
  type Evaluation,
  Evaluator,
  findingsOf,
  gaugeOf,
  type Hold,
  keptAngleCurves,
  limbJoints,
  type Motion,
  type MotionRange,
  measure,
  measuredCurve,
  measureUnit,
  mirroredSet,
  mirrorPose,
  multiplyQuatFlat,
  PatchError,
  type PoseEdit,
  PoseFrame,
  partTracks,
  pasteEdit,
  previewFrame,
  quatAngleFlat,
  rangeOfMotion,
  readBvh,
  restPose,
  retrack,
  rotateVecFlat,
  type StoredPose,
  takePose,
  totalsOf,
  type Work,
} from "@stride/motion";
import { expose, transfer } from "comlink";
import type { CurveSpec, CurveView, Figures, Footprint, MotionFigures, MotionView, Opened, Posed, PosedFrame, StageFigures } from "./views.ts";

/** Holds one work: reads its source, evaluates its stack, measures. Everything heavy of the page happens here. */
class BenchWorker {
  private file: BvhFile | undefined;
  private evaluator: Evaluator | undefined;
  private last: Evaluation | undefined;
  private sentBase: Motion | undefined;
  private readonly measured = new WeakMap<Motion, MotionFigures>();
  private readonly movedBy = new WeakMap<Motion, { before: Motion; cm: number }>();

  open(bytes: Uint8Array, fileName: string, unitScale: number | null, upAxis: "y" | "z" | null): Opened {
    this.file = readBvh(bytes, { fileName, unitScale: unitScale ?? undefined, upAxis: upAxis ?? undefined });
    this.evaluator = new Evaluator(this.file.skeleton, this.file.clip);
    const { skeleton, clip, layout, warnings } = this.file;
    return { skeleton, fps: clip.fps, frameCount: clip.frameCount, unitScale: layout.unitScale, upAxis: layout.upAxis, warnings };
  }

  pose(work: Work): Posed {
    if (!this.evaluator) throw new Error("no clip is open");
    const started = performance.now();
    let problem: string | null = null;
    let evaluation: Evaluation | undefined;
    let patches = work.patches;
    while (!evaluation) {
      try {
        evaluation = this.evaluator.evaluate({ ...work, patches });
      } catch (error) {
        if (!(error instanceof PatchError || error instanceof DocumentError || error instanceof RangeError)) throw error;
        problem ??= error.message;
        // Show the stack up to the patch that fails.
        const failing = patches.findIndex((p) => !p.muted && error instanceof PatchError && p.name === error.patchName);
        patches = failing > 0 ? patches.slice(0, failing) : failing === 0 ? [] : patches.slice(0, -1);
      }
    }
    this.last = evaluation;
    const after = motionView(evaluation.result);
    const before = evaluation.base === this.sentBase ? null : motionView(evaluation.base);
    this.sentBase = evaluation.base;
    const posed: Posed = { after, before, body: evaluation.base.body, problem, milliseconds: performance.now() - started };
    const buffers = [after, before].flatMap((view) => (view ? [view.positions.buffer, view.rotations.buffer] : []));
    return transfer(posed, buffers as ArrayBuffer[]);
  }

  /** One frame of a work that is being changed; null where only the whole can tell. */
  preview(work: Work, frame: number): { posed: PosedFrame; milliseconds: number } | null {
    const started = performance.now();
    const piece = this.last && previewFrame(this.last, work, frame);
    if (!piece) return null;
    const pose = new PoseFrame(piece.skeleton, piece.clip);
    pose.load(piece.clip, 0);
    return { posed: { frame, positions: pose.worldPositions, rotations: pose.worldRotations }, milliseconds: performance.now() - started };
  }

  /** Takes a pose off a frame: of some joints, or all. */
  takePose(frame: number, joints: readonly number[] | null, from: "result" | "source" | "rest"): StoredPose {
    const { base, result } = this.evaluated();
    const motion = from === "source" ? base : result;
    const pose = frameOf(motion, from === "source" ? (result.timeMap[frame] ?? frame) : frame);
    return from === "rest" ? restPose(pose, motion.rig, motion.body) : takePose(pose, motion.rig, motion.body, joints);
  }

  /** The edit that brings a frame of the result into a pose. Throws where they share no part. */
  paste(
    frame: number,
    pose: StoredPose,
    options: { joints: readonly number[] | null; where: "world" | "spot"; amount: number; label: string; mirrored: boolean },
  ): PoseEdit {
    const { result } = this.evaluated();
    const { rig, body } = result;
    return pasteEdit(frameOf(result, frame), rig, body, options.mirrored ? mirrorPose(pose, rig) : pose, {
      ...options,
      joints: options.joints ? new Set(options.joints) : null,
    });
  }

  /** Joints of the limb that each joint belongs to, and those of the other side. */
  limbOf(joints: readonly number[], other: boolean): number[] {
    const { result } = this.evaluated();
    const limb = new Set(joints.flatMap((joint) => [...limbJoints(result.skeleton, result.rig, joint)]));
    return [...(other ? mirroredSet(limb, result.skeleton, result.body) : limb)];
  }

  /** How far each held part of a patch is from where it should be at a frame: centimetres and degrees. */
  deviations(patchId: string, holds: readonly Hold[], frame: number): { cm: number; degrees: number }[] {
    const { base, stages } = this.evaluated();
    const at = stages.findIndex((stage) => stage.patch.id === patchId);
    if (at < 0) return [];
    const before = frameOf(at === 0 ? base : stages[at - 1].motion, frame);
    const after = frameOf(stages[at].motion, frame);
    const seen = (pose: PoseFrame, hold: Hold) => {
      const names = pose.skeleton.names;
      return relativePlace(pose, names.indexOf(hold.joint), hold.on === null ? -1 : names.indexOf(hold.on));
    };
    return holds.map((hold) => {
      const a = seen(before, hold);
      const b = seen(after, hold);
      return {
        cm: hold.position ? 100 * Math.hypot(a.place[0] - b.place[0], a.place[1] - b.place[1], a.place[2] - b.place[2]) : 0,
        degrees: hold.orientation ? (quatAngleFlat(a.turn, 0, b.turn, 0) * 180) / Math.PI : 0,
      };
    });
  }

  /** Curves in the source, in front of the given patch and in the result. */
  curves(specs: readonly CurveSpec[], patchId: string | null): CurveView[] {
    const { base, stages, result } = this.evaluated();
    const at = stages.findIndex((stage) => stage.patch.id === patchId);
    const input = at < 0 ? result : at === 0 ? base : stages[at - 1].motion;
    return specs.map((spec) => {
      const read = (motion: Motion): Float64Array => {
        if (spec.kind === "angle") {
          const curve = keptAngleCurves(motion.clip, spec.joint);
          const offset = ANGLE_OF_AXIS[{ x: 0, y: 1, z: 2 }[spec.axis]];
          return Float64Array.from({ length: motion.clip.frameCount }, (_, f) => (curve[f * 3 + offset] * 180) / Math.PI);
        }
        const gauge = gaugeOf(spec.measure, motion.rig, motion.floor, (name) => Math.max(0, motion.skeleton.names.indexOf(name)));
        return measuredCurve(motion.skeleton, motion.clip, gauge);
      };
      return { unit: spec.kind === "angle" ? "°" : measureUnit(spec.measure), before: read(base), input: read(input), result: read(result) };
    });
  }

  /** How far the hips move, before and after a patch. */
  ranges(patchId: string, start: number, end: number): { before: MotionRange; after: MotionRange } | null {
    const { base, stages } = this.evaluated();
    const at = stages.findIndex((stage) => stage.patch.id === patchId);
    if (at < 0) return null;
    const input = at === 0 ? base : stages[at - 1].motion;
    const last = Math.min(end, input.clip.frameCount - 1);
    return { before: rangeOfMotion(input, start, last), after: rangeOfMotion(stages[at].motion, start, last) };
  }

  private evaluated(): Evaluation {
    if (!this.last) throw new Error("nothing is evaluated yet");
    return this.last;
  }

  figures(): Figures | null {
    const evaluation = this.last;
    if (!evaluation) return null;
    const stages: Record<string, StageFigures> = {};
    let input = evaluation.base;
    for (const { patch, motion } of evaluation.stages) {
      stages[patch.id] = { before: this.measure(input).totals, after: this.measure(motion).totals, poseMovedCm: this.moved(input, motion) };
      input = motion;
    }
    return { before: this.measure(evaluation.base), after: this.measure(evaluation.result), stages };
  }

  private moved(before: Motion, after: Motion): number {
    const known = this.movedBy.get(after);
    if (known && known.before === before) return known.cm;
    const cm = poseMoved(before, after);
    this.movedBy.set(after, { before, cm });
    return cm;
  }

  private measure(motion: Motion): MotionFigures {
    let figures = this.measured.get(motion);
    if (!figures) {
      const measures = measure(motion);
      figures = { totals: totalsOf(measures), findings: findingsOf(motion, measures), spans: measures.spans };
      this.measured.set(motion, figures);
    }
    return figures;
  }
}

function frameOf(motion: Motion, frame: number): PoseFrame {
  const pose = new PoseFrame(motion.skeleton, motion.clip);
  pose.load(motion.clip, Math.max(0, Math.min(motion.clip.frameCount - 1, Math.round(frame))));
  return pose;
}

/** Place and rotation of a joint in the world, or as another joint sees it. */
function relativePlace(pose: PoseFrame, joint: number, on: number): { place: Float64Array; turn: Float64Array } {
  const place = pose.worldPositions.slice(joint * 3, joint * 3 + 3);
  const turn = pose.worldRotations.slice(joint * 4, joint * 4 + 4);
  if (on < 0) return { place, turn };
  const inverse = conjugateQuatFlat(new Float64Array(4), 0, pose.worldRotations, on * 4);
  for (let c = 0; c < 3; c++) place[c] -= pose.worldPositions[on * 3 + c];
  rotateVecFlat(place, 0, inverse, 0, place, 0);
  multiplyQuatFlat(turn, 0, inverse, 0, turn, 0);
  return { place, turn };
}

function motionView(motion: Motion): MotionView {
  const world = clipWorld(motion.skeleton, motion.clip);
  return {
    frameCount: world.frameCount,
    fps: motion.clip.fps,
    jointCount: world.jointCount,
    positions: world.positions,
    rotations: world.rotations,
    contacts: motion.contacts,
    floor: motion.floor,
    prints: footprints(motion),
    sourceStart: motion.timeMap[0],
  };
}

/** Points that a smear is drawn with at most. */
const SMEAR_POINTS = 60;

/** A print per span of a toe, hoof or (where a foot has no toe span) heel. */
function footprints(motion: Motion): Footprint[] {
  const soles = retrack(motion.soles, motion.skeleton, motion.clip);
  const tracks = partTracks(soles);
  const prints: Footprint[] = [];
  for (const contact of motion.contacts) {
    const track = tracks.get(contact.part);
    const sole = soles.find((s) => s.points.some((p) => p.part === contact.part));
    if (!track || !sole || contact.part.endsWith("Heel")) continue;
    const middle = Math.round((contact.start + contact.end) / 2);
    const heelPart = sole.points.length === 2 ? sole.points[0].part : undefined;
    const heel = heelPart ? tracks.get(heelPart) : undefined;
    const x = track[middle * 3];
    const z = track[middle * 3 + 2];
    const hips = sole.track.positions;
    const dx = x - (heel ? heel[middle * 3] : hips[middle * 3]);
    const dz = z - (heel ? heel[middle * 3 + 2] : hips[middle * 3 + 2]);
    const count = contact.end - contact.start + 1;
    const step = Math.ceil(count / SMEAR_POINTS);
    const smear = new Float32Array(Math.ceil(count / step) * 2);
    for (let i = 0; i * 2 < smear.length; i++) {
      const f = contact.start + i * step;
      smear[i * 2] = track[f * 3];
      smear[i * 2 + 1] = track[f * 3 + 2];
    }
    prints.push({
      part: contact.part,
      side: contact.part.startsWith("left") ? "left" : "right",
      start: contact.start,
      end: contact.end,
      x,
      z,
      heading: heel ? Math.atan2(dx, dz) : 0,
      length: heel ? Math.hypot(dx, dz) : 0.06,
      smear,
    });
  }
  return prints;
}

/** Over the whole clip, the mean distance that the most moved joint went, relative to the hips, cm. */
function poseMoved(before: Motion, after: Motion): number {
  if (before.clip === after.clip || before.clip.frameCount !== after.clip.frameCount) return 0;
  const a = clipWorld(before.skeleton, before.clip).positions;
  const b = clipWorld(after.skeleton, after.clip).positions;
  const { jointCount, frameCount } = before.clip;
  const sums = new Float64Array(jointCount);
  for (let f = 0; f < frameCount; f++) {
    const root = f * jointCount * 3;
    for (let j = 0; j < jointCount; j++) {
      const i = root + j * 3;
      sums[j] += Math.hypot(
        a[i] - b[i] - (a[root] - b[root]),
        a[i + 1] - b[i + 1] - (a[root + 1] - b[root + 1]),
        a[i + 2] - b[i + 2] - (a[root + 2] - b[root + 2]),
      );
    }
  }
  return (Math.max(...sums) / frameCount) * 100;
}

export type { BenchWorker };

expose(new BenchWorker());
