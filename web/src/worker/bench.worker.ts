import {
  type BvhFile,
  clipWorld,
  DocumentError,
  type Evaluation,
  Evaluator,
  findingsOf,
  type Motion,
  measure,
  PatchError,
  partTracks,
  readBvh,
  retrack,
  totalsOf,
  type Work,
} from "@stride/motion";
import { expose, transfer } from "comlink";
import type { Figures, Footprint, MotionFigures, MotionView, Opened, Posed, StageFigures } from "./views.ts";

/** Holds one work: reads its source, evaluates its stack, measures. Everything heavy of the page happens here. */
class BenchWorker {
  private file: BvhFile | undefined;
  private evaluator: Evaluator | undefined;
  private last: Evaluation | undefined;
  private sentBase: Motion | undefined;
  private readonly measured = new WeakMap<Motion, MotionFigures>();

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

  figures(): Figures | null {
    const evaluation = this.last;
    if (!evaluation) return null;
    const stages: Record<string, StageFigures> = {};
    let input = evaluation.base;
    for (const { patch, motion } of evaluation.stages) {
      stages[patch.id] = { before: this.measure(input).totals, after: this.measure(motion).totals, poseMovedCm: poseMoved(input, motion) };
      input = motion;
    }
    return { before: this.measure(evaluation.base), after: this.measure(evaluation.result), stages };
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
