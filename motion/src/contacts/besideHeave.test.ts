import { describe, expect, it } from "vitest";
import { normalNumbers } from "../testing/noise.ts";
import { type BesideHeave, solveBesideHeave } from "./besideHeave.ts";

const SIZE = 0.006;

/**
 * Two parts that rest in turn for `down` frames of `of`, each at a height of its own (0 and 4 mm), heaved by `heave`: equations of their two heights, seen to within `sigma`.
 */
function turns(
  frames: number,
  fps: number,
  heave: (seconds: number) => number,
  down: number,
  of: number,
  sigma = 0.0002,
  random: () => number = () => 0,
): BesideHeave {
  const [sums, total] = [new Float64Array(frames * 3), new Float64Array(frames)];
  const [a, b] = [new Float64Array(4), new Float64Array(2)];
  const w = 1 / sigma ** 2;
  for (let f = 0; f < frames; f++) {
    if (f % of >= down) continue;
    const part = Math.floor(f / of) % 2;
    const height = 0.004 * part + heave(f / fps) + sigma * random();
    sums[f * 3 + part] = w;
    sums[f * 3 + 2] = w * height;
    total[f] = w;
    a[part * 3] += w;
    b[part] += w * height;
  }
  a[0] += 1 / 0.005 ** 2;
  a[3] += 1 / 0.005 ** 2;
  return { a, b, sums, total, fps };
}

const spread = (values: Float64Array) => Math.max(...values) - Math.min(...values);

describe("heights beside what heaves a body", () => {
  it.each([
    [60, 0.008, 1.7],
    [25, 0.008, 1.7],
    [30, 0.012, 3],
    [24, 0.004, 0.8],
  ])("are told apart at %d frames a second from a bob of %d m at %d Hz, with no frame on which both rest", (fps, size, rate) => {
    const bob = (t: number) => size * Math.sin(2 * Math.PI * rate * t + 0.7);
    const given = turns(Math.round(4.5 * fps), fps, bob, Math.round(0.42 * fps), Math.round(0.5 * fps));
    const { solution, heave } = solveBesideHeave(given, SIZE) as NonNullable<ReturnType<typeof solveBesideHeave>>;
    expect(Math.abs(solution[1] - solution[0] - 0.004)).toBeLessThan(0.0001);
    // Also over flights; what both have in common is not to be told from a heave that is always there.
    expect(spread(heave.map((v, f) => v - bob(f / fps)))).toBeLessThan(0.0002);
  });

  it("are told from a heave that is no steady bob too, more roughly, and from none exactly", () => {
    const swell = (t: number) => 0.006 * Math.sin(3 * t) * Math.cos(1.1 * t * t) + 0.002 * t;
    const { solution, heave } = solveBesideHeave(turns(270, 60, swell, 26, 30), SIZE) as NonNullable<ReturnType<typeof solveBesideHeave>>;
    expect(Math.abs(solution[1] - solution[0] - 0.004)).toBeLessThan(0.0015);
    expect(spread(heave.map((v, f) => v - swell(f / 60)).subarray(10, 250))).toBeLessThan(0.003);
    const still = solveBesideHeave(
      turns(270, 60, () => 0, 26, 30),
      0.0005,
    ) as NonNullable<ReturnType<typeof solveBesideHeave>>;
    expect(still.solution[1] - still.solution[0]).toBeCloseTo(0.004, 3);
  });

  it("bear noise, as much better as more frames show them", () => {
    const bob = (t: number) => 0.008 * Math.sin(2 * Math.PI * 1.3 * t);
    const off = [1, 2, 3, 4, 5, 6].map((seed) => {
      const { solution } = solveBesideHeave(turns(300, 60, bob, 26, 30, 0.001, normalNumbers(seed)), SIZE) as NonNullable<ReturnType<typeof solveBesideHeave>>;
      return Math.abs(solution[1] - solution[0] - 0.004);
    });
    // Each height is the mean of 130 frames: 0.09 mm, and their difference 0.12.
    expect(Math.max(...off)).toBeLessThan(0.0005);
  });

  it("of a long clip go without a steady bob, which nothing keeps up", () => {
    const bob = (t: number) => 0.008 * Math.sin(2 * Math.PI * 1.7 * t);
    const { solution, heave } = solveBesideHeave(turns(31 * 60, 60, bob, 26, 30), SIZE) as NonNullable<ReturnType<typeof solveBesideHeave>>;
    expect(Math.abs(solution[1] - solution[0] - 0.004)).toBeLessThan(0.0005);
    expect(heave.length).toBe(31 * 60);
  });
});
