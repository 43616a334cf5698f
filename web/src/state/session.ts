import { clipRef, readingOf, type SourceRef, type Work } from "@stride/motion";
import type { ClipRow, WorkRow } from "@stride/server";
import { type Remote, transfer, wrap } from "comlink";
import { ApiError, fetchClip, fetchSource, fetchSourceClip, fetchSourceWork, fetchWork, saveWork } from "../api/client.ts";
import type { BenchWorker } from "../worker/benchWorker.ts";
import { takenView } from "../worker/sentViews.ts";
import type { Figures, Posed, PosedFrame } from "../worker/views.ts";
import { initialState, shownDoc, useBench } from "./bench.ts";
import { Evaluations } from "./evaluations.ts";
import { knowClip, Supplies } from "./otherClips.ts";
import { playhead } from "./playhead.ts";
import { type SaveAnswer, Saver, type SaverState } from "./saver.ts";
import { findSkin, useSkins } from "./skins.ts";
import { sameMoment } from "./times.ts";
import { WorkerDied, WorkerHost } from "./workerHost.ts";

/** A worker that dies so often on one document is not started again with it. */
const MOST_DEATHS = 3;

let current: Session | null = null;

/** Asks the worker of the work that is open. Throws when none is open, or when the worker dies meanwhile. */
export function askWorker<T>(ask: (worker: Remote<BenchWorker>) => PromiseLike<T>): Promise<T> {
  if (!current) return Promise.reject(new Error("no work is open"));
  return current.host.call(ask);
}

