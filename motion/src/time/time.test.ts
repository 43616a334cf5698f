import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { intoPatch, intoSource, momentsBetween, outOfPatch, outOfSource, spansBetween } from "./moments.ts";
import { composeWarps, cropWarp, frameOf, framesIn, identityWarp, inputAt, isIdentity, outputSpans, outputsAt, type TimeWarp } from "./warp.ts";

/** Twice the stretch 1–2 of a motion of three seconds, then the rest at half speed. */
const twice: TimeWarp = {
  seconds: 4,
  pieces: [
    { outStart: 0, outEnd: 1, inStart: 1, inEnd: 2 },
    { outStart: 1, outEnd: 2, inStart: 1, inEnd: 2 },
    { outStart: 2, outEnd: 4, inStart: 2, inEnd: 3 },
  ],
};

describe("a time warp", () => {
  it("says which moment beneath is shown, and where a moment is shown: never, once or several times", () => {
    expect(inputAt(twice, 0.25)).toBe(1.25);
    expect(inputAt(twice, 1.25)).toBe(1.25);
    expect(inputAt(twice, 3)).toBe(2.5);
    expect(outputsAt(twice, 0.5)).toEqual([]);
    expect(outputsAt(twice, 1.25)).toEqual([0.25, 1.25]);
    expect(outputsAt(twice, 2)).toEqual([1, 2]);
    expect(outputSpans(twice, 1.5, 2.5)).toEqual([
      [0.5, 1],
      [1.5, 3],
    ]);
    expect(outputSpans(twice, 0, 0.5)).toEqual([]);
    expect(outputSpans(cropWarp(1, 2), 0.5, 1.5)).toEqual([[0, 0.5]]);
  });

  it("that cuts the end alone still cuts what lies beneath it", () => {
    const cut = composeWarps(cropWarp(0, 1.5), twice);
    expect(cut.seconds).toBe(1.5);
    expect(outputsAt(cut, 1.25)).toEqual([0.25, 1.25]);
    expect(outputsAt(cut, 1.75)).toEqual([0.75]);
    expect(outputSpans(cut, 2.5, 3)).toEqual([]);
  });

  it("runs backwards, and holds a moment", () => {
    const back: TimeWarp = { seconds: 2, pieces: [{ outStart: 0, outEnd: 2, inStart: 2, inEnd: 0 }] };
    expect(inputAt(back, 0.5)).toBe(1.5);
    expect(outputsAt(back, 1.5)).toEqual([0.5]);
    expect(outputSpans(back, 0.5, 1)).toEqual([[1, 1.5]]);
    const held: TimeWarp = { seconds: 1, pieces: [{ outStart: 0, outEnd: 1, inStart: 0.5, inEnd: 0.5 }] };
    expect(inputAt(held, 0.7)).toBe(0.5);
    expect(outputSpans(held, 0.4, 0.6)).toEqual([[0, 1]]);
  });

  const warp = fc
    .array(fc.record({ length: fc.integer({ min: 1, max: 12 }), from: fc.integer({ min: 0, max: 20 }), shows: fc.integer({ min: 1, max: 12 }) }), {
      minLength: 1,
      maxLength: 5,
    })
    .map((list): TimeWarp => {
      let at = 0;
      const pieces = list.map(({ length, from, shows }) => {
        const piece = { outStart: at / 4, outEnd: (at + length) / 4, inStart: from / 4, inEnd: (from + shows) / 4 };
        at += length;
        return piece;
      });
      return { seconds: at / 4, pieces };
    });

  it("and its inverse agree, whatever the pieces (property)", () => {
    fc.assert(
      fc.property(warp, fc.double({ min: 0, max: 1, noNaN: true }), (w, share) => {
        const out = share * w.seconds;
        const shown = inputAt(w, out);
        const back = outputsAt(w, shown);
        expect(Math.min(...back.map((m) => Math.abs(m - out)))).toBeLessThan(1e-6);
        // At a seam either side may be shown.
        for (const m of back) expect(Math.min(...[-1e-9, 0, 1e-9].map((by) => Math.abs(inputAt(w, m + by) - shown)))).toBeLessThan(1e-6);
      }),
    );
  });

  it("composed with another shows what the two show one after the other (property)", () => {
    const onto: TimeWarp = twice;
    fc.assert(
      fc.property(warp, fc.double({ min: 0.001, max: 0.999, noNaN: true }), (w, share) => {
        const inside = { seconds: w.seconds, pieces: w.pieces.map((p) => ({ ...p, inStart: Math.min(4, p.inStart), inEnd: Math.min(4, p.inEnd) })) };
        const both = composeWarps(inside, onto);
        const out = share * w.seconds;
        // At a seam either side may be shown.
        const wanted = [out - 1e-9, out, out + 1e-9].map((m) => inputAt(onto, inputAt(inside, m)));
        expect(Math.min(...wanted.map((m) => Math.abs(m - inputAt(both, out))))).toBeLessThan(1e-6);
      }),
      { numRuns: 300 },
    );
    expect(isIdentity(composeWarps(identityWarp(2), identityWarp(2)))).toBe(true);
  });

  it("counts frames: the last is the last that lies inside; near a whole frame is a whole frame", () => {
    expect(framesIn(1, 30)).toBe(31);
    expect(framesIn(0.999, 30)).toBe(30);
    expect(frameOf(0.1 + 0.2, 10)).toBe(3);
    expect(frameOf(0.35, 30)).toBeCloseTo(10.5, 9);
  });
});

describe("the clocks of a stack", () => {
  // A trim, an edit, the loop above, and one more edit.
  const clocks = {
    fps: 30,
    seconds: 10,
    warps: [cropWarp(2, 5), identityWarp(3), twice, identityWarp(4)],
    receives: { trim: 0, edit: 1, loop: 2, top: 3, muted: 3 },
  };

  it("lead from any stage to any other, both ways", () => {
    expect(momentsBetween(clocks, 4, 0, 0.25)).toEqual([3.25]);
    expect(momentsBetween(clocks, 0, 4, 3.25)).toEqual([0.25, 1.25]);
    expect(momentsBetween(clocks, 0, 4, 1)).toEqual([]);
    expect(momentsBetween(clocks, 1, 2, 0.7)).toEqual([0.7]);
    expect(intoSource(clocks, 3)).toBe(4.5);
    expect(outOfSource(clocks, 4.5)).toEqual([3]);
    expect(spansBetween(clocks, 0, 4, 3.5, 4.5)).toEqual([
      [0.5, 1],
      [1.5, 3],
    ]);
    expect(spansBetween(clocks, 4, 0, 0.5, 0.75)).toEqual([[3.5, 3.75]]);
  });

  it("say where a moment of the result is written in a patch, and where a patch's moment is shown", () => {
    expect(intoPatch(clocks, "edit", 1.5)).toBe(1.5);
    expect(intoPatch(clocks, "edit", 0.5)).toBe(1.5);
    expect(intoPatch(clocks, "trim", 0.5)).toBe(3.5);
    expect(intoPatch(clocks, "top", 0.5)).toBe(0.5);
    expect(intoPatch(clocks, null, 0.5)).toBe(0.5);
    expect(outOfPatch(clocks, "edit", 1.5)).toEqual([0.5, 1.5]);
    expect(outOfPatch(clocks, "trim", 0.5)).toEqual([]);
  });
});
