/** The little of a Worker that is needed here. */
export interface Thread {
  terminate(): void;
  addEventListener(type: "error" | "messageerror", listener: (event: { readonly message?: string; preventDefault?: () => void }) => void): void;
}

/** A worker thread that has died, or no longer answers. */
export class WorkerDied extends Error {
  override readonly name = "WorkerDied";
}

export interface HostOptions<R> {
  /** starts a thread and what talks to it */
  start(): { readonly thread: Thread; readonly remote: R };
  /** told when a thread has died and a fresh one stands in its place, which knows nothing yet */
  onRestart(reason: string): void;
  /** a call that takes longer than this is taken for a dead thread */
  readonly longestMs?: number;
}

/** No evaluation of a clip that can be brought in takes so long. */
const LONGEST_MS = 180_000;

/**
 * Keeps one worker alive: calls to a thread that dies meanwhile fail at once instead of waiting for ever, and a fresh thread is started. What the
 * thread knew has to be told again; the page loses nothing, since it holds the document.
 */
export class WorkerHost<R> {
  private current: { readonly thread: Thread; readonly remote: R };
  private die: (reason: WorkerDied) => void = () => {};
  private died: Promise<never>;
  private closed = false;

  constructor(private readonly options: HostOptions<R>) {
    this.died = this.mourning();
    this.current = this.begin();
  }

  /** Calls the thread. Throws WorkerDied when it dies before it answers. */
  async call<T>(ask: (remote: R) => PromiseLike<T>): Promise<T> {
    const { thread, remote } = this.current;
    const longest = this.options.longestMs ?? LONGEST_MS;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const late = new Promise<never>((_, reject) => {
      timer = setTimeout(() => {
        const reason = new WorkerDied(`it gave no answer in ${Math.round(longest / 1000)} seconds`);
        reject(reason);
        this.lost(thread, reason.message);
      }, longest);
    });
    try {
      return await Promise.race([ask(remote), this.died, late]);
    } finally {
      clearTimeout(timer);
    }
  }

  close(): void {
    this.closed = true;
    this.current.thread.terminate();
    this.die(new WorkerDied("the work was closed"));
  }

  private begin(): { readonly thread: Thread; readonly remote: R } {
    const started = this.options.start();
    for (const type of ["error", "messageerror"] as const) {
      started.thread.addEventListener(type, (event) => {
        event.preventDefault?.();
        this.lost(started.thread, event.message || "it stopped without saying why");
      });
    }
    return started;
  }

  private mourning(): Promise<never> {
    const died = new Promise<never>((_, reject) => {
      this.die = reject;
    });
    // Nobody may be waiting when it dies.
    died.catch(() => {});
    return died;
  }

  private lost(thread: Thread, reason: string): void {
    if (this.closed || thread !== this.current.thread) return;
    thread.terminate();
    const tellWaiting = this.die;
    this.died = this.mourning();
    this.current = this.begin();
    tellWaiting(new WorkerDied(reason));
    this.options.onRestart(reason);
  }
}
