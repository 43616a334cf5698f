import { describe, expect, it, vi } from "vitest";
import { type Thread, WorkerDied, WorkerHost } from "./workerHost.ts";

/** A thread that can be made to die. */
class FakeThread implements Thread {
  terminated = false;
  private readonly listeners: ((event: { message?: string }) => void)[] = [];
  terminate(): void {
    this.terminated = true;
  }
  addEventListener(_: string, listener: (event: { message?: string }) => void): void {
    this.listeners.push(listener);
  }
  dieOf(message: string): void {
    for (const listener of this.listeners) listener({ message });
  }
}

function host(longestMs?: number) {
  const threads: FakeThread[] = [];
  const restarts: string[] = [];
  const made = new WorkerHost<{ id: number }>({
    start: () => {
      const thread = new FakeThread();
      threads.push(thread);
      return { thread, remote: { id: threads.length } };
    },
    onRestart: (reason) => restarts.push(reason),
    longestMs,
  });
  return { made, threads, restarts };
}

const never = () => new Promise<number>(() => {});

describe("the page's worker", () => {
  it("fails every waiting call at once when it dies, and a fresh one answers the next", async () => {
    const { made, threads, restarts } = host();
    expect(await made.call(async (r) => r.id)).toBe(1);
    const waiting = [made.call(never), made.call(never)];
    threads[0].dieOf("out of memory");
    for (const call of waiting) await expect(call).rejects.toThrow(WorkerDied);
    expect(restarts).toEqual(["out of memory"]);
    expect(threads[0].terminated).toBe(true);
    expect(await made.call(async (r) => r.id)).toBe(2);
    // What an old thread says afterwards means nothing.
    threads[0].dieOf("again");
    expect(restarts).toHaveLength(1);
  });

  it("takes one that gives no answer for dead", async () => {
    vi.useFakeTimers();
    const { made, threads, restarts } = host(5000);
    const call = made.call(never);
    const failed = expect(call).rejects.toThrow(/no answer in 5 seconds/);
    await vi.advanceTimersByTimeAsync(5001);
    await failed;
    expect(threads).toHaveLength(2);
    expect(restarts).toHaveLength(1);
    vi.useRealTimers();
  });

  it("passes on a call's own error without dying of it, and starts nothing once closed", async () => {
    const { made, threads, restarts } = host();
    await expect(made.call(() => Promise.reject(new Error("no clip is open")))).rejects.toThrow("no clip is open");
    expect(restarts).toEqual([]);
    const waiting = made.call(never);
    made.close();
    await expect(waiting).rejects.toThrow(/closed/);
    threads[0].dieOf("late");
    expect(threads).toHaveLength(1);
  });
});
