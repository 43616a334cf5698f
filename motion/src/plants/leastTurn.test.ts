import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { leastTurn } from "./leastTurn.ts";

/** [x, z, depth] of each place, metres. */
type Place = readonly [number, number, number];

function solved(places: readonly Place[]): { x: number; z: number; lift: number } {
  const out = new Float64Array(3);
  leastTurn(out, Float64Array.from(places.flat()), places.length);
  return { x: out[0], z: out[1], lift: out[2] };
}
type Found = ReturnType<typeof solved>;
const left = ({ x, z, lift }: Found, [px, pz, depth]: Place) => depth - (z * px - x * pz + lift);
/** What is made least, by the definition: a turn's way at 8 cm from the ball squared, and 25 times the lift's square. */
const cost = ({ x, z, lift }: Found) => 0.08 ** 2 * (x * x + z * z) + 25 * lift * lift;

const place = fc.tuple(
  fc.double({ min: -0.2, max: 0.1, noNaN: true }),
  fc.double({ min: -0.06, max: 0.06, noNaN: true }),
  fc.double({ min: -0.03, max: 0.03, noNaN: true }),
);

describe("the least turn of a foot", () => {
  it("turns a foot that stands on one edge about its length, and hardly raises it", () => {
    // Edges 4 cm beside the ball, all along the foot; the left one 1 cm deep, the right one as high.
    const edges: Place[] = [-0.15, -0.05, 0.05].flatMap((along): Place[] => [
      [0.04, along, 0.01],
      [-0.04, along, -0.01],
    ]);
    const { x, z, lift } = solved(edges);
    expect(Math.abs(x)).toBeLessThan(1e-3);
    expect(lift).toBeGreaterThan(0);
    expect(lift).toBeLessThan(0.002);
    expect(z * 0.04 + lift).toBeCloseTo(0.01, 4);
  });

  it("raises a foot that is in the ground on all sides, and does nothing for one that is not in it", () => {
    const sunk = solved([-0.05, 0.05].flatMap((x): Place[] => [-0.05, 0.05].map((z): Place => [x, z, 0.006])));
    expect(sunk.lift).toBeCloseTo(0.006, 4);
    expect(Math.hypot(sunk.x, sunk.z)).toBeLessThan(1e-3);
    expect(solved([[0.04, 0.1, -0.001]])).toEqual({ x: 0, z: 0, lift: 0 });
  });

  it("leaves no place in the ground, and no other turn and lift that does costs less", () => {
    fc.assert(
      fc.property(
        fc.array(place, { minLength: 1, maxLength: 20 }),
        fc.array(fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true })), { minLength: 20, maxLength: 20 }),
        (places, others) => {
          const found = solved(places);
          for (const one of places) expect(left(found, one)).toBeLessThan(1e-4);
          // Turns near it and far from it, each raised as much as it has to be.
          for (const [dx, dz] of others.flatMap(([a, b]) => [0.01, 0.1, 0.5].map((size) => [a * size, b * size]))) {
            const turn = { x: found.x + dx, z: found.z + dz, lift: 0 };
            const other = { ...turn, lift: Math.max(0, ...places.map((one) => left(turn, one))) };
            expect(cost(other)).toBeGreaterThan(cost(found) - 2e-6);
          }
        },
      ),
      { numRuns: 200 },
    );
  });
});
