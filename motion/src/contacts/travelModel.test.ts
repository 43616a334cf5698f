import { describe, expect, it } from "vitest";
import { normalNumbers } from "../testing/noise.ts";
import type { SpanEvidence } from "./travelEvidence.ts";
import { fitTravel } from "./travelModel.ts";

const LENGTH = 20;
const COUNT = 16;

/** A stand: what it moves by, what the body goes by, and how exactly that is known each way, (m/s)². */
function span(i: number, moves: readonly [number, number], variance: number, trembles = true, body: readonly [number, number] = [0, 1.3]): SpanEvidence {
  const velocity = Float64Array.from({ length: LENGTH * 2 }, (_, k) => moves[k & 1]);
  return { start: i * LENGTH, length: LENGTH, velocity, weights: new Float64Array(LENGTH).fill(1), moves, body, sure: [1, 0, 1], variance, trembles };
}

/** Of stands between which nothing happens, and the body at each stand's own even pace. */
function fitted(stands: readonly SpanEvidence[], sought?: boolean) {
  const root = Float64Array.from({ length: COUNT * LENGTH * 2 }, (_, k) => stands[Math.floor(k / (2 * LENGTH))].body[k & 1]);
  return fitTravel(stands, root, sought);
}

const spans = (make: (i: number) => SpanEvidence) => Array.from({ length: COUNT }, (_, i) => make(i));
const rms = (values: readonly number[]) => Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length);

describe("a wrong travel, fitted", () => {
  it("is what stands agree on, and the drift across it", () => {
    const { share, drift, own } = fitted(spans((i) => span(i, [0.04, 0.1 * 1.3], 1e-8)));
    expect(share).toBeCloseTo(0.1, 2);
    expect(drift[0]).toBeCloseTo(0.04, 3);
    expect(own).toBe(0);
  });

  it("goes by the surer of trembling stands: ten times better with half of them known ten times as well", () => {
    const off = (known: boolean) =>
      rms(
        Array.from({ length: 40 }, (_, seed) => {
          const random = normalNumbers(100 + seed);
          const sd = (i: number) => (known && i % 2 ? 0.004 : 0.04);
          const { share } = fitted(spans((i) => span(i, [sd(i) * random(), 0.13 * 1.3 + sd(i) * random()], sd(i) ** 2)));
          return share - 0.13;
        }),
      );
    // Eight stands of 4 mm/s over 1.3 m/s show it to 0.0011.
    expect(off(true)).toBeLessThan(0.0016);
    expect(off(false)).toBeGreaterThan(5 * off(true));
  });

  it("is all the share's where no drift is believed, though a steady pace cannot tell the two apart", () => {
    const offs = Array.from({ length: 40 }, (_, seed) => {
      const random = normalNumbers(300 + seed);
      const sd = 0.01;
      // The feet's tracks go to and fro across the way: a drift can hide in that.
      const { share, drift } = fitted(spans((i) => span(i, [sd * random(), 0.08 * 1.3 + sd * random()], sd ** 2, true, [i % 2 ? 0.04 : -0.04, 1.3])));
      return share + drift[1] / 1.3 - 0.08;
    });
    const mean = offs.reduce((a, b) => a + b, 0) / offs.length;
    // One stand shows it to 0.0077, sixteen to 0.0019; on the whole nothing is missing.
    expect(rms(offs)).toBeLessThan(0.0026);
    expect(Math.abs(mean)).toBeLessThan(0.0009);
  });

  it("is believed with more reserve of stands that are still sought: what they differ by may all be of the swing", () => {
    const mean = (sought: boolean) =>
      Array.from({ length: 40 }, (_, seed) => {
        const random = normalNumbers(500 + seed);
        return fitted(
          spans((i) => span(i, [0.03 * random(), 0.03 * 1.3 + 0.03 * random()], 0.03 ** 2)),
          sought,
        ).share;
      }).reduce((sum, v) => sum + v / 40, 0);
    expect(mean(false)).toBeGreaterThan(0.02);
    expect(mean(false)).toBeLessThan(0.031);
    expect(mean(true)).toBeLessThan(0.6 * mean(false));
  });

  it("tells what stands move by of their own from what only trembling makes of them", () => {
    const own = (creeps: number) => {
      const random = normalNumbers(11);
      return fitted(spans((i) => span(i, [0.01 * random() + creeps * random(), 0.01 * random() + creeps * random()], 0.01 ** 2))).own;
    };
    expect(own(0)).toBeLessThan(0.006 ** 2);
    expect(Math.sqrt(own(0.05))).toBeGreaterThan(0.03);
    expect(Math.sqrt(own(0.05))).toBeLessThan(0.07);
  });

  describe("of a body that sways as it goes, at 1.3 m/s", () => {
    const sway = (f: number) => 0.06 * Math.sin(0.21 * f);
    const shake = (f: number) => 0.06 * Math.sin(2.5 * f);
    /** Stands on which parts move so at each frame. */
    const seen = (at: (f: number, axis: number) => number, aside = sway) => {
      const root = Float64Array.from({ length: COUNT * LENGTH * 2 }, (_, k) => (k & 1 ? 1.3 : aside(k >> 1)));
      return fitTravel(
        spans((i) => {
          const velocity = Float64Array.from({ length: LENGTH * 2 }, (_, k) => at(i * LENGTH + (k >> 1), k & 1));
          const mean = (of: Float64Array, axis: number) => of.filter((_, k) => (k & 1) === axis).reduce((sum, v) => sum + v / LENGTH, 0);
          const body = root.subarray(i * LENGTH * 2, (i + 1) * LENGTH * 2);
          const one = span(i, [mean(velocity, 0), mean(velocity, 1)], 1e-8, false, [mean(body, 0), mean(body, 1)]);
          return { ...one, velocity };
        }),
        root,
      );
    };

    it("is a share of all its ways where parts sway by as much of its sway", () => {
      const { share, drift } = seen((f, axis) => 0.15 * (axis ? 1.3 : sway(f)));
      expect(share).toBeCloseTo(0.15, 3);
      expect(Math.hypot(...drift)).toBeLessThan(0.002);
    });

    it("is the same at every moment where they do not sway at all, however large it is", () => {
      for (const part of [-0.2, -0.1, 0.1, 0.2]) {
        const { share, drift } = seen((_, axis) => (axis ? part * 1.3 : 0));
        expect(Math.abs(share), `${part}`).toBeLessThan(0.004);
        expect(drift[1], `${part}`).toBeCloseTo(part * 1.3, 2);
      }
    });

    it("is none where it shakes, and they with it", () => {
      const { share, drift } = seen((f, axis) => (axis ? 0 : shake(f)), shake);
      expect(Math.abs(share)).toBeLessThan(0.02);
      expect(Math.hypot(...drift)).toBeLessThan(0.02);
    });
  });

  it("is none of no stand", () => {
    expect(fitTravel([], new Float64Array(8))).toEqual({ share: 0, drift: [0, 0], own: 0 });
  });
});
