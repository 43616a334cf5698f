import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { lowPass, runningMax, runningMean, savitzkyGolay, smoothEnvelope } from "./filters.ts";
import { popSpikes } from "./pops.ts";
import { noiseLevel } from "./robust.ts";

describe("Savitzky–Golay", () => {
  it("has the published weights (Analytical Chemistry 36, 1964): 5 and 7 points, quadratic", () => {
    expect(Array.from(savitzkyGolay(2, 2), (w) => Math.round(w * 35))).toEqual([-3, 12, 17, 12, -3]);
    expect(Array.from(savitzkyGolay(3, 3), (w) => Math.round(w * 21))).toEqual([-2, 3, 6, 7, 6, 3, -2]);
    expect(savitzkyGolay(3, 3).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
  });

  it("keeps any parabola to the very ends, where it has neighbours on one side alone, and calms noise there too", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 9 }),
        fc.integer({ min: 0, max: 9 }),
        fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 3, maxLength: 3 }),
        (before, after, [a, b, c]) => {
          const weights = savitzkyGolay(before, after);
          expect(weights.length).toBe(before + after + 1);
          const value = weights.reduce((sum, w, k) => sum + w * (a + b * (k - before) + c * (k - before) ** 2), 0);
          expect(value).toBeCloseTo(a, 8);
        },
      ),
    );
    // Variance of the value at the end of a least-squares parabola: 3(3n² − 3n + 2) / (n(n + 1)(n + 2)).
    const n = 11;
    expect(savitzkyGolay(0, n - 1).reduce((sum, w) => sum + w * w, 0)).toBeCloseTo((3 * (3 * n * n - 3 * n + 2)) / (n * (n + 1) * (n + 2)), 10);
  });
});

describe("low-pass (Winter: second-order Butterworth, both ways, cut-off corrected by 0.802; memory)", () => {
  const amplitude = (hz: number, cutoff: number) => {
    const fps = 240;
    const wave = Float64Array.from({ length: 2400 }, (_, i) => Math.sin((2 * Math.PI * hz * i) / fps));
    const out = lowPass(wave, wave.length, 0, 1, fps, cutoff);
    let top = 0;
    for (let i = 600; i < 1800; i++) top = Math.max(top, Math.abs(out[i]));
    return { out, top };
  };
  it("is −3 dB at its cut-off after both passes", () => {
    expect(20 * Math.log10(amplitude(6, 6).top)).toBeCloseTo(-3, 0);
    expect(amplitude(1, 6).top).toBeGreaterThan(0.99);
    expect(amplitude(30, 6).top).toBeLessThan(0.02);
  });
  it("shifts nothing in time: a wave's zero stays where it was", () => {
    const { out } = amplitude(3, 6);
    // 3 Hz at 240 fps crosses zero every 40 samples.
    for (const i of [800, 840, 1000]) expect(Math.abs(out[i])).toBeLessThan(1e-3);
  });
});

describe("running windows", () => {
  it("agree with the plain way of computing them", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -9, max: 9, noNaN: true }), { minLength: 1, maxLength: 60 }), fc.integer({ min: 0, max: 9 }), (values, half) => {
        const window = (i: number) => values.slice(Math.max(0, i - half), i + half + 1);
        values.forEach((_, i) => {
          expect(runningMax(values, half)[i]).toBe(Math.max(...window(i)));
          expect(runningMean(values, half)[i]).toBeCloseTo(window(i).reduce((a, b) => a + b, 0) / window(i).length, 9);
        });
      }),
    );
  });
  it("an envelope is never below what it covers", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 5, maxLength: 80 }), fc.integer({ min: 1, max: 8 }), (values, half) => {
        const cover = smoothEnvelope(values, half);
        values.forEach((v, i) => expect(cover[i]).toBeGreaterThanOrEqual(v - 1e-9));
      }),
    );
  });
});

it("noise level reads the deviation of white noise and nothing of a slow wave", () => {
  let seed = 1;
  const random = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647;
  };
  const wave = Float64Array.from({ length: 4000 }, (_, i) => 3 * Math.sin(i / 60));
  const noisy = wave.map((v) => v + 0.02 * Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random()));
  expect(noiseLevel(wave)).toBeLessThan(0.0005);
  expect(noiseLevel(noisy)).toBeGreaterThan(0.016);
  expect(noiseLevel(noisy)).toBeLessThan(0.024);
});

it("a one-frame jump is one spike; a quick swing is none", () => {
  const turn = (angles: number[]) => Float64Array.from(angles.flatMap((a) => [0, 0, Math.sin(a / 2), Math.cos(a / 2)]));
  const swing = Array.from({ length: 60 }, (_, i) => Math.sin(i / 5));
  expect(popSpikes(turn(swing), 60, 0.05)).toEqual([]);
  expect(popSpikes(turn(swing.map((a, i) => (i === 30 ? a + 0.5 : a))), 60, 0.05)).toEqual([30]);
});
