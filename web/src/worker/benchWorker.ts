import {
  type Character,
  type CharacterNotes,
  clipSeconds,
  clocksOf,
  type Evaluation,
  Evaluator,
  type FileReading,
  type Motion,
  type MotionFile,
  namedByBody,
  PatchError,
  readMotion,
  readyToRead,
  type SourceRef,
  SuppliedSources,
  skinOfFile,
  sourceOf,
  type Work,
  wornJoints,
} from "@stride/motion";
import { transfer } from "comlink";
import { BenchReadings } from "./benchReadings.ts";
import { characterView } from "./characterView.ts";
import { FigureMeasurer } from "./figures.ts";
import { buffersOf, sentView } from "./sentViews.ts";
import type { Figures, FirstLook, Opened, Posed, Problem, SentBodies, SkinView } from "./views.ts";

/** Thrown out of work that the page no longer wants. */
class Superseded extends Error {}

/** Measuring lets messages in after so many milliseconds. */
const MEASURE_SLICE_MS = 25;

/** What the page asks of its worker thread. Holds one work: reads its source, evaluates its stack, measures. Everything heavy of the page happens here. */
export class BenchWorker extends BenchReadings {
  private file: MotionFile | undefined;
  private evaluator: Evaluator | undefined;
  private sentBase: Motion | undefined;
  private sentCharacter: Character | undefined;
  private sent: { readonly serial: number; readonly motion: Motion } | null = null;
  private serial = 0;
  /** shared with the page: the number of its newest request, and how much of what is being done is done, in thousandths */
  private newest: Int32Array | null = null;
  private readonly measurer = new FigureMeasurer();

  async open(
    bytes: Uint8Array,
    reading: FileReading,
    newest: SharedArrayBuffer | null = null,
    ref: SourceRef | null = null,
    notes: CharacterNotes | null = null,
  ): Promise<Opened> {
    this.newest = newest && new Int32Array(newest);
    await readyToRead(bytes, reading.fileName);
    this.file = readMotion(bytes, reading);
    const { skeleton, clip, warnings } = this.file;
    const source = sourceOf(this.file, reading.fileName, notes);
    // A work may draw on its own source, as it came.
    this.sources = new SuppliedSources(source, ref ? [{ ref, ...source, work: null }] : []);
    this.evaluator = new Evaluator(this.sources);
    return { skeleton, fps: clip.fps, frameCount: clip.frameCount, unitScale: this.file.unitScale, upAxis: this.file.upAxis, warnings };
  }

  /** Another clip to draw on; with the work that was done on it where its result is meant. Seconds that it lasts, as it came. */
  async supply(ref: SourceRef, bytes: Uint8Array, reading: FileReading, work: Work | null, notes: CharacterNotes | null = null): Promise<number> {
    if (!this.sources) throw new Error("no clip is open");
    await readyToRead(bytes, reading.fileName);
    const file = readMotion(bytes, reading);
    this.sources.add({ ref, ...sourceOf(file, reading.fileName, notes), work });
    return clipSeconds(file.clip);
  }

  /** The skin in a file, if it fits the body of the source or of the result; null where it has none, or fits another body. */
  async skin(bytes: Uint8Array, reading: FileReading, of: "source" | "result"): Promise<SkinView | null> {
    await readyToRead(bytes, reading.fileName);
    const made = readMotion(bytes, reading);
    const skin = skinOfFile(made, reading.fileName);
    const skeleton = of === "result" && this.last ? this.last.result.character.skeleton : this.file?.skeleton;
    const joints = skin && skeleton ? wornJoints(skin, made.skeleton, skeleton) : null;
    return skin && joints ? { ...skin, joints } : null;
  }

  /** A work with its parts named as the body's map names them. */
  named(work: Work): Work {
    if (!this.evaluator) throw new Error("no clip is open");
    return namedByBody(work, this.evaluator.character(work));
  }

