import { describe, expect, it } from "vitest";
import type { LimbCourse } from "./limbCourses.ts";
import { drawWithinReach } from "./withinReach.ts";

const FPS = 60;
const FRAMES = 120;
const BONE = 0.3;
const LENGTH = 2 * BONE;

/** An arm held out, its elbow bent by 40°. */
function arm(): LimbCourse {
  const half = (20 * Math.PI) / 180;
  const all = (place: number[]) => Float64Array.from({ length: FRAMES * 3 }, (_, i) => place[i % 3]);
  const rotations = new Float32Array(FRAMES * 4);
  const end = { positions: all([2 * BONE * Math.cos(half), 1.4, 0]), rotations, frameCount: FRAMES } as unknown as LimbCourse["end"];
  return { hip: all([0, 1.4, 0]), knee: all([BONE * Math.cos(half), 1.4 - BONE * Math.sin(half), 0]), end, upper: rotations, lower: rotations, above: null };
}

/** A hand that goes 2 cm out of reach and comes back. */
const course = () =>
  Float64Array.from({ length: FRAMES * 3 }, (_, i) => (i % 3 === 0 ? LENGTH + 0.02 - 0.00015 * (((i / 3) | 0) - 60) ** 2 : i % 3 === 1 ? 1.4 : 0));

/** How far the elbow is bent with the hand at a distance, degrees. */
const bendAt = (distance: number) => (2 * Math.acos(Math.min(1, distance / LENGTH)) * 180) / Math.PI;
const bends = (positions: Float64Array) => Array.from({ length: FRAMES }, (_, f) => bendAt(positions[f * 3]));
/** By how much more, or less, the elbow bends than in the frame before, at most. */
const jump = (list: readonly number[]) => Math.max(...list.slice(2).map((v, i) => Math.abs(v - 2 * list[i + 1] + list[i])));

describe("a hand that goes out of reach", () => {
  it("stays within it, and the elbow stretches and bends again without a jerk", () => {
    const free = course();
    const drawn = free.slice();
    drawWithinReach(arm(), { positions: drawn }, FPS);
    expect(jump(bends(free))).toBeGreaterThan(8);
    expect(jump(bends(drawn))).toBeLessThan(2.5);
    for (let f = 0; f < FRAMES; f++) expect(drawn[f * 3]).toBeLessThan(0.9981 * LENGTH);
  });

  it("keeps its bits where it is near no such frame, and is drawn no further than it lacks", () => {
    const free = course();
    const drawn = free.slice();
    drawWithinReach(arm(), { positions: drawn }, FPS);
    for (let f = 0; f < FRAMES; f++) {
      const by = free[f * 3] - drawn[f * 3];
      expect(by).toBeGreaterThanOrEqual(0);
      expect(by).toBeLessThan(0.02 + 0.002 * LENGTH + 1e-9);
      if (Math.abs(f - 60) > 28) expect(by, `frame ${f}`).toBe(0);
    }
  });

  it("is left alone where it is reached all along", () => {
    const free = course().map((v, i) => (i % 3 === 0 ? v - 0.03 : v));
    const drawn = free.slice();
    drawWithinReach(arm(), { positions: drawn }, FPS);
    expect(drawn).toEqual(free);
  });

  it("keeps more of a bend where it is told to, but for what it came with", () => {
    const drawn = (share: number, own: number) => {
      const limb = arm();
      const half = Math.acos(own);
      const end = limb.end.positions;
      for (let f = 0; f < FRAMES; f++) {
        end[f * 3] = 2 * BONE * Math.cos(half);
        limb.knee[f * 3] = BONE * Math.cos(half);
        limb.knee[f * 3 + 1] = 1.4 - BONE * Math.sin(half);
      }
      const positions = Float64Array.from({ length: FRAMES * 3 }, (_, i) => [share * LENGTH, 1.4, 0][i % 3]);
      drawWithinReach(limb, { positions }, FPS, 0.98);
      return positions[60 * 3] / LENGTH;
    };
    expect(drawn(0.99, 0.9)).toBeCloseTo(0.98, 6);
    expect(drawn(0.99, 0.992)).toBe(0.99);
    expect(drawn(0.999, 0.985)).toBeCloseTo(0.985, 6);
    expect(drawn(0.97, 0.9)).toBe(0.97);
  });
});
