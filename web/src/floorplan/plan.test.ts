import { describe, expect, it } from "vitest";
import { blockAt, blockFrames, boundsOf, isOld, numbered, type Place, planPath, shapePieces, thinned } from "./plan.ts";

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

describe("the plan of a long way", () => {
  it("draws the block that the playhead is in and its neighbours, cut at the clip's ends", () => {
    // Blocks of six seconds.
    expect([0, 719, 720, 1439, 14_399].map((f) => blockAt(f, 120))).toEqual([0, 0, 1, 1, 19]);
    expect(blockFrames(0, 14_400, 120)).toEqual([0, 1440]);
    expect(blockFrames(5, 14_400, 120)).toEqual([4 * 720, 7 * 720]);
    expect(blockFrames(19, 14_400, 120)).toEqual([18 * 720, 14_399]);
    // What is shorter than two blocks is drawn whole from its first frame on.
    expect(blockFrames(0, 300, 30)).toEqual([0, 299]);
    for (const frame of [0, 1000, 7213, 14_399]) {
      const [from, to] = blockFrames(blockAt(frame, 120), 14_400, 120);
      expect(frame >= from && frame <= to).toBe(true);
    }
  });

  it("shows the end of a motion that has become shorter than the block it was at", () => {
    for (const block of [1, 7, 400]) {
      const [from, to] = blockFrames(block, 61, 30);
      expect(from).toBeLessThan(to);
      expect(to).toBe(60);
    }
  });

  it("thins a path evenly to so many places, its last one kept, or takes every so many frames", () => {
    const path = Array.from({ length: 100 }, (_, f): Place => [f, 0]);
    const frames = (places: readonly Place[]) => places.map(([f]) => f);
    expect(frames(thinned(path, 10, 20, 100))).toEqual([10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20]);
    expect(frames(thinned(path, 10, 20, 4))).toEqual([12, 15, 18, 20]);
    expect(thinned(path, 0, 99, 10).length).toBeLessThanOrEqual(11);
    expect(frames(thinned(path, 5, 40, Number.POSITIVE_INFINITY, 12))).toEqual([12, 24, 36]);
    expect(frames(thinned(path, 0, 0, 10))).toEqual([0]);
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

describe("footprints of a long way", () => {
  it("are pale once long past", () => {
    expect([0, 40, 90, 200].map((end) => isOld({ end }, 120, 30))).toEqual([true, true, false, false]);
  });

  it("carry numbers only where they fit, on either side of the path for itself", () => {
    const at = (x: number, above: boolean) => ({ at: [x, 0] as const, above });
    expect(numbered([at(0, true), at(0.1, false), at(0.2, true), at(0.7, true), at(0.75, false)], 0.5)).toEqual([true, true, false, true, true]);
  });
});
