import type { Work } from "@stride/motion";
import { type Remote, transfer, wrap } from "comlink";
import { ApiError, fetchClip, fetchSource, fetchWork, saveWork } from "../api/client.ts";
import type { BenchWorker } from "../worker/bench.worker.ts";
import { initialState, shownDoc, useBench } from "./bench.ts";
import { playhead } from "./playhead.ts";

/** From a change to its pose, and the worker's part of that, milliseconds. */
export interface Latency {
  readonly total: number;
  readonly worker: number;
}

const SAVE_AFTER_MS = 700;
const MEASURE_AFTER_MS = 120;
/** A stack that takes longer than this is previewed by one frame while something is dragged; the whole follows when the hand rests. */
const SLOW_MS = 40;
const REST_MS = 700;

let current: Session | null = null;

/** The worker of the work that is open. Throws when none is. */
export function benchWorker(): Remote<BenchWorker> {
  if (!current) throw new Error("no work is open");
  return current.worker;
}

/**
 * One work open on the bench: its worker, its evaluation and its saving. The newest document wins: while the worker is busy only the
 * latest request waits. `close` stops everything and saves what is unsaved.
 */
export class Session {
  private readonly thread = new Worker(new URL("../worker/bench.worker.ts", import.meta.url), { type: "module" });
  readonly worker: Remote<BenchWorker> = wrap<BenchWorker>(this.thread);
  private wanted: Work | null = null;
  private busy = false;
  private posed: Work | null = null;
  private measured: Work | null = null;
  private saveTimer = 0;
  private measureTimer = 0;
  private saving: Promise<void> | null = null;
  private closed = false;
  private unsubscribe = () => {};
  /** what the speed figures read */
  readonly latencies: Latency[] = [];
  private changedAt = 0;
  private lastWhole = 0;
  private restTimer = 0;
  /** what is dragged now can only be told by the whole */
  private wholeOnly = false;

  async open(workId: string): Promise<void> {
    current = this;
    const row = await fetchWork(workId);
    const clip = await fetchClip(row.clipId);
    const bytes = await fetchSource(clip.id);
    if (this.closed) return;
    const opened = await this.worker.open(transfer(bytes, [bytes.buffer as ArrayBuffer]), clip.fileName, clip.unitScale, clip.upAxis);
    if (this.closed) return;
    useBench.setState({
      ...initialState(),
      row,
      clip,
      opened,
      name: row.name,
      doc: row.document,
      revision: row.revision,
      savedAt: row.savedAt,
      patchId: row.document.patches.at(-1)?.id ?? null,
    });
    playhead.range = null;
    playhead.frame = 0;
    playhead.setClip(opened.frameCount, opened.fps);
    this.unsubscribe = useBench.subscribe((state, old) => {
      if (!state.draft) this.wholeOnly = false;
      if (shownDoc(state) !== shownDoc(old)) this.evaluate(shownDoc(state));
      if (state.doc !== old.doc || state.name !== old.name) this.saveSoon();
    });
    this.evaluate(row.document);
  }

  close(): void {
    this.closed = true;
    if (current === this) current = null;
    this.unsubscribe();
    window.clearTimeout(this.measureTimer);
    window.clearTimeout(this.restTimer);
    if (this.saveTimer) {
      window.clearTimeout(this.saveTimer);
      void this.save();
    }
    playhead.pause();
    this.thread.terminate();
  }

  /** Saves now; what is being saved already is waited for. */
  async save(): Promise<void> {
    window.clearTimeout(this.saveTimer);
    this.saveTimer = 0;
    if (this.saving) await this.saving;
    const { row, doc, name, revision, past, save } = useBench.getState();
    if (!row || save === "saved" || save === "conflict") return;
    useBench.setState({ save: "saving" });
    this.saving = saveWork(row.id, revision, name, doc, past.at(-1)?.label ?? "Renamed")
      .then((saved) => {
        useBench.setState((s) => ({ revision: saved.revision, savedAt: saved.savedAt, save: s.doc === doc && s.name === name ? "saved" : "unsaved" }));
      })
      .catch((error: unknown) => {
        if (error instanceof ApiError && error.status === 409 && typeof error.data === "object" && error.data !== null && "current" in error.data) {
          useBench.setState({ save: "conflict", conflict: error.data.current as never });
        } else {
          useBench.setState({ save: "failed" });
          this.saveTimer = window.setTimeout(() => void this.save(), 4000);
        }
      })
      .finally(() => {
        this.saving = null;
      });
    await this.saving;
  }

  private saveSoon(): void {
    window.clearTimeout(this.saveTimer);
    this.saveTimer = window.setTimeout(() => void this.save(), SAVE_AFTER_MS);
  }

  private evaluate(doc: Work): void {
    this.wanted = doc;
    this.changedAt = performance.now();
    if (!this.busy) void this.pump();
  }

  private async pump(): Promise<void> {
    this.busy = true;
    window.clearTimeout(this.measureTimer);
    while (this.wanted && !this.closed) {
      const doc = this.wanted;
      const asked = this.changedAt;
      this.wanted = null;
      window.clearTimeout(this.restTimer);
      try {
        if (this.lastWhole > SLOW_MS && !this.wholeOnly && useBench.getState().draft === doc && (await this.previewed(doc, asked))) continue;
        const { after, before, body, problem, milliseconds } = await this.worker.pose(doc);
        if (this.closed) return;
        this.posed = doc;
        this.lastWhole = milliseconds;
        useBench.setState((s) => ({ after, before: before ?? s.before, body, problem, posed: null }));
        if (after.frameCount - 1 !== playhead.last) playhead.setClip(after.frameCount, after.fps);
        this.latencies.push({ total: performance.now() - asked, worker: milliseconds });
      } catch (error) {
        useBench.setState({ problem: error instanceof Error ? error.message : String(error) });
      }
    }
    this.busy = false;
    // Previews leave what was measured last as it was.
    if (this.closed || this.posed === null || this.posed === this.measured) return;
    this.measureTimer = window.setTimeout(() => void this.measure(), MEASURE_AFTER_MS);
  }

  /** Shows the frame under the playhead alone; the whole is asked for once the hand rests. False where only the whole can tell. */
  private async previewed(doc: Work, asked: number): Promise<boolean> {
    const shown = await this.worker.preview(doc, playhead.frame);
    this.wholeOnly = !shown;
    if (!shown || this.closed) return false;
    if (useBench.getState().draft) useBench.setState({ posed: shown.posed });
    this.latencies.push({ total: performance.now() - asked, worker: shown.milliseconds });
    this.restTimer = window.setTimeout(() => {
      if (useBench.getState().draft !== doc) return;
      this.lastWhole = 0;
      this.evaluate(doc);
    }, REST_MS);
    return true;
  }

  private async measure(): Promise<void> {
    const doc = this.posed;
    const figures = await this.worker.figures();
    if (this.closed || !figures || doc !== this.posed) return;
    this.measured = doc;
    useBench.setState({ figures, measuredDoc: doc });
  }
}
