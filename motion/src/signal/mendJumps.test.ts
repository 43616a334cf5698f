import { describe, expect, it } from "vitest";
import { mendJumps } from "./mendJumps.ts";
import { positionSpikes } from "./positionSpikes.ts";

/** An even way with a sway, a frame every three numbers. */
const way = (frames = 60) =>
  Float64Array.from({ length: frames * 3 }, (_, i) => (i % 3 === 0 ? 0.03 * Math.floor(i / 3) : i % 3 === 1 ? 1 + 0.02 * Math.sin(Math.floor(i / 3) / 5) : 0));
const off = (a: Float64Array, b: Float64Array, f: number) => Math.hypot(...[0, 1, 2].map((i) => a[f * 3 + i] - b[f * 3 + i]));

describe("places that jump", () => {
  it("for one frame are put between their neighbours, and nothing else moves", () => {
    const [true_, course] = [way(), way()];
    course[30 * 3 + 1] += 0.2;
    mendJumps(course, 60, 0, 59, 0.03, 8);
    for (let f = 0; f < 60; f++) expect(off(course, true_, f)).toBeLessThan(f === 30 ? 1e-3 : 1e-12);
  });

  it("for good are led over evenly: no jump is left, both ends stay", () => {
    const course = way();
    for (let f = 30; f < 60; f++) course[f * 3 + 2] += 0.25;
    const was = course.slice();
    mendJumps(course, 60, 0, 59, 0.03, 8);
    expect(positionSpikes(course, 60, 0.03)).toEqual([]);
    for (let f = 0; f < 60; f++) expect(off(course, was, f) === 0).toBe(f < 22 || f >= 38);
    for (let f = 1; f < 60; f++) {
      // It goes over one way, by no more a frame than an even ramp's twice.
      const step = course[f * 3 + 2] - course[f * 3 - 1];
      expect(step).toBeGreaterThan(-1e-9);
      expect(step).toBeLessThan((2 * 0.25) / 16);
    }
  });

  it("beside the stretch that is meant, or by little, stay", () => {
    const course = way();
    course[30 * 3] += 0.2;
    course[50 * 3] += 0.02;
    const was = course.slice();
    mendJumps(course, 60, 35, 59, 0.03, 8);
    expect(course).toEqual(was);
    // At the edge of what is meant a step is led over within it.
    const step = way();
    for (let f = 30; f < 60; f++) step[f * 3 + 2] += 0.25;
    const before = step.slice();
    mendJumps(step, 60, 27, 40, 0.03, 8);
    for (let f = 0; f < 60; f++) if (f < 27 || f >= 33) expect(off(step, before, f)).toBe(0);
  });
});