/**
 * One work open on the bench: its worker, its evaluations and its saving. `close` stops everything and saves what is unsaved.
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
  private opening = false;
  private closed = false;
  private deaths = 0;
  private unsubscribe = () => {};
  private readonly evaluations = new Evaluations<Work, Posed, PosedFrame, Figures>(
    {
      pose: (doc, request, known) => this.host.call((w) => w.pose(doc, request, known)),
      preview: (doc, frame) => this.host.call((w) => w.preview(doc, frame)),
      figures: (request) => this.host.call((w) => w.figures(request)),
    },
    {
      draft: () => useBench.getState().draft,
      frame: () => playhead.frame,
      posed: (made) => this.show(made),
      previewed: (posed) => useBench.setState({ posed }),
      measured: (figures, measuredDoc) => useBench.setState({ figures, measuredDoc }),
      progress: (progress) => useBench.setState({ progress }),
      failed: (error) => {
        // A fresh worker asks for the document again by itself.
        if (!(error instanceof WorkerDied)) useBench.setState({ problem: { patchId: null, message: error instanceof Error ? error.message : String(error) } });
      },
    },
  );
  private readonly supplies = new Supplies({
    clip: fetchSourceClip,
    work: fetchSourceWork,
    deliver: (ref, row, work) => this.supply(ref, row, work),
  });
  /** what the speed figures read */
  readonly latencies = this.evaluations.latencies;

  async open(workId: string): Promise<void> {
    current = this;
    const row = await fetchWork(workId);
    const [clip, bytes] = await Promise.all([fetchClip(row.clipId), fetchSource(row.clipId)]);
    if (this.closed) return;
    this.source = { bytes, clip };
    knowClip(clip);
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
      if (!state.draft) this.evaluations.released();
      if (shownDoc(state) !== shownDoc(old)) this.ask(shownDoc(state));
      const edited = state.doc !== old.doc || state.name !== old.name;
      // What came from the server (a restored revision, theirs after a conflict) is saved already.
      if (edited && state.save !== "saved") this.saver?.change({ document: state.doc, name: state.name, note: state.past.at(-1)?.label ?? "Renamed" });
      if (state.revision !== old.revision && edited && state.save === "saved") this.saver?.resume(state.revision, null);
    });
    this.ask(document);
    void this.dress();
  }

  /** Looks for the skin of the source's body. Without one the lay figure stands in for it. */
  private async dress(): Promise<void> {
    useSkins.setState({ source: null, result: null, problem: null });
    const { opened, clip } = useBench.getState();
    if (!opened) return;
    try {
      const skin = await findSkin(clip, opened.skeleton.names, (row, bytes) =>
        this.host.call((w) => w.skin(transfer(bytes, [bytes.buffer as ArrayBuffer]), readingOf(row), "source")),
      );
      if (this.closed) return;
      useSkins.setState({ source: skin });
      await this.dressResult();
    } catch (error) {
      this.undressed(error);
    }
  }

  /** The result's body wears what the source's does, or what fits the one that it was cast onto. */
  private async dressResult(): Promise<void> {
    const { opened, sourceBody } = useBench.getState();
    if (!sourceBody || !opened) {
      useSkins.setState((s) => ({ result: s.source }));
      return;
    }
    useSkins.setState({ result: null });
    const skin = await findSkin(null, opened.skeleton.names, (row, bytes) =>
      this.host.call((w) => w.skin(transfer(bytes, [bytes.buffer as ArrayBuffer]), readingOf(row), "result")),
    ).catch((error: unknown) => this.undressed(error));
    if (!this.closed && useBench.getState().sourceBody === sourceBody) useSkins.setState({ result: skin });
  }

  /** The lay figure stands in for a skin that could not be had, and why is told beside it. */
  private undressed(error: unknown): null {
    if (!this.closed && !(error instanceof WorkerDied)) useSkins.setState({ problem: error instanceof Error ? error.message : String(error) });
    return null;
  }

  /** Has a document evaluated, once the clips that it draws on are there. */
  private ask(document: Work): void {
    if (this.supplies.complete(document)) {
      this.evaluations.ask(document);
      return;
    }
    void this.supplies.bring(document).then(() => {
      if (!this.closed && shownDoc(useBench.getState()) === document) this.evaluations.ask(document);
    });
  }

  /** Hands another motion to the thread: a clip as it came, or what a document makes of it, with what that draws on. */
  async supply(ref: SourceRef, row: ClipRow, work: Work | null): Promise<void> {
    if (work) await this.supplies.bring(work);
    const bytes = await fetchSource(row.id);
    await this.host.call((w) => w.supply(ref, transfer(bytes, [bytes.buffer as ArrayBuffer]), readingOf(row), work, row.notes));
  }

  close(): void {
    this.closed = true;
    if (current === this) current = null;
    this.unsubscribe();
    this.evaluations.close();
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
    this.evaluations.forget();
    this.supplies.forget();
    // The thread gets a copy, so that a fresh one can be given the same again.
    const bytes = source.bytes.slice();
    try {
      return await this.host.call((w) =>
        w.open(transfer(bytes, [bytes.buffer as ArrayBuffer]), readingOf(source.clip), this.evaluations.shared.buffer, clipRef(source.clip)),
      );
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
      this.ask(shownDoc(useBench.getState()));
    } catch {
      // It died again: that is told by itself.
    }
  }

  private show(made: Posed): void {
    const { problem, notes } = made;
    const held = useBench.getState();
    // What is as it was keeps its identity, so that nothing is drawn anew for it.
    const character = made.body ? made.body.result.character : held.character;
    const sourceBody = made.body ? made.body.source : held.sourceBody;
    const opened =
      made.body && held.opened && made.body.result.skeleton !== held.opened.skeleton ? { ...held.opened, skeleton: made.body.result.skeleton } : held.opened;
    const clocks = JSON.stringify(made.clocks) === JSON.stringify(held.clocks) ? held.clocks : made.clocks;
    const after = takenView(made.after, held.after);
    const before = made.before ? takenView(made.before, null) : held.before;
    this.deaths = 0;
    useBench.setState({ after, before, opened, sourceBody, character, body: character?.body ?? null, clocks, problem, notes, posed: null, searching: false });
    // Parts of another body mean other joints.
    const recast = made.body && JSON.stringify(made.body.result.skeleton.names) !== JSON.stringify(held.opened?.skeleton.names);
    if (recast) useBench.setState({ parts: [] });
    if (recast || (made.body && (made.body.source === null) !== (held.sourceBody === null))) void this.dressResult();
    // The playhead stays on its moment when time changes under it.
    const frame = clocks === held.clocks || held.searching ? playhead.frame : sameMoment(held.clocks, clocks, playhead.frame);
    if (after.frameCount - 1 !== playhead.last) playhead.setClip(after.frameCount, after.fps);
    if (frame !== playhead.frame && !playhead.playing) playhead.seek(frame);
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
  else if (state.is === "refused" || state.is === "failed") useBench.setState({ save: state.is, refusal: state.reason });
  else useBench.setState({ save: state.is, refusal: null });
}
