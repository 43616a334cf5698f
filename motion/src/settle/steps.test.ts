import { describe, expect, it } from "vitest";
import { bendScale, stepShare } from "./steps.ts";

describe("a last step", () => {
  it("bends toes the less the shorter the last step is, and begins as the motion's own swing does", () => {
    expect(bendScale(0.4, 0)).toBe(1);
    expect(bendScale(0.4, 1)).toBeCloseTo(0.4, 12);
    expect(bendScale(1, 0.5)).toBe(1);
    const course = { frameCount: 3, positions: Float64Array.of(0, 0, 0, 0, 0.1, 0.4, 0, 0, 0.8), rotations: new Float32Array(12) };
    const to = (z: number) => stepShare(course, 0, 2, { position: [0, 0, z], rotation: [0, 0, 0, 1] });
    expect(to(0.4)).toBeCloseTo(0.5, 12);
    expect(to(0.8)).toBeCloseTo(1, 12);
    // Never so short that it is no step any more.
    expect(to(0.01)).toBe(0.25);
  });
});
