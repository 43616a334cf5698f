import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Ground, groundHeight, groundNormal, planeGround } from "./ground.ts";
import { alongShape, type GroundShape, groundShapeSchema, placeOnShape, profileCorners, shapeLength, shapeProfile } from "./shapes.ts";

const place = fc.double({ min: -20, max: 20, noNaN: true });
const placed = { x: place, z: place, heading: fc.double({ min: -360, max: 360, noNaN: true }), width: fc.double({ min: 0.1, max: 10, noNaN: true }) };
const landing = fc.double({ min: 0, max: 5, noNaN: true });
const anyShape: fc.Arbitrary<GroundShape> = fc.oneof(
  fc.record({
    shape: fc.constant("slope" as const),
    ...placed,
    degrees: fc.double({ min: -40, max: 40, noNaN: true }),
    length: fc.double({ min: 0.1, max: 9, noNaN: true }),
    landing,
  }),
  fc.record({
    shape: fc.constant("steps" as const),
    ...placed,
    rise: fc.double({ min: -0.5, max: 0.5, noNaN: true }),
    tread: fc.double({ min: 0.1, max: 2, noNaN: true }),
    count: fc.integer({ min: 1, max: 20 }),
    landing,
  }),
  fc.record({
    shape: fc.constant("box" as const),
    ...placed,
    length: fc.double({ min: 0.1, max: 5, noNaN: true }),
    height: fc.double({ min: -2, max: 2, noNaN: true }),
  }),
);

const on = (...shapes: GroundShape[]): Ground => ({ ...planeGround(0.1), shapes });
const steps: GroundShape = { shape: "steps", x: 1, z: 2, heading: 90, width: 2, rise: 0.17, tread: 0.3, count: 3, landing: 1 };

describe("shapes of the ground", () => {
  it("have axes of their own, from which the world's places come back (property)", () => {
    fc.assert(
      fc.property(anyShape, place, place, (shape, x, z) => {
        const { along, across } = alongShape(shape, x, z);
        const [backX, backZ] = placeOnShape(shape, along, across);
        expect(backX).toBeCloseTo(x, 9);
        expect(backZ).toBeCloseTo(z, 9);
      }),
    );
  });

  it("have corners that lie on their profile, front to back (property)", () => {
    fc.assert(
      fc.property(anyShape, (shape) => {
        const corners = profileCorners(shape);
        expect(corners[0][0]).toBe(0);
        expect(corners.at(-1)?.[0]).toBeCloseTo(shapeLength(shape), 9);
        corners.slice(1).forEach(([to], i) => {
          const [from] = corners[i];
          expect(to).toBeGreaterThanOrEqual(from - 1e-9);
          const middle = (from + to) / 2;
          if (to - from > 1e-6) expect(shapeProfile(shape, middle).height).toBeCloseTo((corners[i][1] + corners[i + 1][1]) / 2, 6);
        });
        expect(groundShapeSchema.safeParse(shape).success).toBe(true);
      }),
    );
  });

  it("are steps that rise along their heading over the plane they stand on, with the top behind them, and end beside and behind", () => {
    const ground = on(steps);
    // Heading 90° runs along +x.
    for (const [x, height] of [
      [0.99, 0],
      [1.01, 0.17],
      [1.29, 0.17],
      [1.31, 0.34],
      [1.85, 0.51],
      [2.89, 0.51],
      [2.91, 0],
    ])
      expect(groundHeight(ground, x, 2.5), String(x)).toBeCloseTo(0.1 + height, 9);
    expect(groundHeight(ground, 1.5, 3.01)).toBeCloseTo(0.1, 9);
    expect(groundNormal(ground, 1.5, 2)).toEqual([-0, 1, -0].map((v) => expect.closeTo(v, 12)));
  });

  it("are slopes with the normal of their angle, level behind it", () => {
    const ground = on({ shape: "slope", x: 0, z: 0, heading: 0, width: 4, degrees: 8, length: 2, landing: 3 });
    expect(groundHeight(ground, 0, 1)).toBeCloseTo(0.1 + Math.tan((8 * Math.PI) / 180), 9);
    expect(groundHeight(ground, 0, 4)).toBeCloseTo(0.1 + 2 * Math.tan((8 * Math.PI) / 180), 9);
    const [x, y, z] = groundNormal(ground, 0, 1);
    expect((Math.acos(y) * 180) / Math.PI).toBeCloseTo(8, 6);
    expect(x).toBeCloseTo(0, 12);
    expect(z).toBeLessThan(0);
    expect(groundNormal(ground, 0, 3)[1]).toBeCloseTo(1, 12);
  });

  it("count by the highest where they overlap, and go down where they are told to", () => {
    const box = (height: number, length = 1): GroundShape => ({ shape: "box", x: 0, z: 0, heading: 0, width: 1, length, height });
    expect(groundHeight(on(box(0.2), box(0.5, 0.4)), 0, 0.2)).toBeCloseTo(0.6, 9);
    expect(groundHeight(on(box(0.2), box(0.5, 0.4)), 0, 0.6)).toBeCloseTo(0.3, 9);
    expect(groundHeight(on(box(-0.3)), 0, 0.5)).toBeCloseTo(-0.2, 9);
  });
});
