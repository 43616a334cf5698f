import { describe, expect, it } from "vitest";
import { boundsOf, planPath } from "./plan.ts";

/** A body of one joint that walks along a line, so many frames. */
function walking(frameCount: number, dx: number, dz: number) {
  const positions = new Float32Array(frameCount * 3);
  for (let f = 0; f < frameCount; f++) positions.set([1 + (dx * f) / (frameCount - 1), 1, 2 + (dz * f) / (frameCount - 1)], f * 3);
  return { frameCount, jointCount: 1, positions };
}

describe("the floor plan", () => {
  it("lays the travel from left to right, whichever way it goes", () => {
    for (const [dx, dz] of [
      [3, 0],
      [0, -3],
      [-2, 2],
    ]) {
      const { path } = planPath(walking(10, dx, dz), 0);
      expect(Math.hypot(...path[0])).toBe(0);
      expect(path[9][0]).toBeCloseTo(Math.hypot(dx, dz), 5);
      expect(path[9][1]).toBeCloseTo(0, 5);
    }
  });

  it("takes a clip of any length: a quarter of a million frames", () => {
    const { path } = planPath(walking(250_000, 5, 1), 0);
    const box = boundsOf(path, 0.3, 0.28);
    expect(box[0]).toBeCloseTo(-0.3, 5);
    expect(box[2]).toBeCloseTo(Math.hypot(5, 1) + 0.3, 4);
  });
});
