import { availableParallelism } from "node:os";
import { fileURLToPath } from "node:url";
import { Piscina } from "piscina";
import type { Job, JobAnswer } from "./worker.ts";

/** A job that ended in an error; `expected` ones are the file's fault and may be shown as they are. */
export class JobError extends Error {
  constructor(
    message: string,
    readonly expected: boolean,
  ) {
    super(message);
  }
}

/** Heaviest job that is waited for: a worker that takes longer is stopped and the job fails; the next one gets a fresh worker. */
const LONGEST_JOB_MS = 120_000;
/** Jobs that may wait; beyond that the server says that it is busy. */
const LONGEST_QUEUE = 1000;
/** An idle worker is kept so long. */
const IDLE_MS = 30_000;

export interface PoolOptions {
  readonly filename?: string;
  readonly longestMs?: number;
  readonly threads?: number;
  readonly longestQueue?: number;
}

/** A few worker threads for reading, checking and baking; started when first needed, replaced when they die or take too long. */
export class JobPool {
  private readonly threads: Piscina<Job, JobAnswer>;
  private readonly longestMs: number;

  constructor(options: PoolOptions = {}) {
    this.longestMs = options.longestMs ?? LONGEST_JOB_MS;
    this.threads = new Piscina<Job, JobAnswer>({
      filename: options.filename ?? fileURLToPath(new URL("./worker-entry.mjs", import.meta.url)),
      minThreads: 0,
      maxThreads: options.threads ?? Math.max(1, Math.min(4, availableParallelism() - 1)),
      maxQueue: options.longestQueue ?? LONGEST_QUEUE,
      idleTimeout: IDLE_MS,
    });
  }

  /** Throws JobError. The clock runs from when the job is asked for. */
  async run<T>(job: Job): Promise<T> {
    const stop = new AbortController();
    const timer = setTimeout(() => stop.abort(), this.longestMs);
    try {
      const answer = await this.threads.run(job, { signal: stop.signal });
      if ("error" in answer) throw new JobError(answer.error, answer.expected);
      return answer.result as T;
    } catch (error) {
      if (error instanceof JobError) throw error;
      if (stop.signal.aborted) throw new JobError("this took too long and was stopped", true);
      const message = error instanceof Error ? error.message : String(error);
      throw new JobError(/queue/i.test(message) ? "too many files are being worked on at once; try again in a moment" : message, /queue/i.test(message));
    } finally {
      clearTimeout(timer);
    }
  }

  async close(): Promise<void> {
    await this.threads.destroy();
  }
}
