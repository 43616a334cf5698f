import { describe, expect, it } from "vitest";
import { ImportQueue, type ImportState } from "./importQueue.ts";

/** A queue whose files end when the test says so. */
function queueOf() {
  const sent = new Map<
    string,
    {
      end: (answer?: { known?: boolean; added?: number; unread?: { take: string; problem: string }[] }) => void;
      fail: (error: Error) => void;
      progress: (share: number) => void;
      signal: AbortSignal;
    }
  >();
  let state: ImportState = { rows: [], paused: false };
  let brought = 0;
  let clock = 0;
  const queue = new ImportQueue<string>({
    nameOf: (file) => file,
    send: (file, progress, signal) =>
      new Promise((resolve, reject) => {
        signal.addEventListener("abort", () => reject(new Error("cut off")));
        sent.set(file, { end: (answer = {}) => resolve(answer), fail: reject, progress, signal });
      }),
    onState: (next) => {
      state = next;
    },
    onBrought: () => {
      brought++;
    },
    now: () => clock,
  });
  const settle = async () => {
    for (let i = 0; i < 5; i++) await Promise.resolve();
  };
  return {
    queue,
    sent,
    settle,
    states: () => Object.fromEntries(state.rows.map((r) => [r.fileName, r.state])),
    row: (name: string) => state.rows.find((r) => r.fileName === name),
    paused: () => state.paused,
    brought: () => brought,
    pass: (ms: number) => {
      clock += ms;
    },
  };
}

describe("files being brought in", () => {
  it("go two at a time, tell how far they are, and one that fails stops no other", async () => {
    const t = queueOf();
    t.queue.add(["a", "b", "c"]);
    expect(t.states()).toEqual({ a: "sending", b: "sending", c: "waiting" });
    t.sent.get("a")?.progress(0.4);
    expect(t.row("a")).toMatchObject({ state: "sending", share: 0.4 });
    t.sent.get("a")?.progress(1);
    expect(t.row("a")?.state).toBe("checking");
    t.sent.get("b")?.fail(new Error("b:12: expected a number"));
    await t.settle();
    expect(t.states()).toEqual({ a: "checking", b: "failed", c: "sending" });
    expect(t.row("b")?.error).toBe("b:12: expected a number");
    t.sent.get("a")?.end({ added: 2, unread: [{ take: "Run", problem: "torn" }] });
    t.sent.get("c")?.end({ known: true });
    await t.settle();
    expect(t.row("a")).toMatchObject({ added: 2, unread: [{ take: "Run", problem: "torn" }] });
    expect(t.queue.counts()).toMatchObject({ total: 3, done: 1, known: 1, failed: 1, left: 0, secondsLeft: null });
    // All through: they are shown.
    expect(t.brought()).toBeGreaterThan(0);
  });

  it("paused, finish what is under way and begin nothing; resumed, go on", async () => {
    const t = queueOf();
    t.queue.add(["a", "b", "c"]);
    t.queue.pause();
    t.sent.get("a")?.end();
    await t.settle();
    expect([t.paused(), t.states()]).toEqual([true, { a: "done", b: "sending", c: "waiting" }]);
    t.queue.resume();
    expect(t.states().c).toBe("sending");
  });

  it("cancelled, break off what is under way and leave out what waits", async () => {
    const t = queueOf();
    t.queue.add(["a", "b", "c", "d"]);
    t.sent.get("a")?.end();
    await t.settle();
    t.queue.cancel();
    await t.settle();
    expect(t.states()).toEqual({ a: "done", b: "cancelled", c: "cancelled", d: "cancelled" });
    expect(t.sent.has("d")).toBe(false);
    expect(t.sent.get("b")?.signal.aborted).toBe(true);
    // What comes after it is brought in as ever.
    t.queue.add(["e"]);
    expect(t.states()).toEqual({ e: "sending" });
  });

  it("say how long the rest will take once a few are through, and show what came in no more than every other second", async () => {
    const t = queueOf();
    const files = Array.from({ length: 10 }, (_, i) => `f${i}`);
    t.queue.add(files);
    expect(t.queue.counts().secondsLeft).toBeNull();
    for (let i = 0; i < 4; i++) {
      t.pass(500);
      t.sent.get(`f${i}`)?.end();
      await t.settle();
    }
    expect(t.queue.counts()).toMatchObject({ done: 4, left: 6, secondsLeft: 3 });
    // At half a second and not again before two and a half.
    expect(t.brought()).toBe(1);
    t.queue.pause();
    expect(t.queue.counts().secondsLeft).toBeNull();
  });

  it("keep what failed on the list until it is dismissed, and only what has ended can be", async () => {
    const t = queueOf();
    t.queue.add(["a", "b", "c"]);
    t.sent.get("a")?.fail(new Error("no"));
    t.sent.get("b")?.end();
    t.sent.get("b")?.end();
    await t.settle();
    t.sent.get("c")?.end();
    await t.settle();
    t.queue.add(["d"]);
    expect(t.states()).toEqual({ a: "failed", d: "sending" });
    t.queue.dismiss([t.row("a")?.id ?? 0, t.row("d")?.id ?? 0]);
    expect(t.states()).toEqual({ d: "sending" });
  });
});
