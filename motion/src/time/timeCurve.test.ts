import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hermite, hermiteInverse, monotoneSlopes } from "./timeCurve.ts";

/** Fritsch & Carlson, SIAM J. Numer. Anal. 17 (1980): the data set of their paper (written from memory). */
const X = [7.99, 8.09, 8.19, 8.7, 9.2, 10, 12, 15, 20];
const Y = [0, 2.76429e-5, 4.37498e-2, 0.169183, 0.469428, 0.94374, 0.998636, 0.999919, 0.999994];

function curve(x: readonly number[], y: readonly number[], slopes: ArrayLike<number>) {
  return (i: number, t: number) =>
    hermite({ outStart: x[i], outEnd: x[i + 1], inStart: y[i], inEnd: y[i + 1] }, [slopes[i], slopes[i + 1]], x[i] + t * (x[i + 1] - x[i]));
}

describe("a time curve", () => {
  it("never reverses on the data of Fritsch and Carlson, and goes through every point", () => {
    const value = curve(X, Y, monotoneSlopes(X, Y, 0));
    let before = 0;
    for (let i = 0; i + 1 < X.length; i++) {
      expect(value(i, 0)).toBe(Y[i]);
      expect(value(i, 1)).toBe(Y[i + 1]);
      for (let k = 0; k <= 100; k++) {
        const v = value(i, k / 100);
        expect(v).toBeGreaterThanOrEqual(before - 1e-15);
        before = v;
      }
    }
  });

  it("has the slope of the straight line where all points lie on one, and is flat where nothing rises", () => {
    expect([...monotoneSlopes([0, 1, 3], [0, 2, 6], 2)].map((m) => Math.round(m * 1e9) / 1e9)).toEqual([2, 2, 2]);
    expect([...monotoneSlopes([0, 1, 2], [0, 0, 1], 1)]).toEqual([0, 0, 1]);
  });

  const knots = fc
    .array(fc.tuple(fc.double({ min: 0.01, max: 3, noNaN: true }), fc.double({ min: 0, max: 3, noNaN: true })), { minLength: 2, maxLength: 12 })
    .map((steps) => {
      const [x, y] = [[0], [0]];
      for (const [dx, dy] of steps) {
        x.push(x[x.length - 1] + dx);
        y.push(y[y.length - 1] + dy);
      }
      return { x, y };
    });

  it("rises through any rising points, and its inverse leads back (property)", () => {
    fc.assert(
      fc.property(knots, fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 3, noNaN: true }), ({ x, y }, t, outside) => {
        const slopes = monotoneSlopes(x, y, outside);
        const value = curve(x, y, slopes);
        for (let i = 0; i + 1 < x.length; i++) {
          expect(value(i, t)).toBeGreaterThanOrEqual(y[i] - 1e-12);
          expect(value(i, t)).toBeLessThanOrEqual(y[i + 1] + 1e-12);
          expect(value(i, Math.min(1, t + 0.01))).toBeGreaterThanOrEqual(value(i, t) - 1e-12);
          const stretch = { outStart: x[i], outEnd: x[i + 1], inStart: y[i], inEnd: y[i + 1] };
          const v = value(i, t);
          expect(hermite(stretch, [slopes[i], slopes[i + 1]], hermiteInverse(stretch, [slopes[i], slopes[i + 1]], v))).toBeCloseTo(v, 9);
        }
      }),
    );
  });
});
