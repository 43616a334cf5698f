import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Playhead } from "./playhead.ts";

let now = 0;
let waiting: ((time: number) => void)[] = [];

/** Lets the clock run to a moment, with a picture every so many milliseconds. */
function runTo(time: number, every: number): void {
  while (now < time) {
    now = Math.min(time, now + every);
    const due = waiting;
    waiting = [];
    for (const callback of due) callback(now);
  }
}

beforeEach(() => {
  now = 0;
  waiting = [];
  vi.stubGlobal("requestAnimationFrame", (callback: (time: number) => void) => waiting.push(callback));
  vi.stubGlobal("cancelAnimationFrame", () => {
    waiting = [];
  });
  vi.spyOn(performance, "now").mockImplementation(() => now);
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

function playhead(frames = 91, fps = 30): Playhead {
  const made = new Playhead();
  made.setClip(frames, fps);
  return made;
}

describe("the playhead", () => {
  it("plays at the clip's own speed whatever the pictures' rate", () => {
    for (const [fps, every] of [
      [30, 16],
      [120, 16],
      [30, 250],
      [24, 7],
    ]) {
      const head = playhead(1000, fps);
      now = 0;
      waiting = [];
      head.play();
      runTo(2000, every);
      expect(Math.abs(head.frame - 2 * fps), `${fps} fps, a picture every ${every} ms`).toBeLessThanOrEqual(1);
      head.pause();
    }
  });

  it("loops within its stretch, or stops at its end", () => {
    const head = playhead();
    head.setRange([20, 40]);
    head.play();
    expect(head.frame).toBe(20);
    const seen: number[] = [];
    head.subscribe(() => seen.push(head.frame));
    runTo(3000, 10);
    expect(Math.min(...seen)).toBe(20);
    expect(Math.max(...seen)).toBe(40);
    // 21 frames at 30 a second: three seconds are four times round and a bit.
    expect(seen.filter((f, i) => f < (seen[i - 1] ?? 0)).length).toBe(4);
    head.setLooping(false);
    head.seek(38);
    runTo(4000, 10);
    expect([head.frame, head.playing]).toEqual([40, false]);
    head.play();
    expect(head.frame).toBe(20);
  });

  it("keeps within the clip, and forgets a stretch that a shorter one no longer has", () => {
    const head = playhead();
    head.seek(200);
    expect(head.frame).toBe(90);
    head.seek(-3.4);
    expect(head.frame).toBe(0);
    head.seek(80);
    head.setRange([60, 85]);
    head.setClip(51, 30);
    expect([head.frame, head.last, head.range]).toEqual([50, 50, null]);
    head.setRange([10, 20]);
    head.setClip(40, 30);
    expect(head.range).toEqual([10, 20]);
  });

  it("tells those who listen, and no longer those who left", () => {
    const head = playhead();
    let told = 0;
    const leave = head.subscribe(() => told++);
    head.seek(5);
    leave();
    head.seek(6);
    expect(told).toBe(1);
  });
});
