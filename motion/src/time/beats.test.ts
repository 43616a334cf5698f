import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Beat, beatProblem, beatWarp, madeEven, stretchSpeeds, withBeat, withHold, withMovedBeat, withStretchLength, withTakenOut } from "./beats.ts";
import { inputAt, isIdentity, outputsAt } from "./warp.ts";

const FPS = 30;
const at = (from: number, to: number, locked?: boolean): Beat => (locked ? { from, to, locked } : { from, to });

const beatList = fc
  .array(fc.record({ from: fc.integer({ min: 1, max: 60 }), to: fc.integer({ min: 1, max: 90 }) }), { minLength: 1, maxLength: 8 })
  .map((steps) => {
    let [from, to] = [0, 0];
    return steps.map((s) => {
      from += s.from / FPS;
      to += s.to / FPS;
      return { from, to };
    });
  });

describe("beats", () => {
  it.each(["even", "eased"] as const)("are hit within a millionth of a frame, and time never runs back between them: %s (property)", (between) => {
    fc.assert(
      fc.property(beatList, fc.double({ min: 0, max: 4, noNaN: true }), (beats, behind) => {
        const seconds = beats[beats.length - 1].from + behind;
        const warp = beatWarp(beats, between, 1, seconds);
        for (const { from, to } of beats) expect(Math.abs(inputAt(warp, to) - from) * FPS).toBeLessThan(1e-6);
        expect(inputAt(warp, warp.seconds)).toBeCloseTo(seconds, 9);
        let before = -1;
        for (let k = 0; k <= 400; k++) {
          const m = inputAt(warp, (k / 400) * warp.seconds);
          expect(m).toBeGreaterThanOrEqual(before - 1e-9);
          before = m;
          const back = outputsAt(warp, m);
          expect(back.length).toBeGreaterThan(0);
        }
      }),
      { numRuns: 60 },
    );
  });

  it("that stand where they were change nothing at all", () => {
    expect(isIdentity(beatWarp([at(0.5, 0.5), at(1.2, 1.2), at(2, 2)], "eased", 3, 4))).toBe(true);
    expect(isIdentity(beatWarp([], "even", 1, 4))).toBe(true);
  });

  it("leave the motion its own speed before the first and behind the last", () => {
    const warp = beatWarp([at(1, 1), at(2, 3)], "even", 1, 4);
    expect(warp.seconds).toBeCloseTo(5, 12);
    expect(inputAt(warp, 0.4)).toBeCloseTo(0.4, 12);
    expect(inputAt(warp, 2)).toBeCloseTo(1.5, 12);
    expect(inputAt(warp, 4.5)).toBeCloseTo(3.5, 12);
    // The first pose is held where a single beat comes later than what lies before it.
    const late = beatWarp([at(0.5, 1)], "even", 1, 2);
    expect(inputAt(late, 0.25)).toBe(0);
    expect(inputAt(late, 0.75)).toBeCloseTo(0.25, 12);
    expect(late.seconds).toBeCloseTo(2.5, 12);
    // What is cut off in front is not shown.
    expect(outputsAt(beatWarp([at(1, 0.25)], "even", 1, 2), 0.5)).toEqual([]);
  });

  it("give way to a speed where there are none", () => {
    const warp = beatWarp([], "eased", 2, 4);
    expect(warp.seconds).toBe(2);
    expect(inputAt(warp, 0.7)).toBeCloseTo(1.4, 12);
  });

  it("outside the motion take no part", () => {
    expect(isIdentity(beatWarp([at(-0.5, 0.2), at(9, 12)], "even", 1, 4))).toBe(true);
  });

  it("that run backwards are told", () => {
    expect(beatProblem([at(0, 0), at(2, 1), at(1, 2)])).toMatchObject({ index: 2 });
    expect(beatProblem([at(0, 0), at(1, 1), at(2, 1)])).toMatchObject({ index: 2 });
    expect(beatProblem([at(0, 0), at(1, 1)])).toBeNull();
  });
});

