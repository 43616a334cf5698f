import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { groundHeight, groundNormal, groundTilt, LEVEL_GROUND, planeGround } from "./ground.ts";

const slope = fc.double({ min: -1, max: 1, noNaN: true });
const place = fc.double({ min: -20, max: 20, noNaN: true });

describe("the ground", () => {
  it("has a height and an upright normal anywhere, square to each other (property)", () => {
    fc.assert(
      fc.property(slope, slope, place, place, place, place, (slopeX, slopeZ, x, z, dx, dz) => {
        const ground = planeGround(0.3, slopeX, slopeZ);
        const normal = groundNormal(ground, x, z);
        const along = [dx, groundHeight(ground, x + dx, z + dz) - groundHeight(ground, x, z), dz];
        expect(along[0] * normal[0] + along[1] * normal[1] + along[2] * normal[2]).toBeCloseTo(0, 8);
        expect(Math.hypot(...normal)).toBeCloseTo(1, 12);
        expect(normal[1]).toBeGreaterThan(0);
        // The tilt is the angle between the normal and the vertical.
        expect(groundTilt(ground)).toBeCloseTo(Math.acos(Math.min(1, normal[1])), 6);
      }),
    );
  });

  it("level lies at zero with no tilt", () => {
    expect(groundHeight(LEVEL_GROUND, 7, -3)).toBe(0);
    expect(groundTilt(LEVEL_GROUND)).toBe(0);
    expect(groundNormal(planeGround(2), 0, 0).map(Math.abs)).toEqual([0, 1, 0]);
  });
});
