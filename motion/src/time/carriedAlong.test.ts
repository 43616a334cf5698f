import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { makePatch, type Patch } from "../documents/patch.ts";
import { emptyWork, type Work } from "../documents/work.ts";
import { carriedAlong } from "./carriedAlong.ts";

const SOURCE = { seconds: 10, fps: 30 };
const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });
const repair = (start: number, end: number, rest: Partial<Patch> = {}): Patch => ({ ...makePatch("repair", "R", "r"), range: { start, end }, ...rest });
const retime = (...beats: [number, number][]): Patch => makePatch("retime", "T", "t", { beats: beats.map(([from, to]) => ({ from, to })), between: "even" });
const trim = (from: number, to: number | null = null): Patch => makePatch("trim", "Trim", "trim", { from, to });
const range = (w: Work, id = "r") => w.patches.find((p) => p.id === id)?.range;

describe("what stands over a change of time", () => {
  it("goes along when a beat beneath it is moved: range, ramps and keys", () => {
    const key = (at: number) => ({ at, value: 1, tangent: "flat" });
    const layer: Patch = {
      ...makePatch("layer", "L", "l", { weightKeys: [key(1), key(3)] }),
      range: { start: 2, end: 3 },
      rampIn: 0.5,
      rampOut: 0.5,
    };
    const before = work(retime([0, 0], [2, 2], [4, 4]), layer);
    const after = carriedAlong(before, work(retime([0, 0], [2, 4], [4, 6]), layer), SOURCE);
    const moved = after.patches[1];
    expect(moved.range).toEqual({ start: 4, end: 5 });
    // The ramp before it lies where time runs at half speed, the one behind it where it runs as it did.
    expect(moved.rampIn).toBeCloseTo(1, 9);
    expect(moved.rampOut).toBeCloseTo(0.5, 9);
    expect((moved.settings.weightKeys as { at: number }[]).map((k) => k.at)).toEqual([2, 5]);
  });

  it("is kept where its moment is cut away, and comes back with it", () => {
    const before = work(repair(1, 2));
    const cut = carriedAlong(before, work(trim(4), repair(1, 2)), SOURCE);
    expect(range(cut)).toEqual({ start: -3, end: -2 });
    expect(range(carriedAlong(cut, work(trim(0.5), cut.patches[1]), SOURCE))).toEqual({ start: 0.5, end: 1.5 });
    expect(range(carriedAlong(cut, work(cut.patches[1]), SOURCE))).toEqual({ start: 1, end: 2 });
    const behind = carriedAlong(work(repair(8, 9)), work(trim(1, 5), repair(8, 9)), SOURCE);
    expect(range(behind)).toEqual({ start: 7, end: 8 });
    expect(range(carriedAlong(behind, work(behind.patches[1]), SOURCE))).toEqual({ start: 8, end: 9 });
  });

  it("stays where it is told when its own moments change in the same step, when it is new, and when it lies beneath", () => {
    const before = work(trim(0), repair(1, 2));
    expect(range(carriedAlong(before, work(trim(1), repair(5, 6)), SOURCE))).toEqual({ start: 5, end: 6 });
    expect(range(carriedAlong(before, work(trim(1), { ...repair(1, 2), id: "new" }), SOURCE), "new")).toEqual({ start: 1, end: 2 });
    expect(range(carriedAlong(work(repair(1, 2), trim(0)), work(repair(1, 2), trim(1)), SOURCE))).toEqual({ start: 1, end: 2 });
  });

  it("follows muting, and the order of the stack", () => {
    const before = work(trim(1), repair(2, 3));
    const muted = carriedAlong(before, work({ ...trim(1), muted: true }, repair(2, 3)), SOURCE);
    expect(range(muted)).toEqual({ start: 3, end: 4 });
    expect(range(carriedAlong(before, work(repair(2, 3), trim(1)), SOURCE))).toEqual({ start: 3, end: 4 });
  });

  it("keeps to the repeat of a loop that it was put on", () => {
    const loop = (repeats: number) => makePatch("loop", "Loop", "loop", { from: 2, to: 4, repeats });
    const before = work(loop(2), repair(2.5, 3));
    expect(range(carriedAlong(before, work(loop(5), repair(2.5, 3)), SOURCE))).toEqual({ start: 2.5, end: 3 });
    expect(range(carriedAlong(work(repair(2.5, 3)), work(loop(3), repair(2.5, 3)), SOURCE))).toEqual({ start: 2.5, end: 3 });
  });

  it("stays as it is over a loop whose cycle is not told yet; what lies beneath that goes along all the same", () => {
    const found = makePatch("loop", "Loop", "loop", { from: null, to: null });
    const below = repair(3, 4);
    const after = carriedAlong(work(below, found, { ...repair(1, 2), id: "above" }), work(trim(1), below, found, { ...repair(1, 2), id: "above" }), SOURCE);
    expect(range(after)).toEqual({ start: 2, end: 3 });
    expect(range(after, "above")).toEqual({ start: 1, end: 2 });
  });

  it("takes the beats of a higher retime along without changing its speeds", () => {
    const upper = makePatch("retime", "U", "u", { beats: [1, 2, 3].map((m) => ({ from: m, to: 2 * m })) });
    const after = carriedAlong(work(upper), work(trim(0.5), upper), SOURCE);
    expect(after.patches[1].settings.beats).toEqual([1, 2, 3].map((m) => ({ from: m - 0.5, to: 2 * m - 0.5 })));
    // Twice as slow beneath: its stretches get twice as long, at the speeds that they had.
    const slow = carriedAlong(work(retime([0, 0], [8, 8]), upper), work(retime([0, 0], [8, 16]), upper), SOURCE);
    const beats = slow.patches[1].settings.beats as { from: number; to: number }[];
    expect(beats.map((b) => b.from)).toEqual([2, 4, 6]);
    expect(beats.map((b) => b.to)).toEqual([3, 7, 11]);
  });

  it("comes back to where it was when the change is taken back (property)", () => {
    const moments = fc.tuple(fc.double({ min: 0, max: 9, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }));
    const beats = fc.array(fc.tuple(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 20 })), { minLength: 1, maxLength: 5 }).map((steps) => {
      let [from, to] = [0, 0];
      const list: [number, number][] = [[0, 0]];
      for (const [a, b] of steps) {
        from += a / 6;
        to += b / 6;
        if (from <= 10) list.push([from, to]);
      }
      return list;
    });
    fc.assert(
      fc.property(beats, beats, moments, (a, b, [start, length]) => {
        const before = work(retime(...a), repair(start, start + length));
        const there = carriedAlong(before, work(retime(...b), before.patches[1]), SOURCE);
        const back = carriedAlong(there, work(retime(...a), there.patches[1]), SOURCE);
        expect(range(back)?.start).toBeCloseTo(start, 6);
        expect(range(back)?.end).toBeCloseTo(start + length, 6);
      }),
    );
  });
});
