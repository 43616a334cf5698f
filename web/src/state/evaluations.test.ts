import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Evaluations } from "./evaluations.ts";

/** A worker whose answers are given by hand, and a page that writes down what it is shown. */
function bench() {
  const asked: { what: string; doc: string; request: number; known: number; answer(value: unknown): void; fail(error: Error): void }[] = [];
  const log: string[] = [];
  let draft: string | null = null;
  let serial = 0;
  const ask = (what: string, doc: string, request: number, known: number) =>
    new Promise<never>((resolve, reject) => {
      asked.push({ what, doc, request, known, answer: (value) => resolve(value as never), fail: reject });
    });
  const evaluations = new Evaluations<string, { readonly of: string }, string, string>(
    {
      pose: (doc, request, known) => ask("pose", doc, request, known),
      preview: (doc, frame) => ask("preview", doc, 0, frame),
      figures: (request) => ask("figures", "", request, 0),
    },
    {
      draft: () => draft,
      frame: () => 42,
      posed: ({ of }) => log.push(`posed ${of}`),
      previewed: (frame) => log.push(`preview ${frame}`),
      measured: (figures, doc) => log.push(`measured ${figures} of ${doc}`),
      progress: (share) => log.push(`progress ${share}`),
      failed: (error) => log.push(`failed ${(error as Error).message}`),
    },
  );
  const settle = () => vi.advanceTimersByTimeAsync(0);
  return {
    asked,
    log,
    evaluations,
    drag(doc: string | null) {
      draft = doc;
      if (doc !== null) evaluations.ask(doc);
      else evaluations.released();
    },
    async pose(i: number, milliseconds = 1) {
      asked[i].answer({ of: asked[i].doc, serial: ++serial, milliseconds });
      await settle();
    },
    async answer(i: number, value: unknown) {
      asked[i].answer(value);
      await settle();
    },
    settle,
  };
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe("documents that are evaluated", () => {
  it("one after the other, only the newest of those that waited, each told which view the page has", async () => {
    const b = bench();
    b.evaluations.ask("a");
    b.evaluations.ask("b");
    b.evaluations.ask("c");
    expect(b.asked.map((q) => q.doc)).toEqual(["a"]);
    await b.pose(0);
    expect(b.asked.map((q) => [q.doc, q.known])).toEqual([
      ["a", 0],
      ["c", 1],
    ]);
    await b.pose(1);
    expect(b.log).toEqual(["posed a", "posed c"]);
    b.evaluations.ask("d");
    expect(b.asked[2].known).toBe(2);
  });

  it("tell the worker when they are no longer the newest, and go on after one that was given up", async () => {
    const b = bench();
    b.evaluations.ask("a");
    expect(Atomics.load(b.evaluations.shared, 0)).toBe(b.asked[0].request);
    b.evaluations.ask("b");
    expect(Atomics.load(b.evaluations.shared, 0)).not.toBe(b.asked[0].request);
    await b.answer(0, null);
    expect(b.asked[1].doc).toBe("b");
    expect(b.asked[1].request).toBe(Atomics.load(b.evaluations.shared, 0));
    await b.pose(1);
    expect(b.log).toEqual(["posed b"]);
  });

  it("are measured once nothing more is asked, each once, and not while something newer is", async () => {
    const b = bench();
    b.evaluations.ask("a");
    await b.pose(0);
    await vi.advanceTimersByTimeAsync(100);
    expect(b.asked).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(50);
    expect(b.asked[1].what).toBe("figures");
    // Something newer came meanwhile: its figures are the ones that are wanted.
    b.evaluations.ask("b");
    await b.pose(2);
    await b.answer(1, "old");
    expect(b.log).toEqual(["posed a", "posed b"]);
    await vi.advanceTimersByTimeAsync(200);
    await b.answer(3, "new");
    expect(b.log.at(-1)).toBe("measured new of b");
    await vi.advanceTimersByTimeAsync(2000);
    expect(b.asked).toHaveLength(4);
  });

  it("say what went wrong, and the next one is asked for all the same", async () => {
    const b = bench();
    b.evaluations.ask("a");
    b.evaluations.ask("b");
    b.asked[0].fail(new Error("no such joint"));
    await b.settle();
    expect(b.log).toEqual(["failed no such joint"]);
    await b.pose(1);
    expect(b.log.at(-1)).toBe("posed b");
  });

  it("show how far they are once they take long, and no more when they are through", async () => {
    const b = bench();
    b.evaluations.ask("a");
    await vi.advanceTimersByTimeAsync(350);
    expect(b.log).toEqual([]);
    Atomics.store(b.evaluations.shared, 1, 250);
    await vi.advanceTimersByTimeAsync(100);
    expect(b.log).toEqual(["progress 0.25"]);
    Atomics.store(b.evaluations.shared, 1, 700);
    await vi.advanceTimersByTimeAsync(100);
    expect(b.log.at(-1)).toBe("progress 0.7");
    await b.pose(0);
    expect(b.log.slice(-2).sort()).toEqual(["posed a", "progress null"]);
    const shown = b.log.length;
    await vi.advanceTimersByTimeAsync(100);
    expect(b.log.slice(shown).filter((l) => l.startsWith("progress"))).toEqual([]);
  });

  it("are nothing any more once the work is closed", async () => {
    const b = bench();
    b.evaluations.ask("a");
    b.evaluations.close();
    await b.pose(0);
    await vi.advanceTimersByTimeAsync(1000);
    expect(b.log).toEqual([]);
    expect(b.asked).toHaveLength(1);
  });

  it("are known anew by a fresh worker", async () => {
    const b = bench();
    b.evaluations.ask("a");
    await b.pose(0);
    b.evaluations.forget();
    b.evaluations.ask("a");
    expect(b.asked[1].known).toBe(0);
  });
});

describe("a drag on a stack that is slow", () => {
  /** A bench on which the last whole took so many milliseconds. */
  async function slow(milliseconds: number) {
    const b = bench();
    b.evaluations.ask("start");
    await b.pose(0, milliseconds);
    return b;
  }

  it("shows the frame under the playhead, and the whole when the hand rests or lets go", async () => {
    const b = await slow(200);
    b.drag("x");
    expect(b.asked[1]).toMatchObject({ what: "preview", doc: "x", known: 42 });
    await b.answer(1, { posed: "x42", milliseconds: 3 });
    expect(b.log.at(-1)).toBe("preview x42");
    await vi.advanceTimersByTimeAsync(650);
    expect(b.asked.filter((q) => q.what === "pose")).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(100);
    expect(b.asked.at(-1)).toMatchObject({ what: "pose", doc: "x" });
    await b.pose(b.asked.length - 1);
    expect(b.log.at(-1)).toBe("posed x");
  });

  it("is answered by the whole where it is quick", async () => {
    const b = await slow(10);
    b.drag("x");
    expect(b.asked[1].what).toBe("pose");
  });

  it("lets each whole come where only the whole can tell, and cuts it short once something is done for good", async () => {
    const b = await slow(200);
    b.drag("x");
    await b.answer(1, null);
    expect(b.asked[2]).toMatchObject({ what: "pose", doc: "x" });
    const { request } = b.asked[2];
    // The hand goes on: the running one is not given up, or none would ever come.
    b.drag("y");
    b.drag("z");
    expect(Atomics.load(b.evaluations.shared, 0)).toBe(request);
    await b.pose(2, 200);
    expect(b.log.at(-1)).toBe("posed x");
    expect(b.asked[3]).toMatchObject({ what: "pose", doc: "z" });
    // Let go: what is now in the document comes first.
    b.drag(null);
    b.evaluations.ask("done");
    expect(Atomics.load(b.evaluations.shared, 0)).not.toBe(b.asked[3].request);
    await b.answer(3, null);
    expect(b.asked[4]).toMatchObject({ what: "pose", doc: "done" });
    // The next drag may be previewed again.
    await b.pose(4, 200);
    b.drag("again");
    expect(b.asked[5].what).toBe("preview");
  });

  it("keeps how long each answer took, and the worker's part of it", async () => {
    const b = await slow(200);
    b.drag("x");
    await vi.advanceTimersByTimeAsync(30);
    await b.answer(1, { posed: "x42", milliseconds: 3 });
    expect(b.evaluations.latencies.map((l) => l.worker)).toEqual([200, 3]);
    expect(b.evaluations.latencies[1].total).toBeGreaterThanOrEqual(30);
  });
});
