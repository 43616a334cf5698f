import { describe, expect, it } from "vitest";
import { boundsOf, planPath, shapePieces } from "./plan.ts";

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

describe("a shape of the ground from above", () => {
  const placed = { x: 1, z: 2, heading: 90, width: 2 };

  it("has a piece for each step with its height over the ground, the last as far as the level goes on", () => {
    const pieces = shapePieces({ shape: "steps", ...placed, rise: 0.17, tread: 0.5, count: 3, landing: 1 });
    expect(pieces.map((p) => p.label)).toEqual(["+17 cm", "+34 cm", "+51 cm"]);
    // Heading 90° runs along +x; a piece's corners go round it.
    const xs = pieces.map(({ outline }) => [Math.min(...outline.map((p) => p[0])), Math.max(...outline.map((p) => p[0]))].map((v) => Number(v.toFixed(6))));
    expect(xs).toEqual([
      [1, 1.5],
      [1.5, 2],
      [2, 3.5],
    ]);
    for (const { outline } of pieces) expect(new Set(outline.map((p) => p[1].toFixed(3)))).toEqual(new Set(["1.000", "3.000"]));
  });

  it("tells a slope's steepness, and the height that it ends at", () => {
    const pieces = shapePieces({ shape: "slope", ...placed, degrees: -45, length: 1, landing: 2 });
    expect(pieces.map((p) => p.label)).toEqual(["-45°", "−100 cm"]);
    expect(shapePieces({ shape: "slope", ...placed, degrees: 8, length: 1, landing: 0 }).map((p) => p.label)).toEqual(["8°"]);
  });
});
