import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { quinticHermite, quinticStep, RAMP_SHAPES, rangeWeight } from "./ramp.ts";

const share = fc.double({ min: 0, max: 1, noNaN: true });

describe("ramps", () => {
  it("run from nothing to all without turning back, whatever their shape (property)", () => {
    fc.assert(
      fc.property(fc.constantFrom(...RAMP_SHAPES), share, share, (shape, a, b) => {
        const [low, high] = [Math.min(a, b), Math.max(a, b)];
        const at = (t: number) => rangeWeight(10 + 6 * t, 16, 20, 6, 6, shape);
        expect(at(low)).toBeLessThanOrEqual(at(high) + 1e-12);
        expect(at(low)).toBeGreaterThanOrEqual(0);
        expect(at(high)).toBeLessThanOrEqual(1);
        // In and out are mirror images.
        expect(rangeWeight(20 + 6 * (1 - low), 16, 20, 6, 6, shape)).toBeCloseTo(at(low), 9);
      }),
    );
  });

  it("are all within the range, nothing beyond the ramps, and hard edges without them", () => {
    for (const shape of RAMP_SHAPES) {
      for (const f of [16, 18, 20]) expect(rangeWeight(f, 16, 20, 6, 3, shape)).toBe(1);
      for (const f of [10, 9, 23, 40]) expect(rangeWeight(f, 16, 20, 6, 3, shape)).toBe(0);
      expect([15, 16, 20, 21].map((f) => rangeWeight(f, 16, 20, 0, 0, shape))).toEqual([0, 1, 1, 0]);
    }
    expect(rangeWeight(13, 16, 20, 6, 6, "smooth")).toBeCloseTo(0.5, 12);
    expect(rangeWeight(13, 16, 20, 6, 6, "early")).toBeGreaterThan(0.5);
    expect(rangeWeight(13, 16, 20, 6, 6, "late")).toBeLessThan(0.5);
    expect(rangeWeight(11.5, 16, 20, 6, 6, "straight")).toBeCloseTo(0.25, 12);
  });

  it("by the quintic meet both ends with their values and slopes, and no acceleration (textbook basis)", () => {
    const h = 1e-4;
    fc.assert(
      fc.property(
        ...(Array.from({ length: 4 }, () => fc.double({ min: -5, max: 5, noNaN: true })) as [
          fc.Arbitrary<number>,
          fc.Arbitrary<number>,
          fc.Arbitrary<number>,
          fc.Arbitrary<number>,
        ]),
        (p0, m0, p1, m1) => {
          const at = (t: number) => quinticHermite(p0, m0, p1, m1, t);
          expect(at(0)).toBeCloseTo(p0, 9);
          expect(at(1)).toBeCloseTo(p1, 9);
          expect((at(h) - at(0)) / h).toBeCloseTo(m0, 3);
          expect((at(1) - at(1 - h)) / h).toBeCloseTo(m1, 3);
          expect((at(2 * h) - 2 * at(h) + at(0)) / (h * h)).toBeLessThan(0.5);
        },
      ),
    );
    expect(quinticStep(0.5)).toBe(0.5);
  });
});
