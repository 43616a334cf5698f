import { LEVEL_GROUND } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { ballAbout, followedPlace, surfaceUnder } from "./framing.ts";

/** Two joints (hips, head) that climb by 1 cm a frame and bob by 5 cm, along +z by 2 cm a frame. */
const frameCount = 120;
const view = {
  frameCount,
  fps: 30,
  jointCount: 2,
  positions: Float32Array.from({ length: frameCount * 6 }, (_, i) => {
    const f = Math.floor(i / 6);
    const y = 0.9 + 0.01 * f + 0.05 * Math.sin((f * 2 * Math.PI) / 12);
    return [0.1, y, 0.02 * f, 0.1, y + 0.7, 0.02 * f][i % 6];
  }),
  ground: LEVEL_GROUND,
};

describe("what the camera looks at", () => {
  it("goes along with the hips, up a slope, but not with every step", () => {
    const [x, y, z] = followedPlace(view, 0, 60);
    expect(x).toBeCloseTo(0.1, 6);
    expect(z).toBeCloseTo(1.2, 6);
    const followed = Array.from({ length: 40 }, (_, i) => followedPlace(view, 0, 40 + i)[1] - (0.9 + 0.01 * (40 + i)));
    // Of the 5 cm of bob less than one is left; the climb is all there.
    expect(Math.max(...followed.map(Math.abs))).toBeLessThan(0.01);
    expect(y).toBeGreaterThan(1.4);
    // Behind the clip's ends it stays.
    expect(followedPlace(view, 0, 500)).toEqual(followedPlace(view, 0, frameCount - 1));
  });

  it("is a ball about the whole body, or about where one would stand", () => {
    const { centre, radius } = ballAbout(view, 0, 1.7);
    expect(centre[1]).toBeCloseTo(0.9 + (0.7 + 0.09 * 1.7) / 2, 5);
    expect(radius).toBeGreaterThan((0.7 + 0.09 * 1.7) / 2);
    expect(ballAbout(undefined, 0, 1.7)).toEqual({ centre: [0, 0.85, 0], radius: 0.85 });
  });

  it("has its shadow on the surface beneath the hips", () => {
    expect(surfaceUnder(view, 0, 10)).toBe(LEVEL_GROUND);
    const slope = { shape: "slope", x: 0, z: 1, heading: 0, width: 4, degrees: 45, length: 1, landing: 0 } as const;
    const on = { ...view, ground: { ...LEVEL_GROUND, shapes: [slope] } };
    expect(surfaceUnder(on, 0, 10)).toMatchObject({ height: 0 });
    // Half a metre up the slope, the plane goes through the place at its height.
    const { height, slopeX, slopeZ } = surfaceUnder(on, 0, 75);
    expect(slopeZ).toBeCloseTo(1, 6);
    expect(height + slopeX * 0.1 + slopeZ * 1.5).toBeCloseTo(0.5, 5);
  });
});
