import type { Work } from "@stride/motion";
import type { ClipRow, WorkRow } from "@stride/server";
import { type Remote, transfer, wrap } from "comlink";
import { ApiError, fetchClip, fetchSource, fetchWork, saveWork } from "../api/client.ts";
import type { BenchWorker } from "../worker/benchWorker.ts";
import { takenView } from "../worker/sentViews.ts";
import { initialState, shownDoc, useBench } from "./bench.ts";
import { playhead } from "./playhead.ts";
import { type SaveAnswer, Saver, type SaverState } from "./saver.ts";
import { WorkerDied, WorkerHost } from "./workerHost.ts";

/** From a change to its pose, and the worker's part of that, milliseconds. */
export interface Latency {
  readonly total: number;
  readonly worker: number;
}

const MEASURE_AFTER_MS = 120;
/** An evaluation that takes longer than this shows how far it is. */
const PROGRESS_AFTER_MS = 400;
const PROGRESS_EVERY_MS = 100;
/** A stack that takes longer than this is previewed by one frame while something is dragged; the whole follows when the hand rests. */
const SLOW_MS = 40;
const REST_MS = 700;
/** A worker that dies so often on one document is not started again with it. */
const MOST_DEATHS = 3;

let current: Session | null = null;

/** Asks the worker of the work that is open. Throws when none is open, or when the worker dies meanwhile. */
export function askWorker<T>(ask: (worker: Remote<BenchWorker>) => PromiseLike<T>): Promise<T> {
  if (!current) return Promise.reject(new Error("no work is open"));
  return current.host.call(ask);
}

/**
 * One work open on the bench: its worker, its evaluation and its saving. The newest document wins: while the worker is busy only the
 * latest request waits. `close` stops everything and saves what is unsaved.
 */
