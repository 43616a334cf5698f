import { describe, expect, it } from "vitest";
import { FOUR_BODIES, FOUR_GAITS } from "../grid/gaits.ts";
import { BODIES, gaitsOf } from "../grid/rolled.ts";
import { fourLegged } from "./fourLegs.ts";
import type { Made } from "./made.ts";
import { block, flight, meanHeights, ramp, rough, type Terrain } from "./terrain.ts";
import { worldAt } from "./testing/worldAt.ts";
import { bonesOf, rolledWalk } from "./walker.ts";

/** How high over the ground each joint that rests does so, once a stand, metres; it has to stay where it is. */
function resting(walk: Made, terrain: Terrain): number[] {
  return walk.contacts.flatMap(({ joint, start, end }) => {
    if (joint === undefined) return [];
    const from = worldAt(walk, start).places[joint];
    for (let f = start; f <= end; f++) expect(Math.hypot(...worldAt(walk, f).places[joint].map((v, i) => v - from[i]))).toBeLessThan(1e-9);
    return [from[1] - terrain(from[2]).up];
  });
}

describe("ground that is not level", () => {
  const [body] = BODIES;
  const gait = { ...gaitsOf(body.height)[0], lift: 0.1 };
  const ballUp = bonesOf(body).ankleUp + bonesOf(body).ball[1];

  it("is lain on by soles, along a ramp and on steps, and they stay", () => {
    const slope = ramp(8, -5, 50);
    const heights = resting(rolledWalk(body, gait, 30, 3, slope), slope);
    expect(heights.length).toBeGreaterThan(4);
    // The toe's joint is as high over the slope as over level ground, along the slope's normal.
    for (const height of heights) expect(height * Math.cos((8 * Math.PI) / 180)).toBeCloseTo(ballUp, 2);
    const steps = flight(0.2 * gait.stride, gait.stride / 2, 0.15, 4);
    const up = resting(rolledWalk(body, gait, 30, 3, steps), steps).map((height) => Math.round(1000 * (height - ballUp)));
    expect(up.filter((off) => off === 0).length).toBeGreaterThan(0.7 * up.length);
  });

  it("is stood on by hooves, each at its own place, and the body goes up with them", () => {
    const [, four] = FOUR_BODIES;
    for (const terrain of [ramp(-10, -5, 50), rough(0, 0.3, 0.02), block(0.5, 1, 0.1)]) {
      const walk = fourLegged(four, FOUR_GAITS[0], 30, 2.5, 0, terrain);
      // Footfalls are spaced unevenly by a few millimetres, over which a ramp falls by less than one.
      const near = resting(walk, terrain).filter((height) => Math.abs(height - 0.035 * four.withers) < 0.0015);
      expect(near.length).toBeGreaterThan(0.7 * walk.contacts.length);
    }
    const climbs = fourLegged(four, FOUR_GAITS[0], 30, 2.5, 0, ramp(10, -5, 50)).roots;
    const [first, last] = [climbs[0], climbs[climbs.length - 1]];
    expect((last[1] - first[1]) / (last[2] - first[2])).toBeCloseTo(Math.tan((10 * Math.PI) / 180), 1);
  });

  it("has a mean that follows a ramp exactly, and steps without a leap", () => {
    const slope = meanHeights(ramp(6, -10, 10), 0.4);
    for (const s of [-3, 0, 2.5]) expect(slope(s)).toBeCloseTo(Math.tan((6 * Math.PI) / 180) * s, 9);
    const steps = meanHeights(flight(0, 0.3, 0.15, 5), 0.4);
    const heights = Array.from({ length: 200 }, (_, i) => steps(-1 + 0.015 * i));
    expect([heights[0], heights[199]]).toEqual([0, expect.closeTo(0.75, 9)]);
    heights.slice(1).forEach((height, i) => expect(height - heights[i]).toBeLessThan(0.015));
  });
});
