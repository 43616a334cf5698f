/** What is saved at once: never read from anywhere later. */
export interface Snapshot<D> {
  readonly document: D;
  readonly name: string;
  /** what the change is called in the history */
  readonly note: string;
}

export interface Saved {
  readonly revision: number;
  readonly savedAt: string;
}

/** What the other side answers. */
export type SaveAnswer<C> =
  | { readonly saved: Saved }
  /** it was saved elsewhere since; nothing was written */
  | { readonly conflict: C }
  /** it will not be taken as it is, however often it is sent */
  | { readonly refused: string }
  /** no answer, or one that may be better next time */
  | { readonly failed: string };

export type SaverState<C> =
  | { readonly is: "saved"; readonly saved: Saved }
  | { readonly is: "unsaved" | "saving" }
  | { readonly is: "failed"; readonly reason: string }
  | { readonly is: "refused"; readonly reason: string }
  | { readonly is: "conflict"; readonly with: C };

export interface SaverOptions<D, C> {
  readonly revision: number;
  send(base: number, snapshot: Snapshot<D>): Promise<SaveAnswer<C>>;
  /** told until the saver is closed */
  onState(state: SaverState<C>): void;
  readonly afterMs?: number;
  readonly againMs?: number;
}

const SAVE_AFTER_MS = 700;
const AGAIN_MS = 4000;

/**
 * Saves one document of one work, a snapshot at a time, each on the revision that the last one made. Any number of callers may wait for the same
 * save; a newer snapshot that came meanwhile goes right after. A refused snapshot is not sent again until it changes. Closing sends what is left
 * and tells nobody any more.
 */
export class Saver<D, C> {
  private pending: Snapshot<D> | null = null;
  /** true when the save went through */
  private sending: Promise<boolean> | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private base: number;
  private closed = false;
  private stopped = false;

  constructor(private readonly options: SaverOptions<D, C>) {
    this.base = options.revision;
  }

  /** Something to save, soon. */
  change(snapshot: Snapshot<D>): void {
    this.pending = snapshot;
    if (this.stopped) return;
    this.tell({ is: "unsaved" });
    this.later(this.options.afterMs ?? SAVE_AFTER_MS);
  }

  /** Saves now; done when nothing is left to save, or it cannot be. */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    while (this.sending || (this.pending && !this.stopped)) {
      this.sending ??= this.sendOne().finally(() => {
        this.sending = null;
      });
      // Failed or refused: whoever waits is not held up for ever.
      if (!(await this.sending)) return;
    }
  }

  /** Goes on from a revision, after a conflict was settled; `snapshot` is what is to be saved on it, null when nothing is. */
  resume(revision: number, snapshot: Snapshot<D> | null): void {
    this.base = revision;
    this.stopped = false;
    this.pending = null;
    if (snapshot) this.change(snapshot);
  }

  /** Sends what is left; nobody is told any more. */
  close(): Promise<void> {
    this.closed = true;
    return this.flush();
  }

  private async sendOne(): Promise<boolean> {
    const snapshot = this.pending;
    if (!snapshot) return true;
    this.pending = null;
    this.tell({ is: "saving" });
    const answer = await this.options
      .send(this.base, snapshot)
      .catch((error: unknown): SaveAnswer<C> => ({ failed: error instanceof Error ? error.message : String(error) }));
    if ("saved" in answer) {
      this.base = answer.saved.revision;
      this.tell({ is: "saved", saved: answer.saved });
      if (this.pending) this.tell({ is: "unsaved" });
      return true;
    }
    if ("conflict" in answer) {
      // Nothing is sent until a person has chosen.
      this.pending ??= snapshot;
      this.stopped = true;
      this.tell({ is: "conflict", with: answer.conflict });
      return false;
    }
    if ("refused" in answer) {
      this.tell({ is: "refused", reason: answer.refused });
      return this.pending !== null;
    }
    // What came meanwhile is newer and holds this one's changes.
    this.pending ??= snapshot;
    this.tell({ is: "failed", reason: answer.failed });
    if (!this.closed) this.later(this.options.againMs ?? AGAIN_MS);
    return false;
  }

  private later(ms: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush(), ms);
  }

  private tell(state: SaverState<C>): void {
    if (!this.closed) this.options.onState(state);
  }
}
