import { Evaluator, emptyWork, measure, oneSource, readMotion } from "@stride/motion";
import { describe, expect, it } from "vitest";
import type { Made } from "../rolling/made.ts";
import { type RollingFaults, spoiled } from "../rolling/spoil.ts";
import { rolledText } from "../rolling/text.ts";
import { gaitCases } from "./gaits.ts";
import type { MadeCase } from "./made.ts";
import { rolledCases } from "./rolled.ts";
import { unspoiltCases, unspoiltFigures } from "./unspoilt.ts";

const clean = [...rolledCases(), ...gaitCases()].filter(({ faults }) => Object.keys(faults).length === 0).filter((_, i) => i % 4 === 0);

function measured({ hand }: MadeCase, made: Made, faults: RollingFaults) {
  const { turns, roots } = spoiled(made, faults, 5);
  const { skeleton, clip } = readMotion(new TextEncoder().encode(rolledText(made, turns, roots, hand)), { fileName: "made.bvh" });
  const { base } = new Evaluator(oneSource(skeleton, clip)).evaluate({ ...emptyWork(), patches: [] });
  const spoiltFrames = turns.flatMap((turn, f) => (turn.some((m, j) => m !== made.turns[f][j]) ? [f] : []));
  return { ...measure(base), spoiltFrames };
}

describe("motions with nothing wrong", () => {
  it("are each there once at each rate, and keep their names", () => {
    const names = unspoiltCases(4).map(({ name }) => name);
    expect(names).toContain("rolled, 30, walk");
    expect(names).toContain("0.8 m, 25, trot");
    expect(names.filter((name) => name.startsWith("drawn"))).toHaveLength(4);
    expect(names.some((name) => name.includes("spikes") || name.includes("rough"))).toBe(false);
  });

  it("have nothing found in what is quick and by few frames: a hind leg that kicks out, a canter, a run", () => {
    const quick = unspoiltCases(0).filter(({ name }) => /^(0.8 m, 24, kicking out|0.45 m, 25, canter|rolled giant, 2[45], run)$/.test(name));
    expect(quick).toHaveLength(5);
    for (const one of quick) expect(unspoiltFigures(one).findings, one.name).toBe("");
  });

  it("are told of a wrong one what is wrong", () => {
    const [one] = unspoiltCases(0);
    const made = one.perform();
    const pushed = made.roots.map(([x, y, z]) => [x, y + 0.1, z] as const);
    expect(unspoiltFigures(one).found).toBe(0);
    expect(unspoiltFigures({ ...one, perform: () => ({ ...made, roots: pushed }) }).findings).toContain("Motion floats above zero");
  });
});

/** What is no finding on them must not cost those that are. */
describe("the same motions, spoilt", () => {
  it("have most one-frame faults of legs told, on their frames and no others", () => {
    let [put, found] = [0, 0];
    for (const one of clean) {
      const { pops, spoiltFrames } = measured(one, one.perform(), { spikes: 5 });
      put += spoiltFrames.length;
      found += spoiltFrames.filter((f) => pops.some((pop) => pop.start === f)).length;
      expect(
        pops.filter((pop) => !spoiltFrames.includes(pop.start)).map((pop) => pop.start),
        one.name,
      ).toEqual([]);
    }
    expect(put).toBeGreaterThan(50);
    expect(found / put).toBeGreaterThan(0.75);
  });

  it("have trembling told in each, and in nearly half of their joints", () => {
    let [joints, told] = [0, 0];
    for (const one of clean) {
      const made = one.perform();
      const trembling = new Set(measured(one, made, { trembles: 1.2 }).jitter.map((e) => e.joint)).size;
      expect(trembling, one.name).toBeGreaterThan(0);
      joints += made.joints.length;
      told += trembling;
    }
    expect(told / joints).toBeGreaterThan(0.45);
  });
});
