import { describe, expect, it } from "vitest";
import { open, type Planned, PlanQueue, taken } from "./planQueue.ts";

const settle = async () => {
  for (let i = 0; i < 6; i++) await Promise.resolve();
};

describe("a change worked out for many works", () => {
  it("goes two at a time in their order; what fails says why and stops no other", async () => {
    const begun: string[] = [];
    const ends = new Map<string, { yes: (n: number) => void; no: (error: Error) => void }>();
    let rows: ReadonlyMap<string, Planned<number>> = new Map();
    const queue = new PlanQueue<number>(
      ["a", "b", "c"],
      (id) =>
        new Promise((yes, no) => {
          begun.push(id);
          ends.set(id, { yes, no });
        }),
      (next) => {
        rows = next;
      },
    );
    const done = queue.run();
    await settle();
    expect([begun, open(rows)]).toEqual([["a", "b"], 3]);
    ends.get("b")?.no(new Error("it lies outside"));
    await settle();
    expect(begun).toEqual(["a", "b", "c"]);
    ends.get("c")?.yes(3);
    ends.get("a")?.yes(1);
    await done;
    expect(open(rows)).toBe(0);
    expect(rows.get("b")).toEqual({ state: "impossible", why: "it lies outside" });
    expect(taken(["a", "b", "c"], rows, new Set(["a"]))).toEqual([{ id: "c", plan: 3 }]);
    expect(taken(["c", "a"], rows, new Set()).map((t) => t.id)).toEqual(["c", "a"]);
  });

  it("stopped, begins none and tells nothing any more", async () => {
    const begun: string[] = [];
    let told = 0;
    let end = () => {};
    const queue = new PlanQueue<number>(
      ["a", "b", "c", "d"],
      (id, signal) =>
        new Promise((yes) => {
          begun.push(id);
          expect(signal.aborted).toBe(false);
          end = () => yes(1);
        }),
      () => told++,
    );
    const done = queue.run();
    await settle();
    const before = told;
    queue.stop();
    end();
    await settle();
    expect([begun, told]).toEqual([["a", "b"], before]);
    void done;
  });
});
