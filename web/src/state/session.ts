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

/**
 * One work open on the bench: its worker, its evaluation and its saving. The newest document wins: while the worker is busy only the
 * latest request waits. `close` stops everything and saves what is unsaved.
 */
export class Session {
  private readonly thread = new Worker(new URL("../worker/bench.worker.ts", import.meta.url), { type: "module" });
  private readonly worker: Remote<BenchWorker> = wrap<BenchWorker>(this.thread);
  private wanted: Work | null = null;
  private busy = false;
  private posed: Work | null = null;
  private saveTimer = 0;
  private measureTimer = 0;
  private saving: Promise<void> | null = null;
  private closed = false;
  private unsubscribe = () => {};
  /** what the speed figures read */
  readonly latencies: Latency[] = [];
  private changedAt = 0;

  async open(workId: string): Promise<void> {
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
      if (shownDoc(state) !== shownDoc(old)) this.evaluate(shownDoc(state));
      if (state.doc !== old.doc || state.name !== old.name) this.saveSoon();
    });
    this.evaluate(row.document);
  }

  close(): void {
    this.closed = true;
    this.unsubscribe();
    window.clearTimeout(this.measureTimer);
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
      try {
        const { after, before, body, problem, milliseconds } = await this.worker.pose(doc);
        if (this.closed) return;
        this.posed = doc;
        useBench.setState((s) => ({ after, before: before ?? s.before, body, problem }));
        if (after.frameCount - 1 !== playhead.last) playhead.setClip(after.frameCount, after.fps);
        this.latencies.push({ total: performance.now() - asked, worker: milliseconds });
      } catch (error) {
        useBench.setState({ problem: error instanceof Error ? error.message : String(error) });
      }
    }
    this.busy = false;
    this.measureTimer = window.setTimeout(() => void this.measure(), MEASURE_AFTER_MS);
  }

  private async measure(): Promise<void> {
    const doc = this.posed;
    const figures = await this.worker.figures();
    if (!this.closed && figures && doc === this.posed) useBench.setState({ figures, measuredDoc: doc });
  }
}
