import { type GroundShape, LEVEL_GROUND, shapesFound } from "@stride/motion";
import { describe, expect, it } from "vitest";
import type { Footprint } from "../../../worker/views.ts";
import { footfallsOf, shapeName, withMeasure } from "./groundShapes.ts";

const print = (point: string, start: number, z: number, rise: number): Footprint => ({
  point,
  side: point.startsWith("left") ? "left" : "right",
  start,
  end: start + 12,
  x: point.startsWith("left") ? 0.09 : -0.09,
  z,
  rise,
  heading: 0,
  length: 0.2,
  smear: new Float32Array(2),
});
const steps: GroundShape = { shape: "steps", x: 0, z: 0.8, heading: 0, width: 2, rise: 0.15, tread: 0.6, count: 2, landing: 3 };

describe("the footfalls that shapes are proposed by", () => {
  it("are as high as what they stand on, whether a shape stands there already or not", () => {
    const found = [print("leftToe", 0, 0, 0), print("rightToe", 10, 0.6, 0), print("leftToe", 20, 1.2, 0.15), print("rightToe", 30, 1.8, 0.3)];
    const before = footfallsOf({ prints: found, ground: LEVEL_GROUND });
    expect(before.map((f) => f.rise)).toEqual([0, 0, 0.15, 0.3]);
    // With the steps there, each print lies on its surface and says nothing of its own.
    const on = footfallsOf({ prints: found.map((p) => ({ ...p, rise: 0 })), ground: { ...LEVEL_GROUND, shapes: [steps] } });
    on.forEach((f, i) => {
      expect(f.rise).toBeCloseTo(before[i].rise, 9);
    });
    expect(shapesFound(on)).toMatchObject([{ shape: "steps", rise: 0.15, count: 2 }]);
  });

  it("are a goat's fore hooves alone", () => {
    const prints = ["leftHind", "leftFore", "rightHind", "rightFore"].map((point, i) => print(point, i, i, 0));
    expect(footfallsOf({ prints, ground: LEVEL_GROUND }).map((f) => f.z)).toEqual([1, 3]);
  });
});

describe("a shape in words", () => {
  it("has its kind and its first measure", () => {
    expect(shapeName(steps)).toBe("2 steps of 15 cm");
    expect(shapeName({ ...steps, count: 1, rise: 0.175 })).toBe("1 step of 17.5 cm");
    expect(shapeName({ shape: "slope", x: 0, z: 0, heading: 0, width: 2, degrees: 8, length: 3, landing: 0 })).toBe("slope of 8°");
    expect(shapeName({ shape: "box", x: 0, z: 0, heading: 0, width: 2, length: 3, height: -0.2 })).toBe("box of -20 cm");
  });

  it("keeps all but the measure that is typed, without a tail of binary digits", () => {
    expect(withMeasure(steps, "rise", 12.3 / 100)).toEqual({ ...steps, rise: 0.123 });
  });
});