describe("editing beats", () => {
  const beats = [at(0, 0), at(1, 1), at(2, 2), at(3, 3, true), at(4, 4)];

  it("moves one between its neighbours, with those behind it up to a locked one, and never a locked one", () => {
    expect(withMovedBeat(beats, 1, 1.4)[1].to).toBeCloseTo(1.4);
    expect(withMovedBeat(beats, 1, 5)[1].to).toBeLessThan(2);
    expect(withMovedBeat(beats, 1, 1.4, true).map((b) => b.to)).toEqual([0, 1.4, 2.4, 3, 4]);
    expect(withMovedBeat(beats, 3, 3.5)).toEqual(beats);
    expect(withMovedBeat(beats, 4, 6)[4].to).toBe(6);
  });

  it("types a stretch's length, and tells its speed", () => {
    const typed = withStretchLength(beats, 0, 0.5);
    expect(typed.map((b) => b.to)).toEqual([0, 0.5, 1.5, 3, 4]);
    expect(stretchSpeeds(typed)).toEqual([2, 1, 1 / 1.5, 1]);
  });

  it("drops one in its place, once", () => {
    expect(withBeat(beats, 1.5, 1.5)).toHaveLength(6);
    expect(withBeat(beats, 1.5, 1.5)[2]).toEqual({ from: 1.5, to: 1.5 });
    expect(withBeat(beats, 1, 1)).toEqual(beats);
  });

  it("holds a moment longer, drifting on slowly, or frozen when asked", () => {
    const held = withHold([at(0, 0), at(4, 4)], 2, 1, false, 4, (m) => m);
    const warp = beatWarp(held, "even", 1, 4);
    expect(warp.seconds).toBeCloseTo(5, 9);
    const drift = inputAt(warp, 2.9) - inputAt(warp, 2.1);
    expect(drift).toBeGreaterThan(0.02);
    expect(drift).toBeLessThan(0.1);
    const frozen = beatWarp(
      withHold([at(0, 0), at(4, 4)], 2, 1, true, 4, (m) => m),
      "even",
      1,
      4,
    );
    expect(inputAt(frozen, 2.9)).toBe(inputAt(frozen, 2.1));
    expect(frozen.seconds).toBeCloseTo(5, 9);
  });

  it("holds in order wherever it stands among beats, fast or slow around it (property)", () => {
    fc.assert(
      fc.property(beatList, fc.double({ min: 0, max: 1, noNaN: true }), fc.boolean(), (list, share, frozen) => {
        const beats = [at(0, 0), ...list];
        const length = beats[beats.length - 1].from;
        const before = beatWarp(beats, "eased", 1, length);
        const from = share * length;
        const held = withHold(beats, from, 0.5, frozen, length, (m) => outputsAt(before, m)[0]);
        expect(beatProblem(held)).toBeNull();
        expect(beatWarp(held, "eased", 1, length).seconds).toBeCloseTo(before.seconds + 0.5, 6);
        const cut = withTakenOut(beats, from, outputsAt(before, from)[0], 0.2, 0.6, (m) => inputAt(before, m));
        expect(beatProblem(cut)).toBeNull();
      }),
      { numRuns: 400 },
    );
  });

  it("takes time out of the stretch before a moment: it plays faster there, what is behind comes sooner", () => {
    const before = beatWarp([at(0, 0), at(4, 4)], "even", 1, 4);
    const beats = withTakenOut([at(0, 0), at(4, 4)], 2, 2, 0.2, 0.5, (m) => inputAt(before, m));
    const warp = beatWarp(beats, "even", 1, 4);
    expect(warp.seconds).toBeCloseTo(3.8, 9);
    expect(inputAt(warp, 1.5)).toBeCloseTo(1.5, 9);
    expect(inputAt(warp, 1.8)).toBeCloseTo(2, 9);
    expect(inputAt(warp, 2.8)).toBeCloseTo(3, 9);
  });

  it("makes a stretch even by taking out what lies inside it", () => {
    expect(madeEven(beats, 0, 3)).toEqual([at(0, 0), at(3, 3, true), at(4, 4)]);
  });
});
