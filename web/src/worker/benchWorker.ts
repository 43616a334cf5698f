import {
  ANGLE_OF_AXIS,
  clipWorld,
  clocksOf,
  conjugateQuatFlat,
  contactRamps,
  type Evaluation,
  Evaluator,
  type Finding,
  findingsOf,
  findPart,
  frameOf,
  gaugeOf,
  type Hold,
  inputAt,
  type Key,
  keptAngleCurves,
  limbJoints,
  type Motion,
  type MotionFile,
  type MotionRange,
  measure,
  measuredCurve,
  measureUnit,
  mirroredSet,
  mirrorPose,
  momentsBetween,
  multiplyQuatFlat,
  namedByBody,
  oneSource,
  type PartRef,
  PatchError,
  type PoseEdit,
  PoseFrame,
  pasteEdit,
  previewFrame,
  quatAngleFlat,
  rangeOfMotion,
  readMotion,
  restPose,
  rotateVecFlat,
  type StoredPose,
  sameClock,
  sourceInTime,
  takePose,
  totalsOf,
  treatedFindings,
  type Work,
} from "@stride/motion";
import { transfer } from "comlink";
import { footprints } from "./footprints.ts";
import { type StretchRequest, stretchKeys } from "./stretchTools.ts";
import type { CurveSpec, CurveView, Figures, MotionFigures, MotionView, Opened, Posed, PosedFrame, Problem, StageFigures } from "./views.ts";

/** What the page asks of its worker thread. Holds one work: reads its source, evaluates its stack, measures. Everything heavy of the page happens here. */
export class BenchWorker {
  private file: MotionFile | undefined;
  private evaluator: Evaluator | undefined;
  private last: Evaluation | undefined;
  private sentBase: Motion | undefined;
  private readonly measured = new WeakMap<Motion, MotionFigures>();
  private timed: { readonly base: Motion; readonly key: string; readonly motion: Motion } | undefined;
  private readonly movedBy = new WeakMap<Motion, { before: Motion; cm: number | null }>();

  open(bytes: Uint8Array, fileName: string, unitScale: number | null, upAxis: "y" | "z" | null): Opened {
    this.file = readMotion(bytes, { fileName, unitScale: unitScale ?? undefined, upAxis: upAxis ?? undefined });
    const { skeleton, clip, warnings } = this.file;
    this.evaluator = new Evaluator(oneSource(skeleton, clip));
    return { skeleton, fps: clip.fps, frameCount: clip.frameCount, unitScale: this.file.unitScale, upAxis: this.file.upAxis, warnings };
  }

  /** A work with its parts named as the body's map names them. */
  named(work: Work): Work {
    return namedByBody(work, this.evaluateUpTo({ ...work, patches: [] }).evaluation.base.character);
  }

  pose(work: Work): Posed {
    const started = performance.now();
    const { evaluation, problem } = this.evaluateUpTo(work);
    this.last = evaluation;
    const after = motionView(evaluation.result);
    const before = evaluation.base === this.sentBase ? null : motionView(evaluation.base);
    this.sentBase = evaluation.base;
    const { body, rig, volumes, height } = evaluation.base.character;
    const posed: Posed = {
      after,
      before,
      character: { body, rig, volumes, height, points: evaluation.base.points },
      clocks: clocksOf({ ...evaluation, work }),
      problem,
      notes: evaluation.notes,
      milliseconds: performance.now() - started,
    };
    const buffers = [after, before].flatMap((view) => (view ? [view.positions.buffer, view.rotations.buffer] : []));
    return transfer(posed, buffers as ArrayBuffer[]);
  }

