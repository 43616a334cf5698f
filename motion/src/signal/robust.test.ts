import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { positionSpikes } from "./positionSpikes.ts";
import { median, noiseLevel, quantile, quantileMutable, solve3 } from "./robust.ts";

const value = fc.double({ min: -1000, max: 1000, noNaN: true });

/** A fixed sequence of normal deviates (Box–Muller over a linear congruence), so that runs agree. */
function normal(count: number): number[] {
  let seed = 7;
  const next = () => {
    seed = (seed * 1664525 + 1013904223) % 4294967296;
    return (seed + 0.5) / 4294967296;
  };
  return Array.from({ length: count }, () => Math.sqrt(-2 * Math.log(next())) * Math.cos(2 * Math.PI * next()));
}

describe("robust figures", () => {
  it("quantiles are those of the sorted values, whatever their order and however many are alike (property)", () => {
    const many = fc.array(fc.oneof(value, fc.integer({ min: 0, max: 3 })), { minLength: 1, maxLength: 400 });
    fc.assert(
      fc.property(many, fc.double({ min: 0, max: 1, noNaN: true }), (values, share) => {
        const sorted = [...values].sort((a, b) => a - b);
        const at = share * (sorted.length - 1);
        const low = Math.floor(at);
        const expected = sorted[low] + (at - low) * ((sorted[low + 1] ?? sorted[low]) - sorted[low]);
        // (+0 and −0 are the same value)
        expect(quantile(values, share) === expected).toBe(true);
        const mixed = Float64Array.from(values);
        expect(quantileMutable(mixed, share) === expected).toBe(true);
        expect([...mixed].sort((a, b) => a - b).every((v, i) => v === sorted[i])).toBe(true);
      }),
      { numRuns: 300 },
    );
  });

  it("quantiles lie among the values, in their order, and leave them alone (property)", () => {
    fc.assert(
      fc.property(fc.array(value, { minLength: 1, maxLength: 50 }), fc.double({ min: 0, max: 1, noNaN: true }), (values, share) => {
        const copy = [...values];
        const q = quantile(values, share);
        expect(values).toEqual(copy);
        expect(q).toBeGreaterThanOrEqual(Math.min(...values));
        expect(q).toBeLessThanOrEqual(Math.max(...values));
        expect(values.filter((v) => v <= q).length).toBeGreaterThanOrEqual(Math.floor(share * (values.length - 1)));
      }),
    );
    expect([quantile([3, 1, 2], 0), quantile([3, 1, 2], 0.75), median([4, 1])]).toEqual([1, 2.5, 2.5]);
    expect(quantile([], 0.5)).toBeNaN();
  });

  it("noise is read off a moving signal, and leaps do not count", () => {
    const noise = normal(2000);
    const moving = noise.map((v, i) => 40 * Math.sin(i / 30) + 0.3 * v);
    expect(noiseLevel(moving)).toBeGreaterThan(0.27);
    expect(noiseLevel(moving)).toBeLessThan(0.33);
    for (let i = 0; i < moving.length; i += 50) moving[i] += 100;
    expect(noiseLevel(moving)).toBeLessThan(0.35);
    expect(noiseLevel(Array.from({ length: 100 }, (_, i) => i * i))).toBeLessThan(2);
    expect(noiseLevel([1, 2])).toBe(0);
  });

  it("three equations are solved, or told to be none (property)", () => {
    fc.assert(
      fc.property(fc.array(value, { minLength: 9, maxLength: 9 }), fc.tuple(value, value, value), (raw, x) => {
        // AᵀA + 1 is symmetric and positive.
        const a = [0, 1, 2].flatMap((r) =>
          [0, 1, 2].map((c) => [0, 1, 2].reduce((sum, k) => sum + (raw[k * 3 + r] / 100) * (raw[k * 3 + c] / 100), r === c ? 1 : 0)),
        );
        const b = [0, 1, 2].map((r) => [0, 1, 2].reduce((sum, c) => sum + a[r * 3 + c] * x[c], 0));
        const solved = solve3(a, b);
        for (let i = 0; i < 3; i++) expect(solved?.[i]).toBeCloseTo(x[i], 4);
      }),
    );
    expect(solve3([1, 2, 3, 2, 4, 6, 3, 6, 9], [1, 2, 3])).toBeUndefined();
  });
});

describe("leaps of a position", () => {
  const course = (frames: number, at: (f: number) => number[]) => Float64Array.from({ length: frames * 3 }, (_, i) => at(Math.floor(i / 3))[i % 3]);
  const smooth = (f: number) => [0.03 * f, 1 + 0.05 * Math.sin(f / 4), 0];

  it("are told once, at their frame, with their size: away and back, or a step that stays", () => {
    const away = course(90, (f) => smooth(f).map((v, i) => v + (f === 40 && i === 1 ? 0.15 : 0)));
    expect(positionSpikes(away, 90, 0.03).map((s) => [s.frame, Math.round(s.size * 100)])).toEqual([[40, 15]]);
    const step = course(90, (f) => smooth(f).map((v, i) => v + (f >= 60 && i === 2 ? 0.2 : 0)));
    const [found, ...more] = positionSpikes(step, 90, 0.03);
    expect(more).toEqual([]);
    expect([59, 60]).toContain(found.frame);
    expect(found.size).toBeCloseTo(0.2, 2);
  });

  it("are not seen in quick but smooth movement, nor in tremor that is everywhere", () => {
    expect(positionSpikes(course(90, smooth), 90, 0.01)).toEqual([]);
    // A landing: two metres a second, stopped within five frames.
    const landing = course(90, (f) => [0, f < 40 ? 3 - 0.066 * f : f < 45 ? 3 - 0.066 * 40 - 0.066 * (f - 40) * (1 - (f - 40) / 10) : 3 - 0.066 * 42.5, 0]);
    expect(positionSpikes(landing, 90, 0.03)).toEqual([]);
    const noise = normal(270);
    expect(
      positionSpikes(
        course(90, (f) => smooth(f).map((v, i) => v + 0.02 * noise[f * 3 + i])),
        90,
        0.03,
      ).length,
    ).toBeLessThanOrEqual(1);
  });
});
