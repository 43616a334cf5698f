import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { passEdges } from "./aroundEdges.ts";

const FPS = 100;

/** A swing of 50 frames between two stands, forward at an even pace, with an edge of some height over frames a..b. */
function swing(a: number, b: number, height: number) {
  const resting = Uint8Array.from({ length: 71 }, (_, f) => (f <= 10 || f >= 60 ? 1 : 0));
  const positions = Float64Array.from({ length: 71 * 3 }, (_, i) => [0.3, 0.1, Math.min(50, Math.max(0, (i - (i % 3)) / 3 - 10)) / 50][i % 3]);
  const lacks = Float64Array.from({ length: 71 }, (_, f) => (f >= a && f <= b ? height : 0));
  return { resting, positions, lacks };
}

const forward = (positions: Float64Array, f: number) => positions[f * 3 + 2];

describe("passing edges", () => {
  it("a foot is held back before an edge that comes right after it lifts: it has twice the time to be raised", () => {
    const { positions, resting, lacks } = swing(14, 22, 0.15);
    const edge = forward(positions, 14);
    passEdges(positions, resting, lacks, FPS);
    const crosses = Array.from({ length: 50 }, (_, i) => 10 + i).find((f) => forward(positions, f) >= edge) as number;
    // It had 4 frames.
    expect(crosses).toBeGreaterThanOrEqual(18);
    expect(crosses).toBeLessThanOrEqual(20);
    expect(forward(positions, 59)).toBeCloseTo(0.98, 2);
  });

  it("and hastened over one right before it lands", () => {
    const { positions, resting, lacks } = swing(48, 56, 0.15);
    const edge = forward(positions, 56);
    passEdges(positions, resting, lacks, FPS);
    const crosses = Array.from({ length: 50 }, (_, i) => 10 + i).find((f) => forward(positions, f) >= edge) as number;
    // It had 4 frames to come down in.
    expect(crosses).toBeLessThanOrEqual(53);
    expect(crosses).toBeGreaterThanOrEqual(50);
    expect(forward(positions, 11)).toBeCloseTo(0.02, 2);
  });

  it("an edge with time before and behind it, and one that is hardly any, change nothing, or hardly anything", () => {
    const far = swing(30, 40, 0.15);
    const was = far.positions.slice();
    passEdges(far.positions, far.resting, far.lacks, FPS);
    expect(far.positions).toEqual(was);
    const [low, high] = [swing(14, 22, 0.006), swing(14, 22, 0.06)];
    for (const { positions, resting, lacks } of [low, high]) passEdges(positions, resting, lacks, FPS);
    const held = ({ positions }: { positions: Float64Array }) => forward(was, 20) - forward(positions, 20);
    expect(held(low)).toBeGreaterThan(0);
    expect(held(low)).toBeLessThan(held(high) / 5);
  });

  it("goes on forward all the while, within where it was, with ends and height as they were, wherever edges are", () => {
    fc.assert(
      fc.property(fc.integer({ min: 11, max: 59 }), fc.integer({ min: 0, max: 48 }), fc.double({ min: 0.005, max: 0.5, noNaN: true }), (a, more, height) => {
        const { positions, resting, lacks } = swing(a, Math.min(59, a + more), height);
        const was = positions.slice();
        passEdges(positions, resting, lacks, FPS);
        for (let f = 1; f < 71; f++) expect(forward(positions, f)).toBeGreaterThanOrEqual(forward(positions, f - 1) - 1e-12);
        for (let f = 0; f < 71; f++) {
          if (resting[f]) expect(forward(positions, f)).toBe(forward(was, f));
          expect(positions[f * 3]).toBeCloseTo(0.3, 12);
          expect(positions[f * 3 + 1]).toBe(0.1);
        }
      }),
    );
  });

  it("leaves what begins or ends in flight", () => {
    const { positions, lacks } = swing(12, 20, 0.2);
    const was = positions.slice();
    passEdges(positions, new Uint8Array(71), lacks, FPS);
    expect(positions).toEqual(was);
  });
});
