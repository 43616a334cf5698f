import { describe, expect, it } from "vitest";
import type { LimbCourse } from "../plants/limbCourses.ts";
import { troubleInWords, troubleOf } from "./outOfReach.ts";

const N = 12;
const still = (x: number, y: number, z: number) => Float64Array.from({ length: N * 3 }, (_, i) => [x, y, z][i % 3]);

/** A leg of 0.4 and 0.4 m under a hip at 1 m, which came 0.6 m long. */
const leg: LimbCourse = {
  hip: still(0, 1, 0),
  knee: still(0, 1 - 0.3, Math.sqrt(0.4 ** 2 - 0.3 ** 2)),
  end: { frameCount: N, positions: still(0, 0.4, 0), rotations: new Float32Array(N * 4) },
  upper: new Float32Array(0),
  lower: new Float32Array(0),
  above: null,
};

/** Targets straight under the hip, so far from it on each frame, 0.6 m elsewhere. */
const under = (far: Readonly<Record<number, number>>) => ({
  positions: Float64Array.from({ length: N * 3 }, (_, i) => (i % 3 === 1 ? 1 - (far[(i - 1) / 3] ?? 0.6) : 0)),
});

describe("a leg on a new ground", () => {
  it("is in no trouble where it reaches, bent or nearly straight", () => {
    expect(troubleOf(leg, under({ 3: 0.3, 4: 0.79, 5: 0.805 }))).toBe(null);
  });

  it("misses places beyond its length: by how much, and from when to when", () => {
    expect(troubleOf(leg, under({ 3: 0.83, 6: 0.9 }))).toEqual({ start: 3, end: 6, misses: expect.closeTo(0.1, 9) });
  });

  it("is folded where it would come nearer than thigh and shank on each other let it", () => {
    // Two bones of 0.4 m at 30° to each other: 0.8 · sin 15° = 0.207 m.
    expect(troubleOf(leg, under({ 7: 0.2 }))).toBe(null);
    expect(troubleOf(leg, under({ 7: 0.15, 8: 0.1 }))).toEqual({ start: 7, end: 8, misses: 0 });
  });

  it("is not told of a fold that it came with, and of what is out of reach first", () => {
    const came = { ...leg, knee: still(0, 0.95, Math.sqrt(0.4 ** 2 - 0.05 ** 2)), end: { ...leg.end, positions: still(0, 0.9, 0) } };
    expect(troubleOf(came, under({ 2: 0.1 }))).toBe(null);
    expect(troubleOf(leg, under({ 2: 0.1, 9: 0.85 }))).toMatchObject({ start: 9, end: 9 });
  });

  it("is told of in words that say what, where and what to do", () => {
    expect(troubleInWords("Left foot", { start: 42, end: 60, misses: 0.084 })).toBe(
      "Left foot does not reach its place by up to 8 cm between frames 42 and 60: the ground is too steep for it there; lower it, make its treads longer, or begin it where the legs can follow",
    );
    expect(troubleInWords("Left hoof", { start: 5, end: 5, misses: 0 })).toMatch(/^Left hoof is folded up as far as a leg goes at frame 5:/);
  });
});
