import { describe, expect, it } from "vitest";
import { raiseSmoothly } from "./aboveGround.ts";

const N = 60;
const resting = Uint8Array.from({ length: N }, (_, f) => (f < 10 || f >= 50 ? 1 : 0));
/** An edge of 12 cm that is passed from frame `from` to frame `to`. */
const edge = (from: number, to: number) => Float64Array.from({ length: N }, (_, f) => (f >= from && f <= to ? 0.12 : 0));

describe("a foot raised over an edge", () => {
  it("is up at it, begins at its lift, ends at its landing, and never leaps", () => {
    const raised = raiseSmoothly(edge(30, 34), resting, true, 60);
    for (let f = 30; f <= 34; f++) expect(raised[f]).toBeGreaterThanOrEqual(0.12 - 1e-9);
    expect(Math.max(...raised)).toBeLessThan(0.125);
    for (let f = 0; f < N; f++) if (resting[f]) expect(raised[f]).toBe(0);
    expect(raised[14]).toBeGreaterThan(0);
    const bends = Array.from({ length: N - 2 }, (_, i) => Math.abs(raised[i + 2] - 2 * raised[i + 1] + raised[i]));
    // A quintic over 20 frames: at most 5.8 · 12 cm / 20² a frame², and a little for where it meets the top.
    expect(Math.max(...bends)).toBeLessThan(0.003);
  });

  it("keeps between two edges what it has to, and takes all the time behind the last", () => {
    const lacks = edge(20, 22).map((v, f) => Math.max(v, edge(36, 38)[f]));
    const raised = raiseSmoothly(lacks, resting, true, 60);
    lacks.forEach((lack, f) => {
      expect(raised[f]).toBeGreaterThanOrEqual(lack - 1e-9);
    });
    expect(raised[44]).toBeGreaterThan(0.005);
    expect(raised[49]).toBeLessThan(0.002);
  });

  it("is not raised early over a plane, which it only skims", () => {
    const skims = Float64Array.from({ length: N }, (_, f) => (f === 30 ? 0.003 : 0));
    expect(raiseSmoothly(skims, resting, true, 60)[25]).toBe(0);
    const level = raiseSmoothly(skims, resting, false, 60);
    expect(level[30]).toBeCloseTo(0.003, 9);
    expect(level[28]).toBe(0);
  });
});
