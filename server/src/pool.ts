import { cpus } from "node:os";
import { Worker } from "node:worker_threads";
import type { Job } from "./worker.ts";

/** A job that ended in an error; `expected` ones are the file's fault and may be shown as they are. */
export class JobError extends Error {
  constructor(
    message: string,
    readonly expected: boolean,
  ) {
    super(message);
  }
}

interface Waiting {
  readonly id: number;
  readonly job: Job;
  readonly resolve: (value: never) => void;
  readonly reject: (error: Error) => void;
}

/** Heaviest job that is waited for: a worker that takes longer is stopped and the job fails. */
const LONGEST_JOB_MS = 120_000;

/** A few worker threads for reading, checking and baking; started when first needed, replaced when they die. */
export class JobPool {
  private readonly idle: Worker[] = [];
  private readonly queue: Waiting[] = [];
  private readonly busy = new Map<Worker, { waiting: Waiting; timer: NodeJS.Timeout }>();
  private nextId = 1;

  constructor(private readonly size = Math.max(1, Math.min(4, cpus().length - 1))) {}

  run<T>(job: Job): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      this.queue.push({ id: this.nextId++, job, resolve: resolve as (value: never) => void, reject });
      this.pump();
    });
  }

  async close(): Promise<void> {
    await Promise.all([...this.idle, ...this.busy.keys()].map((worker) => worker.terminate()));
  }

  private pump(): void {
    while (this.queue.length > 0) {
      const worker = this.idle.pop() ?? (this.busy.size < this.size ? this.start() : undefined);
      const waiting = worker && this.queue.shift();
      if (!worker || !waiting) return;
      const timer = setTimeout(() => {
        this.settle(worker, new JobError("this took too long and was stopped", true));
        void worker.terminate();
      }, LONGEST_JOB_MS);
      this.busy.set(worker, { waiting, timer });
      worker.postMessage({ id: waiting.id, job: waiting.job });
    }
  }

  private start(): Worker {
    const worker = new Worker(new URL("./worker-entry.mjs", import.meta.url));
    worker.unref();
    worker.on("message", (message: { id: number; result?: never; error?: { message: string; expected: boolean } }) => {
      const held = this.busy.get(worker);
      if (!held || held.waiting.id !== message.id) return;
      this.settle(worker, message.error ? new JobError(message.error.message, message.error.expected) : undefined, message.result);
      this.idle.push(worker);
      this.pump();
    });
    worker.on("error", (error) => {
      this.settle(worker, new JobError(error.message, false));
      this.pump();
    });
    return worker;
  }

  private settle(worker: Worker, error: Error | undefined, result?: never): void {
    const held = this.busy.get(worker);
    if (!held) return;
    clearTimeout(held.timer);
    this.busy.delete(worker);
    if (error) held.waiting.reject(error);
    else held.waiting.resolve(result as never);
  }
}
