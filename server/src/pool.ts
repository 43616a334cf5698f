import { availableParallelism } from "node:os";
import { join } from "node:path";
import pLimit, { type LimitFunction } from "p-limit";
import { Piscina } from "piscina";
import { FROM_SOURCE } from "./places.ts";
import type { Job, JobAnswer } from "./worker.ts";

/** A job that ended in an error; `expected` ones are the file's fault and may be shown as they are. */
export class JobError extends Error {
  constructor(
    message: string,
    readonly expected: boolean,
    /** the system's code, where it was the disk */
    readonly code?: string,
  ) {
    super(message);
  }
}

/** Heaviest job that is waited for: a worker that takes longer is stopped and the job fails; the next one gets a fresh worker. */
const LONGEST_JOB_MS = 120_000;
/** Jobs that may wait; beyond that the server says that it is busy. */
const LONGEST_QUEUE = 1000;
/** What a worker's short-lived things may take before they are looked through, MB: small, so that two of them cost little. */
const YOUNG_MB = 16;
/** An idle worker is kept so long. */
const IDLE_MS = 30_000;

/** A thread's module, beside this one. */
const WORKER = join(import.meta.dirname, FROM_SOURCE ? "worker-entry.mjs" : "worker.js");

export interface PoolOptions {
  readonly filename?: string;
  readonly longestMs?: number;
  readonly threads?: number;
  readonly longestQueue?: number;
}

/**
 * A few worker threads for reading, checking and baking, replaced when they die or take too long. Jobs wait in the order in which they came, and a
 * job's time is counted from when it is begun, whatever it waited for.
 */
export class JobPool {
  private readonly threads: Piscina<Job, JobAnswer>;
  private readonly turn: LimitFunction;
  private readonly longestMs: number;
  private readonly longestQueue: number;

  constructor(options: PoolOptions = {}) {
    const threads = options.threads ?? Math.max(2, Math.min(4, availableParallelism() - 1));
    this.longestMs = options.longestMs ?? LONGEST_JOB_MS;
    this.longestQueue = options.longestQueue ?? LONGEST_QUEUE;
    this.turn = pLimit(threads);
    this.threads = new Piscina<Job, JobAnswer>({
      filename: options.filename ?? WORKER,
      minThreads: 0,
      maxThreads: threads,
      idleTimeout: IDLE_MS,
      resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MB },
      // The entry loads what it needs; what the server was started with is not for its threads.
      execArgv: [],
    });
    // A thread that cannot even begin ends its jobs, not the server.
    this.threads.on("error", (error: unknown) => console.error(`a worker thread ended: ${error instanceof Error ? error.message : String(error)}`));
  }

  /** Throws JobError. */
  async run<T>(job: Job): Promise<T> {
    if (this.turn.pendingCount >= this.longestQueue) throw new JobError("too many files are being worked on at once; try again in a moment", true);
    return (await this.turn(() => this.begin(job))) as T;
  }

  async close(): Promise<void> {
    this.turn.clearQueue();
    await this.threads.destroy();
  }

  private async begin(job: Job): Promise<unknown> {
    const stop = new AbortController();
    const timer = setTimeout(() => stop.abort(), this.longestMs);
    try {
      const answer = await this.threads.run(job, { signal: stop.signal });
      if ("error" in answer) throw new JobError(answer.error, answer.expected, answer.code);
      return answer.result;
    } catch (error) {
      if (error instanceof JobError) throw error;
      if (stop.signal.aborted) throw new JobError("this took too long and was stopped", true);
      throw new JobError(error instanceof Error ? error.message : String(error), false);
    } finally {
      clearTimeout(timer);
    }
  }
}