export class Session {
  readonly host = new WorkerHost<Remote<BenchWorker>>({
    start: () => {
      const thread = new Worker(new URL("../worker/bench.worker.ts", import.meta.url), { type: "module" });
      return { thread, remote: wrap<BenchWorker>(thread) };
    },
    onRestart: (reason) => void this.restarted(reason),
  });
  private source: { bytes: Uint8Array; clip: ClipRow } | null = null;
  private saver: Saver<Work, WorkRow> | null = null;
  private wanted: Work | null = null;
  private busy = false;
  private opening = false;
  private posed: Work | null = null;
  private measured: Work | null = null;
  private measureTimer = 0;
  /** number of the newest request, where the worker can see it while it computes (an older one is given up); and what the worker has done of it, in thousandths */
  private readonly newest = new Int32Array(new SharedArrayBuffer(2 * Int32Array.BYTES_PER_ELEMENT));
  /** number of the view that the page has; 0 for none */
  private shown = 0;
  private closed = false;
  private deaths = 0;
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
    const [clip, bytes] = await Promise.all([fetchClip(row.clipId), fetchSource(row.clipId)]);
    if (this.closed) return;
    this.source = { bytes, clip };
    const opened = await this.openSource();
    if (this.closed || !opened) return;
    const { document, view, character } = await this.host.call((w) => w.look(row.document));
    if (this.closed) return;
    // The source as it comes is there to be seen while its contacts are looked for.
    const source = takenView(view, null);
    useBench.setState({
      ...initialState(),
      row,
      clip,
      opened,
      name: row.name,
      doc: document,
      revision: row.revision,
      savedAt: row.savedAt,
      patchId: document.patches.at(-1)?.id ?? null,
      before: source,
      after: source,
      character,
      body: character.body,
      clocks: { fps: opened.fps, seconds: (opened.frameCount - 1) / opened.fps, warps: [], receives: {} },
      searching: true,
    });
    this.saver = new Saver<Work, WorkRow>({
      revision: row.revision,
      send: (base, { document, name, note }) => sendWork(row.id, base, name, document, note),
      onState: showSaving,
    });
    playhead.range = null;
    playhead.frame = 0;
    playhead.setClip(opened.frameCount, opened.fps);
    this.unsubscribe = useBench.subscribe((state, old) => {
      if (!state.draft) this.wholeOnly = false;
      if (shownDoc(state) !== shownDoc(old)) this.evaluate(shownDoc(state));
      const edited = state.doc !== old.doc || state.name !== old.name;
      // What came from the server (a restored revision, theirs after a conflict) is saved already.
      if (edited && state.save !== "saved") this.saver?.change({ document: state.doc, name: state.name, note: state.past.at(-1)?.label ?? "Renamed" });
      if (state.revision !== old.revision && edited && state.save === "saved") this.saver?.resume(state.revision, null);
    });
    this.evaluate(document);
  }

  close(): void {
    this.closed = true;
    if (current === this) current = null;
    this.unsubscribe();
    window.clearTimeout(this.measureTimer);
    window.clearTimeout(this.restTimer);
    void this.saver?.close();
    playhead.pause();
    this.host.close();
  }

  /** Saves now; done when nothing is left to save, or it cannot be. */
  async save(): Promise<void> {
    await this.saver?.flush();
  }

  /** Goes on with this document after a conflict, on the revision that stood in its way. */
  keepMine(revision: number): void {
    const { doc, name, past } = useBench.getState();
    useBench.setState({ revision, conflict: null, save: "unsaved" });
    this.saver?.resume(revision, { document: doc, name, note: past.at(-1)?.label ?? "Kept over another version" });
    void this.saver?.flush();
  }

  private async openSource() {
    const { source } = this;
    if (!source) return null;
    this.opening = true;
    this.shown = 0;
    // The thread gets a copy, so that a fresh one can be given the same again.
    const bytes = source.bytes.slice();
    const { fileName, unitScale, upAxis } = source.clip;
    try {
      return await this.host.call((w) => w.open(transfer(bytes, [bytes.buffer as ArrayBuffer]), fileName, unitScale, upAxis, this.newest.buffer));
    } finally {
      this.opening = false;
    }
  }

  /** A fresh worker stands in for one that died: it is told what the old one knew. */
  private async restarted(reason: string): Promise<void> {
    if (this.closed) return;
    this.deaths++;
    const again = this.deaths <= MOST_DEATHS;
    useBench.setState({
      problem: {
        patchId: null,
        message: `The calculation stopped (${reason}). Nothing is lost${again ? "; it is being started again." : ", but it stops every time: undo the last change, then reload the page."}`,
      },
      posed: null,
    });
    if (!again || this.opening) return;
    try {
      await this.openSource();
      this.posed = null;
      this.measured = null;
      this.evaluate(shownDoc(useBench.getState()));
    } catch {
      // It died again: that is told by itself.
    }
  }

  private evaluate(doc: Work): void {
    this.wanted = doc;
    this.changedAt = performance.now();
    // While a drag can only be answered by the whole, each answer is let come: given up for the next, none ever would.
    if (!this.wholeOnly || !useBench.getState().draft) Atomics.add(this.newest, 0, 1);
    if (!this.busy) void this.pump();
  }

  private async pump(): Promise<void> {
    this.busy = true;
    window.clearTimeout(this.measureTimer);
    while (this.wanted && !this.closed) {
      const doc = this.wanted;
      const asked = this.changedAt;
      const request = Atomics.load(this.newest, 0);
      this.wanted = null;
      window.clearTimeout(this.restTimer);
      try {
        if (this.lastWhole > SLOW_MS && !this.wholeOnly && useBench.getState().draft === doc && (await this.previewed(doc, asked))) continue;
        const made = await this.withProgress(() => this.host.call((w) => w.pose(doc, request, this.shown)));
        if (this.closed) return;
        // Given up for something newer, which waits.
        if (!made) continue;
        const { serial, problem, notes, milliseconds } = made;
        const held = useBench.getState();
        // What is as it was keeps its identity, so that nothing is drawn anew for it.
        const character = made.character ?? held.character;
        const clocks = JSON.stringify(made.clocks) === JSON.stringify(held.clocks) ? held.clocks : made.clocks;
        const after = takenView(made.after, held.after);
        const before = made.before ? takenView(made.before, null) : held.before;
        this.shown = serial;
        this.posed = doc;
        this.deaths = 0;
        this.lastWhole = milliseconds;
        useBench.setState({ after, before, character, body: character?.body ?? null, clocks, problem, notes, posed: null, searching: false });
        if (after.frameCount - 1 !== playhead.last) playhead.setClip(after.frameCount, after.fps);
        this.latencies.push({ total: performance.now() - asked, worker: milliseconds });
      } catch (error) {
        if (this.closed) return;
        // A fresh worker asks for the document again by itself.
        if (!(error instanceof WorkerDied)) useBench.setState({ problem: { patchId: null, message: error instanceof Error ? error.message : String(error) } });
      }
    }
    this.busy = false;
    // Previews leave what was measured last as it was.
    if (this.closed || this.posed === null || this.posed === this.measured) return;
    this.measureTimer = window.setTimeout(() => void this.measure(), MEASURE_AFTER_MS);
  }

  /** Tells how far an evaluation is that takes long. */
  private async withProgress<T>(work: () => Promise<T>): Promise<T> {
    let timer = window.setTimeout(() => {
      timer = window.setInterval(() => useBench.setState({ progress: Atomics.load(this.newest, 1) / 1000 }), PROGRESS_EVERY_MS);
    }, PROGRESS_AFTER_MS);
    try {
      return await work();
    } finally {
      window.clearTimeout(timer);
      window.clearInterval(timer);
      if (useBench.getState().progress !== null) useBench.setState({ progress: null });
    }
  }

  /** Shows the frame under the playhead alone; the whole is asked for once the hand rests. False where only the whole can tell. */
  private async previewed(doc: Work, asked: number): Promise<boolean> {
    const shown = await this.host.call((w) => w.preview(doc, playhead.frame));
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
    const request = Atomics.load(this.newest, 0);
    const figures = await this.host.call((w) => w.figures(request)).catch(() => null);
    if (this.closed || !figures || doc !== this.posed) return;
    this.measured = doc;
    useBench.setState({ figures, measuredDoc: doc });
  }
}

/** A save as the saver wants its answer. What the server will not take as it is, it is not asked again. */
async function sendWork(id: string, base: number, name: string, document: Work, note: string): Promise<SaveAnswer<WorkRow>> {
  try {
    const saved = await saveWork(id, base, name, document, note);
    return { saved: { revision: saved.revision, savedAt: saved.savedAt } };
  } catch (error) {
    if (!(error instanceof ApiError)) throw error;
    if (error.status === 409 && typeof error.data === "object" && error.data !== null && "current" in error.data)
      return { conflict: error.data.current as WorkRow };
    return error.status >= 400 && error.status < 500 ? { refused: error.message } : { failed: error.message };
  }
}

function showSaving(state: SaverState<WorkRow>): void {
  if (state.is === "saved") useBench.setState({ revision: state.saved.revision, savedAt: state.saved.savedAt, save: "saved", refusal: null });
  else if (state.is === "conflict") useBench.setState({ save: "conflict", conflict: state.with });
  else if (state.is === "refused") useBench.setState({ save: "refused", refusal: state.reason });
  else useBench.setState({ save: state.is, refusal: null });
}
