import { describe, expect, it } from "vitest";
import { gaitCases } from "./gaits.ts";
import { madeFigures } from "./made.ts";
import { rolledCases } from "./rolled.ts";

const cases = [...gaitCases(), ...rolledCases()];

/** Clips of the second make at few frames a second, where heave, heights and heels are hardest to tell apart: F1 of the frames on which parts are known to rest. */
describe("contacts of a body", () => {
  it.each([
    // Spans of three to five frames seem to tremble where they only bob: 0.76 where they are taken to.
    ["0.8 m, 25, gallop, bob 0.8 cm, 1.7 Hz", 0.945],
    // A bob that seems to be a slope and heights of left and right puts heels where that makes sense: 0.91.
    ["rolled child, 24, curve, bob 0.8 cm, 1.7 Hz", 0.968],
    // A sole that is thinner than it is makes heels seem to rise as they roll: 0.79.
    ["rolled child, 25, run, floor −6 cm, drift", 0.96],
    ["rolled child, 60, limp, floor −6 cm, drift", 0.96],
  ])("%s: F1 over %d", (name, least) => {
    const one = cases.find((c) => c.name === name);
    if (!one) throw new Error(`no clip ${name}`);
    expect(madeFigures(one).f1).toBeGreaterThan(least);
  });
});
