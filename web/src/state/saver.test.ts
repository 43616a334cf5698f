import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type SaveAnswer, Saver, type SaverState, type Snapshot } from "./saver.ts";

/** The other side of a save: keeps what it takes as the server does, and answers when told. */
function server(revision = 1) {
  const kept: { base: number; document: string }[] = [];
  let now = revision;
  const waiting: (() => void)[] = [];
  let next: SaveAnswer<string> | null = null;
  return {
    kept,
    waiting,
    /** the next save gets this answer instead */
    answerNext: (answer: SaveAnswer<string>) => {
      next = answer;
    },
    send: async (base: number, { document }: Snapshot<string>): Promise<SaveAnswer<string>> => {
      await new Promise<void>((resolve) => waiting.push(resolve));
      if (next) {
        const answer = next;
        next = null;
        return answer;
      }
      if (base !== now) return { conflict: `revision ${now}` };
      kept.push({ base, document });
      now++;
      return { saved: { revision: now, savedAt: `at ${now}` } };
    },
    async answer() {
      waiting.shift()?.();
      await vi.advanceTimersByTimeAsync(0);
    },
  };
}

const snap = (document: string): Snapshot<string> => ({ document, name: "Walk", note: document });

describe("saving", () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  function open() {
    const other = server();
    const states: SaverState<string>[] = [];
    const saver = new Saver<string, string>({ revision: 1, send: other.send, onState: (s) => states.push(s) });
    return { other, states, saver, last: () => states.at(-1)?.is };
  }

  it("waits for a pause, and then saves the newest on the revision that the last save made", async () => {
    const { other, saver, last } = open();
    saver.change(snap("a"));
    saver.change(snap("ab"));
    expect(last()).toBe("unsaved");
    await vi.advanceTimersByTimeAsync(701);
    await other.answer();
    expect(last()).toBe("saved");
    saver.change(snap("abc"));
    await vi.advanceTimersByTimeAsync(701);
    await other.answer();
    expect(other.kept).toEqual([
      { base: 1, document: "ab" },
      { base: 2, document: "abc" },
    ]);
  });

  it("is sent once however many wait for it, and without a conflict with itself", async () => {
    const { other, saver, last } = open();
    saver.change(snap("a"));
    const both = Promise.all([saver.flush(), saver.flush()]);
    await vi.advanceTimersByTimeAsync(0);
    expect(other.waiting).toHaveLength(1);
    await other.answer();
    await both;
    expect(other.kept).toHaveLength(1);
    expect(last()).toBe("saved");
  });

  it("loses no edit that waits behind a save when the work is left, and takes nothing over to the next work", async () => {
    const first = open();
    first.saver.change(snap("a"));
    void first.saver.flush();
    await vi.advanceTimersByTimeAsync(0);
    first.saver.change(snap("ab"));
    const told = first.states.length;
    const left = first.saver.close();
    // Another work is opened while the first one's save is still under way.
    const second = open();
    second.saver.change(snap("other"));
    void second.saver.flush();
    await first.other.answer();
    await first.other.answer();
    await second.other.answer();
    await left;
    expect(first.other.kept).toEqual([
      { base: 1, document: "a" },
      { base: 2, document: "ab" },
    ]);
    expect(second.other.kept).toEqual([{ base: 1, document: "other" }]);
    expect(first.states).toHaveLength(told);
  });

  it("tries again after no answer, with what is newest then", async () => {
    const { other, saver, last } = open();
    saver.change(snap("a"));
    void saver.flush();
    await vi.advanceTimersByTimeAsync(0);
    other.answerNext({ failed: "no answer" });
    await other.answer();
    expect(last()).toBe("failed");
    saver.change(snap("ab"));
    await vi.advanceTimersByTimeAsync(701);
    await other.answer();
    expect(other.kept).toEqual([{ base: 1, document: "ab" }]);
    // Left alone it would have been sent by itself.
    saver.change(snap("abc"));
    void saver.flush();
    await vi.advanceTimersByTimeAsync(0);
    other.answerNext({ failed: "no answer" });
    await other.answer();
    await vi.advanceTimersByTimeAsync(4001);
    await other.answer();
    expect(other.kept.at(-1)).toEqual({ base: 2, document: "abc" });
  });

  it("shows a refusal with its reason and does not repeat it; the next change is sent again", async () => {
    const { other, states, saver, last } = open();
    saver.change(snap("bad"));
    void saver.flush();
    await vi.advanceTimersByTimeAsync(0);
    other.answerNext({ refused: "patches.0.name: too long" });
    await other.answer();
    expect(states.at(-1)).toEqual({ is: "refused", reason: "patches.0.name: too long" });
    await vi.advanceTimersByTimeAsync(60_000);
    expect(other.waiting).toHaveLength(0);
    saver.change(snap("good"));
    await vi.advanceTimersByTimeAsync(701);
    await other.answer();
    expect(last()).toBe("saved");
    expect(other.kept).toEqual([{ base: 1, document: "good" }]);
  });

  it("stops at a conflict until a person has chosen, and then goes on from there", async () => {
    const { other, saver, states } = open();
    saver.change(snap("mine"));
    void saver.flush();
    await vi.advanceTimersByTimeAsync(0);
    other.answerNext({ conflict: "theirs" });
    await other.answer();
    expect(states.at(-1)).toEqual({ is: "conflict", with: "theirs" });
    saver.change(snap("mine too"));
    await vi.advanceTimersByTimeAsync(60_000);
    expect(other.waiting).toHaveLength(0);
    saver.resume(1, snap("mine too"));
    await vi.advanceTimersByTimeAsync(701);
    await other.answer();
    expect(other.kept).toEqual([{ base: 1, document: "mine too" }]);
  });
});
