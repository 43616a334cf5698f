import { describe, expect, it } from "vitest";
import { groundHeight, LEVEL_GROUND } from "./ground.ts";
import { type Footfall, shapeAhead, shapesFound } from "./proposeShapes.ts";
import { groundShapeSchema } from "./shapes.ts";

/** A walk along a heading (degrees): feet fall to either side of the way, 0.6 m apart, each on a height of its own. */
function walk(heights: readonly number[], heading = 0): Footfall[] {
  const a = (heading * Math.PI) / 180;
  return heights.map((rise, i) => {
    const [along, across] = [0.6 * i, i % 2 === 0 ? 0.09 : -0.09];
    return { start: 10 * i, x: along * Math.sin(a) + across * Math.cos(a), z: along * Math.cos(a) - across * Math.sin(a), rise, heading: a, length: 0.2 };
  });
}

describe("shapes found under footfalls", () => {
  it("are none on level ground", () => {
    expect(shapesFound(walk([0, 0, 0, 0]))).toEqual([]);
    expect(shapesFound([])).toEqual([]);
  });

  it.each([0, 50, -120])("are one flight where a walk (heading %d°) goes up evenly, each footfall on its step", (heading) => {
    const falls = walk([0, 0, 0.17, 0.34, 0.51, 0.51], heading);
    const found = shapesFound(falls);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ shape: "steps", rise: 0.17, count: 3 });
    expect(found[0].heading).toBeCloseTo(heading, 0);
    expect(groundShapeSchema.safeParse(found[0]).error).toBeUndefined();
    const ground = { ...LEVEL_GROUND, shapes: found };
    for (const { x, z, rise } of falls) expect(groundHeight(ground, x, z)).toBeCloseTo(rise, 6);
  });

  it("are boxes where heights are uneven", () => {
    const falls = walk([0, 0.2, 0.2, 0, 0.45, 0]);
    const found = shapesFound(falls);
    expect(found.map((s) => s.shape)).toEqual(["box", "box"]);
    const ground = { ...LEVEL_GROUND, shapes: found };
    for (const { x, z, rise } of falls) expect(groundHeight(ground, x, z)).toBeCloseTo(rise, 6);
  });
});

describe("a shape before the body", () => {
  const falls = walk([0, 0, 0, 0, 0, 0], 30);

  it("is a flight with a step for each footfall that comes, none of them on an edge", () => {
    const steps = shapeAhead("steps", falls, 15);
    expect(steps).toMatchObject({ shape: "steps", count: 4, tread: 0.6, heading: 30 });
    const ground = { ...LEVEL_GROUND, shapes: [steps] };
    for (const [i, { x, z }] of falls.entries()) expect(groundHeight(ground, x, z), `${i}`).toBeCloseTo(i < 2 ? 0 : 0.17 * (i - 1), 6);
  });

  it("is a slope as long as the way goes on, or a box under the next footfall", () => {
    const slope = shapeAhead("slope", falls, 15);
    expect(slope).toMatchObject({ shape: "slope", degrees: 8, heading: 30 });
    const box = { ...LEVEL_GROUND, shapes: [shapeAhead("box", falls, 15)] };
    expect(falls.map(({ x, z }) => groundHeight(box, x, z) > 0)).toEqual([false, false, true, false, false, false]);
    for (const kind of ["slope", "steps", "box"] as const) {
      expect(groundShapeSchema.safeParse(shapeAhead(kind, [], 0)).success).toBe(true);
      expect(groundShapeSchema.safeParse(shapeAhead(kind, falls.slice(0, 1), 99)).success).toBe(true);
    }
  });
});
