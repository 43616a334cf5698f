/** From a change to its pose, and the worker's part of that, milliseconds. */
export interface Latency {
  readonly total: number;
  readonly worker: number;
}

/** What a worker is asked for. An answer of null says that it was given up for something newer, or that only the whole can tell. */
export interface Computing<D, P, F, G> {
  pose(doc: D, request: number, known: number): Promise<(P & { readonly serial: number; readonly milliseconds: number }) | null>;
  preview(doc: D, frame: number): Promise<{ readonly posed: F; readonly milliseconds: number } | null>;
  figures(request: number): Promise<G | null>;
}

/** Where the answers go, and what is to be known of the page. */
export interface Showing<D, P, F, G> {
  /** the document that is being dragged, if one is */
  draft(): D | null;
  /** the frame under the playhead */
  frame(): number;
  posed(made: P): void;
  previewed(frame: F): void;
  measured(figures: G, doc: D): void;
  /** how far a long evaluation is, 0..1; null once it is through */
  progress(share: number | null): void;
  failed(error: unknown): void;
}

const MEASURE_AFTER_MS = 120;
/** A stack that takes longer than this is previewed by one frame while something is dragged; the whole follows when the hand rests. */
const SLOW_MS = 40;
const REST_MS = 700;
/** An evaluation that takes longer than this shows how far it is. */
const PROGRESS_AFTER_MS = 400;
const PROGRESS_EVERY_MS = 100;

/**
 * Has documents evaluated, the newest first: while the worker is busy only the latest waits, and what is computed for an older one is given up.
 * While something is dragged on a stack that is slow, the frame under the playhead comes alone and the whole once the hand rests. Measures follow
 * when nothing is asked any more.
 */
export class Evaluations<D, P, F, G> {
  /** number of the newest request, where the worker can see it while it computes; and what it has done of it, in thousandths */
  readonly shared = new Int32Array(new SharedArrayBuffer(2 * Int32Array.BYTES_PER_ELEMENT));
  /** what the speed figures read */
  readonly latencies: Latency[] = [];
  private wanted: D | null = null;
  private busy = false;
  private closed = false;
  private posed: D | null = null;
  private measured: D | null = null;
  /** number of the view that the page has; 0 for none */
  private known = 0;
  private changedAt = 0;
  private lastWhole = 0;
  /** what is dragged now can only be told by the whole */
  private wholeOnly = false;
  private measureTimer: ReturnType<typeof setTimeout> | undefined;
  private restTimer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly worker: Computing<D, P, F, G>,
    private readonly page: Showing<D, P, F, G>,
  ) {}

  ask(doc: D): void {
    this.wanted = doc;
    this.changedAt = performance.now();
    // While a drag can only be answered by the whole, each answer is let come: given up for the next, none ever would.
    if (!this.wholeOnly || this.page.draft() === null) Atomics.add(this.shared, 0, 1);
    if (!this.busy) void this.pump();
  }

  /** The hand has let go: what comes next may be previewed again. */
  released(): void {
    this.wholeOnly = false;
  }

  /** The worker is a fresh one, and knows nothing. */
  forget(): void {
    this.known = 0;
    this.posed = null;
    this.measured = null;
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.measureTimer);
    clearTimeout(this.restTimer);
  }

  private async pump(): Promise<void> {
    this.busy = true;
    clearTimeout(this.measureTimer);
    while (this.wanted !== null && !this.closed) {
      const doc = this.wanted;
      const asked = this.changedAt;
      this.wanted = null;
      clearTimeout(this.restTimer);
      try {
        if (this.lastWhole > SLOW_MS && !this.wholeOnly && this.page.draft() === doc && (await this.previewed(doc, asked))) continue;
        const request = Atomics.load(this.shared, 0);
        const made = await this.withProgress(() => this.worker.pose(doc, request, this.known));
        if (this.closed) return;
        // Given up for something newer, which waits.
        if (!made) continue;
        this.page.posed(made);
        this.known = made.serial;
        this.posed = doc;
        this.lastWhole = made.milliseconds;
        this.latencies.push({ total: performance.now() - asked, worker: made.milliseconds });
      } catch (error) {
        if (this.closed) return;
        this.page.failed(error);
      }
    }
    this.busy = false;
    // Previews leave what was measured last as it was.
    if (this.closed || this.posed === null || this.posed === this.measured) return;
    this.measureTimer = setTimeout(() => void this.measure(), MEASURE_AFTER_MS);
  }

  /** Tells how far an evaluation is that takes long. */
  private async withProgress<T>(work: () => Promise<T>): Promise<T> {
    let told = false;
    let timer: ReturnType<typeof setTimeout>;
    const tell = () => {
      told = true;
      this.page.progress(Atomics.load(this.shared, 1) / 1000);
      timer = setTimeout(tell, PROGRESS_EVERY_MS);
    };
    timer = setTimeout(tell, PROGRESS_AFTER_MS);
    try {
      return await work();
    } finally {
      clearTimeout(timer);
      if (told) this.page.progress(null);
    }
  }

  /** Shows the frame under the playhead alone; the whole is asked for once the hand rests. False where only the whole can tell. */
  private async previewed(doc: D, asked: number): Promise<boolean> {
    const shown = await this.worker.preview(doc, this.page.frame());
    this.wholeOnly = !shown;
    if (!shown || this.closed) return false;
    if (this.page.draft() !== null) this.page.previewed(shown.posed);
    this.latencies.push({ total: performance.now() - asked, worker: shown.milliseconds });
    this.restTimer = setTimeout(() => {
      if (this.page.draft() !== doc) return;
      this.lastWhole = 0;
      this.ask(doc);
    }, REST_MS);
    return true;
  }

  private async measure(): Promise<void> {
    const doc = this.posed;
    if (doc === null) return;
    const figures = await this.worker.figures(Atomics.load(this.shared, 0)).catch(() => null);
    if (this.closed || !figures || doc !== this.posed) return;
    this.measured = doc;
    this.page.measured(figures, doc);
  }
}
