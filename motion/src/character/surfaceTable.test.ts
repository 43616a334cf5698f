import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { surfaceRadius, surfaceTable } from "./surfaceTable.ts";

/** Vertices of a solid about the y axis: `radius` says how far its surface is at a share along it and an angle round it, metres. */
function solid(length: number, radius: (along: number, angle: number) => number, steps = 40): number[] {
  return Array.from({ length: steps * steps }, (_, i) => {
    const along = (i % steps) / (steps - 1);
    const angle = (2 * Math.PI * Math.floor(i / steps)) / steps;
    const r = radius(along, angle);
    return [r * Math.cos(angle), along * length, r * Math.sin(angle)];
  }).flat();
}

const around = (angle: number) => [Math.cos(angle), 0, Math.sin(angle)] as const;

describe("where a mesh is about a volume", () => {
  it("is read off cones and lopsided tubes, at any share along them and any way round", () => {
    const shapes: ((along: number, angle: number) => number)[] = [(along) => 0.12 - 0.07 * along, (_, angle) => 0.08 + 0.02 * Math.cos(angle), () => 0.1];
    fc.assert(
      fc.property(
        fc.constantFrom(...shapes),
        fc.double({ min: 0.1, max: 0.9, noNaN: true }),
        fc.double({ min: 0, max: 6.28, noNaN: true }),
        (shape, along, angle) => {
          const table = surfaceTable(solid(0.4, shape), 0.4);
          if (!table) throw new Error("no table");
          expect(Math.abs(surfaceRadius(table, along, ...around(angle)) - shape(along, angle))).toBeLessThan(0.006);
        },
      ),
    );
  });

  it("goes over to how far the mesh goes on beyond an end", () => {
    const cap = Array.from({ length: 30 }, (_, i) => [0.02 * Math.cos(i), 0.4 + 0.03, 0.02 * Math.sin(i)]).flat();
    const table = surfaceTable([...solid(0.4, () => 0.1), ...cap], 0.4);
    if (!table) throw new Error("no table");
    expect(surfaceRadius(table, 1, 0, 1, 0)).toBeCloseTo(0.03, 4);
    expect(surfaceRadius(table, 1, 1, 0, 0)).toBeCloseTo(0.1, 3);
    // Half way up the surface is that of the nearer of the two.
    const slanted = surfaceRadius(table, 1, Math.SQRT1_2, Math.SQRT1_2, 0);
    expect(slanted).toBeGreaterThan(0.03);
    expect(slanted).toBeLessThan(0.03 * Math.SQRT2);
  });

  it("takes the outer of two shells, fills gaps from beside them, and says nothing of a mesh on one side only", () => {
    const shells = surfaceTable([...solid(0.4, () => 0.1), ...solid(0.4, () => 0.03)], 0.4);
    expect(shells && surfaceRadius(shells, 0.5, 1, 0, 0)).toBeCloseTo(0.1, 2);
    // A shell inside that the outer one leaves open on one side.
    const open = solid(0.4, () => 0.1).filter((_, i, all) => Math.atan2(all[i - (i % 3) + 2], all[i - (i % 3)]) > -2);
    const holed = surfaceTable([...open, ...solid(0.4, () => 0.03)], 0.4);
    expect(holed && surfaceRadius(holed, 0.5, ...around(-2.5))).toBeCloseTo(0.1, 2);
    const thin = solid(0.4, () => 0.1).filter((_, i, all) => Math.abs(Math.atan2(all[i - (i % 3) + 2], all[i - (i % 3)])) < 0.2);
    expect(surfaceTable(thin, 0.4)).toBeNull();
  });
});
