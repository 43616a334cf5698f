import { describe, expect, it } from "vitest";
import { drawnCase, drawnCases } from "./drawn.ts";
import { madeFigures } from "./made.ts";

describe("walks and gaits drawn at random", () => {
  it("are the same for the same number, and of every kind", () => {
    const [one, again] = [7, 7].map((seed) => {
      const { perform, ...rest } = drawnCase(seed);
      return { walk: perform(), ...rest };
    });
    expect(again).toEqual(one);
    const all = drawnCases(0, 40);
    expect(new Set(all.map((c) => c.name)).size).toBe(40);
    expect(all.filter((c) => c.perform().legs.length === 4)).toHaveLength(20);
    for (const kind of ["trembles", "travel", "spikes", "floor", "bob"] as const)
      expect(all.filter((c) => c.faults[kind] !== undefined).length, kind).toBeGreaterThan(3);
    for (const { perform } of all) for (const { start, end } of perform().contacts) expect(end).toBeGreaterThanOrEqual(start);
  });

  it.each([0.02, -0.02])("show their heels where the clip is too high or too low by less than its joints can tell (%d m)", (floor) => {
    for (const seed of [2, 212]) {
      const { f1, slideMax } = madeFigures({ ...drawnCase(seed), faults: { floor: [floor, 0] } });
      expect(f1, `drawn ${seed}`).toBeGreaterThan(0.96);
      expect(slideMax).toBeLessThan(0.1);
    }
  });

  it("are left as they are where nothing is wrong, around a bend, too", () => {
    const { f1, slideMax, pops } = madeFigures({ ...drawnCase(30), faults: {} });
    expect(f1).toBeGreaterThan(0.97);
    expect(slideMax).toBeLessThan(0.01);
    expect(pops).toBe(0);
  });

  it.each([21, 163])("keep their hooves where a leg leaps at the edge of a stand, bob or travel wrongly as they may (drawn %d)", (seed) => {
    const one = drawnCase(seed);
    expect(one.faults).toMatchObject({ bob: expect.anything(), travel: expect.anything(), spikes: expect.anything() });
    expect(madeFigures(one).slideMax).toBeLessThan(0.6);
  });

  it("that tremble show by their feet's turning when toes come down", () => {
    const { f1Joints } = madeFigures({ ...drawnCase(8), faults: { trembles: 0.2 } });
    expect(f1Joints).toBeGreaterThan(0.95);
  });
});