  /** What there is to see before contacts are found: the source as it comes, and the work with its parts named as the body's map names them. */
  look(work: Work): FirstLook {
    if (!this.evaluator) throw new Error("no clip is open");
    const motion = this.evaluator.unsearched(work);
    const view = sentView(motion, null);
    return transfer({ document: this.named(work), view, character: characterView(motion) }, buffersOf(view));
  }

  /**
   * The work as far as it goes; null when the page has asked for something newer meanwhile. `request` is this one's number, `known` that of the view
   * which the page has.
   */
  pose(work: Work, request = 0, known = 0): Posed | null {
    const started = performance.now();
    const made = this.unlessSuperseded(request, (pause) => this.evaluateUpTo(work, pause, (done, of) => this.tell(done / of)));
    if (!made) return null;
    const { evaluation, problem } = made;
    this.last = evaluation;
    const after = sentView(evaluation.result, this.sent?.serial === known ? this.sent.motion : null);
    const sameBase = evaluation.base === this.sentBase && known !== 0;
    const before = sameBase ? null : sentView(evaluation.base, null);
    const body = sameBase && this.sentCharacter === evaluation.result.character ? null : bodiesOf(evaluation);
    this.sentCharacter = evaluation.result.character;
    this.sentBase = evaluation.base;
    this.sent = { serial: ++this.serial, motion: evaluation.result };
    const posed: Posed = {
      serial: this.serial,
      after,
      before,
      body,
      clocks: clocksOf({ ...evaluation, work }),
      problem,
      notes: evaluation.notes,
      milliseconds: performance.now() - started,
    };
    return transfer(
      posed,
      [after, before].flatMap((view) => (view ? buffersOf(view) : [])),
    );
  }

  /** What some work comes to; null when the page's newest request is no longer this one. */
  private unlessSuperseded<T>(request: number, work: (pause: () => void) => T): T | null {
    try {
      return work(() => {
        if (this.superseded(request)) throw new Superseded();
      });
    } catch (error) {
      if (error instanceof Superseded) return null;
      throw error;
    }
  }

  /** Leaves the share of the work that is done where the page can see it, in thousandths. */
  private tell(share: number): void {
    if (this.newest) Atomics.store(this.newest, 1, Math.round(1000 * share));
  }

  private superseded(request: number): boolean {
    return this.newest !== null && Atomics.load(this.newest, 0) !== request;
  }

  /** The work evaluated as far as it goes: up to the first patch that cannot be applied. */
  private evaluateUpTo(work: Work, pause: () => void, told: (done: number, of: number) => void): { evaluation: Evaluation; problem: Problem | null } {
    if (!this.evaluator) throw new Error("no clip is open");
    let problem: Problem | null = null;
    let { patches } = work;
    for (;;) {
      try {
        return { evaluation: this.evaluator.evaluate({ ...work, patches }, pause, told), problem };
      } catch (error) {
        if (!(error instanceof PatchError)) throw error;
        problem ??= { patchId: error.patchId, message: error.message };
        const failing = patches.findIndex((p) => p.id === error.patchId);
        patches = patches.slice(0, Math.max(0, failing));
      }
    }
  }

  /** What can be measured of the last evaluation, with pauses in which messages come in; null when something newer was asked for meanwhile. */
  async figures(request = 0): Promise<Figures | null> {
    const evaluation = this.last;
    if (!evaluation) return null;
    const steps = this.measurer.steps(evaluation);
    let started = performance.now();
    for (;;) {
      const { done, value } = steps.next();
      if (done) return value;
      if (performance.now() - started < MEASURE_SLICE_MS) continue;
      await new Promise((resolve) => setTimeout(resolve));
      if (this.superseded(request) || this.last !== evaluation) return null;
      started = performance.now();
    }
  }
}

/** The body of the result, and the source's where a cast has put another in its place. */
function bodiesOf({ base, result }: Evaluation): SentBodies {
  return {
    result: { skeleton: result.character.skeleton, character: characterView(result) },
    source: base.character === result.character ? null : { skeleton: base.character.skeleton, character: characterView(base) },
  };
}
