import { describe, expect, it } from "vitest";
import { fitGround, type RestPoint } from "./fitGround.ts";
import { levelsOf } from "./levels.ts";

/** Toes and heels of two feet going up: a place a step, each step `rise` higher and 0.3 m on, the heels 2 cm under the toe joints. */
function flight(rise: number, steps: number): RestPoint[] {
  return Array.from({ length: steps }, (_, k) => k).flatMap((k) =>
    ["Toe", "Heel"].map((part): RestPoint => {
      const side = k % 2 === 0 ? "left" : "right";
      return { part: side + part, point: [k % 2 === 0 ? 0.1 : -0.1, rise * k + (part === "Toe" ? 0.02 : 0), 0.3 * k], weight: 4, stirs: 0.0005 };
    }),
  );
}
const levels = (points: readonly RestPoint[]) => levelsOf(points, fitGround(points));

describe("levels that a body stands on", () => {
  it("are one where all places lie on it, or on a slope", () => {
    expect(levels(flight(0, 8)).every((level) => level === 0)).toBe(true);
    // 5 cm a place, exactly: a slope.
    expect(levels(flight(0.05, 8)).every((level) => Math.abs(level) < 1e-6)).toBe(true);
  });

  it("are each place's own height where a ramp ends: neither plane nor steps explain them", () => {
    const heights = [0, 0, 0, 0.03, 0.06, 0.09, 0.12, 0.12, 0.12];
    const ramp = flight(0, 9).map((p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + heights[i >> 1], p.point[2]] }));
    levels(ramp).forEach((level, i) => expect(level, `${i}`).toBeCloseTo(heights[i >> 1], 6));
  });

  it("are two, not a slope, where all places lie in two spots; and one where they go on along it", () => {
    const spots = (heights: readonly number[], z: (k: number) => number) =>
      flight(0, heights.length).map((p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + heights[i >> 1], z(i >> 1)] }));
    // Off a box of 40 cm: both feet on it, and both before it.
    levels(spots([0, 0, -0.4, -0.4], (k) => (k < 2 ? 0 : 0.7))).forEach((level, i) => expect(level, `${i}`).toBeCloseTo(i < 4 ? 0 : -0.4, 6));
    // As steep, and five places along it.
    expect(levels(spots([0, -0.1, -0.2, -0.3, -0.4], (k) => 0.175 * k)).every((level) => Math.abs(level) < 1e-6)).toBe(true);
  });

  it("have on them what lies on them: what lies near one is as high as it is, unless its places are scattered as far", () => {
    const heights = [0, 0, 0, 0, 0.02, 0.2, 0.2, 0.2];
    const near = flight(0, 8).map((p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + heights[i >> 1], p.point[2]] }));
    levels(near).forEach((level, i) => expect(level, `${i}`).toBeCloseTo(heights[i >> 1], 6));
    const scattered = near.map((p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + [0.006, -0.006, 0.005, -0.005][(i >> 1) % 4], p.point[2]] }));
    expect(levels(scattered)[8]).toBe(0);
  });

  it("are counted from where hind hooves stand for fore ones that never come there", () => {
    const places = (part: string, heights: readonly number[], ahead: number) =>
      heights.map((y, k): RestPoint => ({ part: (k % 2 === 0 ? "left" : "right") + part, point: [0, 0.04 + y, 0.3 * k + ahead], weight: 4, stirs: 0.0005 }));
    const points = [...places("Hind", [0, 0, 0, 0, 0.16, 0.16], 0), ...places("Fore", [0.16, 0.16, 0.32, 0.48, 0.48, 0.48], 0.9)];
    levels(points).forEach((level, i) => expect(level, `${i}`).toBeCloseTo(points[i].point[1] - 0.04, 6));
  });

  it("are told from each other by less on a small body", () => {
    const steps = flight(0, 8).map(
      (p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + 0.018 * Math.max(0, Math.min(1, (i >> 1) - 2)), p.point[2]] }),
    );
    const found = levelsOf(steps, { slopeX: 0, slopeZ: 0, heights: new Map() }, 0.35);
    found.forEach((level, i) => expect(level, `${i}`).toBeCloseTo(0.018 * Math.max(0, Math.min(1, (i >> 1) - 2)), 6));
    expect(levelsOf(steps, { slopeX: 0, slopeZ: 0, heights: new Map() }).every((level) => level === 0)).toBe(true);
  });

  it("are the steps of a flight, not one slope through them, though a heel was found on its way up", () => {
    const heights = [0, 0, 0, 0.17, 0.34, 0.51, 0.51];
    const whole = flight(0, 7).map((p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + heights[i >> 1], 1.2 * p.point[2]] }));
    const steps = whole.map((_, i) => heights[i >> 1]);
    levels(whole).forEach((level, i) => expect(level).toBeCloseTo(steps[i], 6));
    const rising: RestPoint = { part: "rightHeel", point: [-0.1, 0.028, 0.2], weight: 2, stirs: 0.004 };
    levels([rising, ...whole])
      .slice(1)
      .forEach((level, i) => expect(Math.abs(level - steps[i]), `${i}`).toBeLessThan(0.015));
  });
});