  /** The work evaluated as far as it goes: up to the first patch that cannot be applied. */
  private evaluateUpTo(work: Work): { evaluation: Evaluation; problem: Problem | null } {
    if (!this.evaluator) throw new Error("no clip is open");
    let problem: Problem | null = null;
    let { patches } = work;
    for (;;) {
      try {
        return { evaluation: this.evaluator.evaluate({ ...work, patches }), problem };
      } catch (error) {
        if (!(error instanceof PatchError)) throw error;
        problem ??= { patchId: error.patchId, message: error.message };
        const failing = patches.findIndex((p) => p.id === error.patchId);
        patches = patches.slice(0, Math.max(0, failing));
      }
    }
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
    return from === "rest" ? restPose(pose, motion.character) : takePose(pose, motion.character, joints);
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
    const { character } = evaluation.base;
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
      const source = curveOf(base, spec);
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

  private evaluated(): Evaluation {
    if (!this.last) throw new Error("nothing is evaluated yet");
    return this.last;
  }

  figures(): Figures | null {
    const evaluation = this.last;
    if (!evaluation) return null;
    const stages: Record<string, StageFigures> = {};
    let input = evaluation.base;
    for (const { patch, motion, warp } of evaluation.stages) {
      const moved = sameClock({ fps: 1, seconds: 0, warps: [warp], receives: {} }) ? this.moved(input, motion) : null;
      stages[patch.id] = { before: this.measure(input).totals, after: this.measure(motion).totals, poseMovedCm: moved };
      input = motion;
    }
    const before = this.measure(evaluation.base);
    const after = this.measure(evaluation.result);
    return { before, after, treated: treatedFindings(this.inResultsTime(evaluation), after.findings), stages };
  }

  /** Findings of the source in the result's time; measured once for each map of time. */
  private inResultsTime({ base, result }: Evaluation): readonly Finding[] {
    const key = JSON.stringify(result.time);
    if (this.timed?.base !== base || this.timed.key !== key) this.timed = { base, key, motion: sourceInTime(base, result) };
    return this.measure(this.timed.motion).findings;
  }

  private moved(before: Motion, after: Motion): number | null {
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

/** The frame of the source nearest to the moment that a frame of a motion shows. */
function sourceFrame(motion: Motion, frame: number): number {
  const { fps } = motion.clip;
  return Math.max(0, Math.round(frameOf(inputAt(motion.time, frame / fps), fps)));
}

function curveOf(motion: Motion, spec: CurveSpec): Float64Array {
  if (spec.kind === "angle") {
    const curve = keptAngleCurves(motion.clip, spec.joint);
    const offset = ANGLE_OF_AXIS[{ x: 0, y: 1, z: 2 }[spec.axis]];
    return Float64Array.from({ length: motion.clip.frameCount }, (_, f) => (curve[f * 3 + offset] * 180) / Math.PI);
  }
  const { character } = motion;
  const gauge = gaugeOf(spec.measure, character.rig, motion.ground, (part) => findPart(character, part) ?? 0);
  return measuredCurve(character.skeleton, motion.clip, gauge);
}

function frameAt(motion: Motion, frame: number): PoseFrame {
  const pose = new PoseFrame(motion.character.skeleton, motion.clip);
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
  const world = clipWorld(motion.character.skeleton, motion.clip);
  return {
    frameCount: world.frameCount,
    fps: motion.clip.fps,
    jointCount: world.jointCount,
    positions: world.positions,
    rotations: world.rotations,
    contacts: motion.contacts.map((contact) => {
      const { rampIn, rampOut } = contactRamps(motion, contact);
      return { ...contact, landing: rampIn, lift: rampOut };
    }),
    ground: motion.ground,
    support: motion.support,
    prints: footprints(motion),
  };
}

/** Over the whole clip, the mean distance that the most moved joint went, relative to the hips, cm. */
function poseMoved(before: Motion, after: Motion): number {
  if (before.clip === after.clip || before.clip.frameCount !== after.clip.frameCount) return 0;
  const a = clipWorld(before.character.skeleton, before.clip).positions;
  const b = clipWorld(after.character.skeleton, after.clip).positions;
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
