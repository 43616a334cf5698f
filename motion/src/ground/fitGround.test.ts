import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { fitGround, type RestPoint, tooFew } from "./fitGround.ts";
import { levelsOf } from "./levels.ts";

const rest = (part: string, x: number, y: number, z: number): RestPoint => ({ part, point: [x, y, z], weight: 4, stirs: 0 });
/** A walk of so many steps along z, left and right 17 cm apart; each part at its own height over the ground. */
function walk(
  steps: number,
  ground: (x: number, z: number) => number,
  heights = { leftToe: 0.02, rightToe: 0.02, leftHeel: 0.001, rightHeel: 0.001 },
): RestPoint[] {
  return Array.from({ length: steps }, (_, i) => {
    const side = i % 2 === 0 ? ("left" as const) : ("right" as const);
    const x = side === "left" ? 0.085 : -0.085;
    const at = (part: "Toe" | "Heel", z: number) => rest(`${side}${part}`, x, ground(x, z) + heights[`${side}${part}`], z);
    return [at("Heel", i * 0.65), at("Toe", i * 0.65 + 0.18)];
  }).flat();
}

describe("the slope under resting places", () => {
  it("along a walk is found, whatever heights its parts have (property)", () => {
    const slope = fc.double({ min: -0.3, max: 0.3, noNaN: true }).filter((s) => Math.abs(s) > 0.03);
    const height = fc.double({ min: 0, max: 0.06, noNaN: true });
    fc.assert(
      fc.property(slope, height, height, height, (along, toe, left, heel) => {
        const fit = fitGround(walk(10, (_, z) => along * z, { leftToe: toe + left, rightToe: toe, leftHeel: heel, rightHeel: heel }));
        expect(fit.slopeZ).toBeCloseTo(along, 3);
        expect(Math.abs(fit.slopeX)).toBeLessThan(1e-6);
        expect(fit.heights.get("rightToe")).toBeCloseTo(toe, 3);
        expect(fit.heights.get("leftToe")).toBeCloseTo(toe + left, 3);
      }),
    );
  });

  it("is level where toes stand higher than heels, or the left foot higher than the right", () => {
    const fit = fitGround(walk(10, () => 0, { leftToe: 0.05, rightToe: 0.03, leftHeel: 0, rightHeel: 0.01 }));
    expect([fit.slopeX, fit.slopeZ]).toEqual([0, 0]);
  });

  it("is level within what chance makes of places that are off by 8 mm", () => {
    const noise = [3, -8, 5, 1, -6, 8, -2, 4, -7, 6, 0, -4, 7, -1, 2, -5, 8, -3, -8, 5].map((mm) => mm / 1000);
    const points = walk(10, () => 0).map((p, i): RestPoint => ({ ...p, point: [p.point[0], p.point[1] + noise[i], p.point[2]] }));
    const fit = fitGround(points);
    expect([fit.slopeX, fit.slopeZ]).toEqual([0, 0]);
  });

  it("makes left and right alike where their difference may come from how restless they are, and only there", () => {
    const uneven = walk(10, () => 0, { leftToe: 0.026, rightToe: 0.02, leftHeel: 0, rightHeel: 0 });
    const restless = uneven.map((p) => ({ ...p, stirs: 0.008 }));
    expect(fitGround(uneven).heights.get("leftToe")).toBeCloseTo(0.026, 4);
    expect(fitGround(restless).heights.get("leftToe")).toBeCloseTo(0.023, 4);
    expect(fitGround(restless).heights.get("rightToe")).toBeCloseTo(0.023, 4);
  });
});

describe("levels over the ground", () => {
  const tread = (z: number) => 0.17 * Math.max(0, Math.min(3, Math.ceil((z - 1.6) / 0.65)));

  it("of a flight of steps are its treads, not a slope", () => {
    // Both of a foot's rests lie on the tread under its heel.
    const points = walk(9, () => 0).map((p): RestPoint => {
      const heel = p.part.endsWith("Toe") ? p.point[2] - 0.18 : p.point[2];
      return { ...p, point: [p.point[0], p.point[1] + tread(heel), p.point[2]] };
    });
    const levels = levelsOf(points, fitGround(points));
    points.forEach((p, i) => {
      const heel = p.part.endsWith("Toe") ? p.point[2] - 0.18 : p.point[2];
      expect(levels[i], `${p.part} at ${heel}`).toBeCloseTo(tread(heel), 2);
    });
  });

  it("of a slope, or of a floor that is off by 6 cm, there are none", () => {
    for (const ground of [(_: number, z: number) => 0.14 * z, () => 0.06]) {
      const points = walk(9, ground);
      expect(levelsOf(points, fitGround(points)).every((l) => Math.abs(l) < 1e-9)).toBe(true);
    }
  });
});

describe("the likeliest slope", () => {
  /** Places of two parts along an arc on a plane that tilts both ways. */
  const onPlane = (count: number): RestPoint[] =>
    Array.from({ length: count }, (_, i) => {
      const [x, z] = [2 - 2 * Math.cos(0.15 * i), 2 * Math.sin(0.15 * i)];
      const part = i % 2 ? "leftToe" : "rightToe";
      return { part, point: [x, 0.12 + (part === "leftToe" ? 0.02 : 0.03) + 0.0209 * x - 0.0279 * z, z], weight: 1, stirs: 0 };
    });

  it("is taken as it is where many places lie on one plane, however slight it is", () => {
    const fit = fitGround(onPlane(16), 0);
    expect(fit.slopeX).toBeCloseTo(0.0209, 4);
    expect(fit.slopeZ).toBeCloseTo(-0.0279, 4);
    expect(fit.heights.get("leftToe")).toBeCloseTo(0.14, 4);
    expect(fit.heights.get("rightToe")).toBeCloseTo(0.15, 4);
    expect(tooFew(onPlane(16))).toBe(false);
  });

  it("is damped where so few lie on some plane whatever they are", () => {
    expect(tooFew(onPlane(7))).toBe(true);
    expect(tooFew(onPlane(8))).toBe(false);
    const steep = onPlane(3).map((p, i): RestPoint => ({ ...p, part: "toe", point: [0.002 * i, 0.1 + 0.004 * i, 0.05 * i] }));
    // Four millimetres to either side over ten centimetres: as likely feet that rest unevenly.
    expect(fitGround(steep, 0).slopeZ).toBeLessThan(0.06);
  });
});
