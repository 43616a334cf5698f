/** One file on its way into the library. */
export interface ImportRow {
  readonly id: number;
  readonly fileName: string;
  readonly state: "waiting" | "sending" | "checking" | "done" | "known" | "failed" | "cancelled";
  /** of the upload, 0..1 */
  readonly share: number;
  readonly error?: string;
  /** clips that it became, one of each of its animations */
  readonly added?: number;
  /** its animations that could not be read, and why */
  readonly unread?: readonly { readonly take: string; readonly problem: string }[];
}

/** What stands on the screen while files come in. */
export interface ImportState {
  readonly rows: readonly ImportRow[];
  readonly paused: boolean;
}

/** How many rows are in which state, and how long the rest will take, seconds; null until that can be said. */
export interface ImportCounts {
  readonly total: number;
  readonly done: number;
  readonly known: number;
  readonly failed: number;
  readonly cancelled: number;
  readonly left: number;
  readonly secondsLeft: number | null;
}

export interface ImportOptions<F> {
  /** Sends one file; throws what is wrong with it. Ends early, with any error, when the signal says so. */
  readonly send: (
    file: F,
    progress: (share: number) => void,
    signal: AbortSignal,
  ) => Promise<Pick<ImportRow, "added" | "unread"> & { readonly known?: boolean }>;
  readonly nameOf: (file: F) => string;
  readonly onState: (state: ImportState) => void;
  /** hears of clips that came in, now and then and when all are through */
  readonly onBrought: () => void;
  readonly now?: () => number;
}

/** Files that are sent at once: the server reads two. */
const AT_ONCE = 2;
/** Clips that came in are shown no more often than this, milliseconds: of many files each one would have everything read anew. */
const SHOWN_EVERY_MS = 2000;
/** So many files tell how long one takes. */
const ENOUGH = 3;

/**
 * Files on their way into the library: a row each, two at a time. One that fails says why and stops no other. Paused, those under way are finished and no more are begun; cancelled, what is
 * under way is broken off (the server keeps whole clips only) and what waits is left out.
 */
export class ImportQueue<F> {
  private rows: ImportRow[] = [];
  private paused = false;
  private waiting: { readonly file: F; readonly id: number }[] = [];
  private readonly running = new Map<number, AbortController>();
  private nextId = 1;
  private shownAt = Number.NEGATIVE_INFINITY;
  private readonly ended: number[] = [];
  private begun = 0;
  private readonly now: () => number;

  constructor(private readonly options: ImportOptions<F>) {
    this.now = options.now ?? (() => performance.now());
  }

  add(files: readonly F[]): void {
    if (this.left() === 0) {
      // What went well before is out of the way; what failed stays until it is dismissed.
      this.rows = this.rows.filter((row) => row.state === "failed");
      this.ended.length = 0;
      this.begun = this.now();
    }
    for (const file of files) {
      const id = this.nextId++;
      this.waiting.push({ file, id });
      this.rows.push({ id, fileName: this.options.nameOf(file), state: "waiting", share: 0 });
    }
    this.tell();
    this.fill();
  }

  pause(): void {
    this.paused = true;
    this.tell();
  }

  resume(): void {
    this.paused = false;
    this.tell();
    this.fill();
  }

  cancel(): void {
    this.waiting = [];
    this.paused = false;
    this.rows = this.rows.map((row) => (row.state === "waiting" ? { ...row, state: "cancelled" } : row));
    for (const stop of this.running.values()) stop.abort();
    this.tell();
  }

  /** Takes rows that have ended off the list. */
  dismiss(ids: readonly number[]): void {
    this.rows = this.rows.filter((row) => !ids.includes(row.id) || !isEnded(row));
    this.tell();
  }

  counts(): ImportCounts {
    const count = (state: ImportRow["state"]) => this.rows.filter((row) => row.state === state).length;
    const left = this.left();
    const each = this.ended.length < ENOUGH ? null : (this.now() - this.begun) / this.ended.length / 1000;
    return {
      total: this.rows.length,
      done: count("done"),
      known: count("known"),
      failed: count("failed"),
      cancelled: count("cancelled"),
      left,
      secondsLeft: each === null || this.paused || left === 0 ? null : each * left,
    };
  }

  private left(): number {
    return this.rows.filter((row) => !isEnded(row)).length;
  }

  private fill(): void {
    while (!this.paused && this.running.size < AT_ONCE) {
      const next = this.waiting.shift();
      if (!next) return;
      void this.bring(next.file, next.id);
    }
  }

  private async bring(file: F, id: number): Promise<void> {
    const stop = new AbortController();
    this.running.set(id, stop);
    this.change(id, { state: "sending" });
    try {
      const { known, added, unread } = await this.options.send(
        file,
        (share) => this.change(id, { share, state: share >= 1 ? "checking" : "sending" }),
        stop.signal,
      );
      this.change(id, { state: known ? "known" : "done", share: 1, added, unread });
    } catch (error) {
      if (stop.signal.aborted) this.change(id, { state: "cancelled" });
      else this.change(id, { state: "failed", error: error instanceof Error ? error.message : String(error) });
    }
    this.running.delete(id);
    this.ended.push(id);
    this.fill();
    const now = this.now();
    if (this.left() > 0 && now - this.shownAt < SHOWN_EVERY_MS) return;
    this.shownAt = now;
    this.options.onBrought();
  }

  private change(id: number, part: Partial<ImportRow>): void {
    this.rows = this.rows.map((row) => (row.id === id ? { ...row, ...part } : row));
    this.tell();
  }

  private tell(): void {
    this.options.onState({ rows: this.rows, paused: this.paused });
  }
}

function isEnded({ state }: ImportRow): boolean {
  return state !== "waiting" && state !== "sending" && state !== "checking";
}
