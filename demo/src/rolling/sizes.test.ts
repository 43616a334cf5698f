import { readMotion } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { type MadeCase, madeFigures } from "../grid/made.ts";
import { type FourGait, fourLegged } from "./fourLegs.ts";
import { rolledText } from "./text.ts";
import { type RollingGait, rolledWalk } from "./walker.ts";

const GALLOP: FourGait = { name: "gallop", speed: 1.2, stride: 2.2, duty: 0.25, lags: [0, 0.12, 0.45, 0.57], pitch: 0.05 };
const CANTER: FourGait = { name: "canter", speed: 0.888, stride: 1.869, duty: 0.327, lags: [0, 0.28, 0.28, 0.55], pitch: 0.03 };
const TROT: FourGait = { name: "trot", speed: 0.73, stride: 1.3, duty: 0.42, lags: [0, 0.5, 0.5, 0], pitch: 0.02 };
const HAND = { order: ["z", "x", "y"], unit: 100 } as const;

function four(gait: FourGait, withers: number, unit: number, curve = 0, rest: Partial<MadeCase> = {}, seconds = 2.5): MadeCase {
  const joints = Array.from({ length: 22 }, (_, i) => `J${i}`);
  const walk = fourLegged({ name: "four", withers, joints }, gait, 60, seconds, curve);
  return { name: `${withers} m, ${gait.name}`, perform: () => walk, faults: {}, hand: { ...HAND, unit }, seed: 1, ...rest };
}

function two(height: number, legs: number, unit: number): MadeCase {
  const gait: RollingGait = {
    name: "walk",
    speed: 0.75 * height,
    stride: 0.8 * height,
    duty: 0.62,
    strike: 0.3,
    push: 0.6,
    lift: 0.05,
    width: 1,
    curve: 0,
    bob: 0.01,
    lag: 0,
  };
  const joints = Array.from({ length: 19 }, (_, i) => `J${i}`);
  const walk = rolledWalk({ name: "two", height, foot: 0.04, toe: 0.02, ankle: 0.04, legs, joints }, gait, 60, 3);
  return { name: `${height} m`, perform: () => walk, faults: {}, hand: { ...HAND, unit }, seed: 1 };
}

/** How many times its size a file's body is taken for. */
function sizeRead({ perform, hand }: MadeCase): number {
  const walk = perform();
  const file = readMotion(new TextEncoder().encode(rolledText(walk, walk.turns, walk.roots, hand)), { fileName: "made.bvh" });
  return file.unitScale * hand.unit;
}

describe("bodies of another make", () => {
  it.each([
    [0.37, 1000],
    [0.63, 100],
    [1.1, 1],
    [1.5, 100],
  ])("that gallop, canter and trot at %d m have their size, straight on and around a bend, at %d units a metre", (withers, unit) => {
    for (const gait of [GALLOP, CANTER, TROT])
      for (const curve of [0, 0.3 / withers]) {
        const one = four(gait, withers, unit, curve);
        expect(sizeRead(one), `${one.name}, ${curve}`).toBeCloseTo(1, 5);
      }
  });

  const INCHES = 1 / 0.0254;
  it.each([
    [1.02, 0.85, 100],
    [1.05, 1, INCHES],
    [1.3, 0.85, INCHES],
    [1.75, 1, INCHES],
    [2.3, 1.1, 100],
  ])("are children and giants as tall as they are: %d m, legs × %d, at %d units a metre", (height, legs, unit) => {
    expect(sizeRead(two(height, legs, unit))).toBeCloseTo(1, 5);
  });

  it("on four legs have their spikes mended where a fore hoof's trembling goes up by it, and no knee leaps over a hoof that is held", () => {
    const spoilt = four(
      CANTER,
      1.237,
      100,
      0,
      { faults: { travel: 0.81, trembles: 0.46, spikes: 8 }, seed: 22, hand: { order: ["z", "y", "x"], unit: 100 } },
      3.02,
    );
    expect(madeFigures(spoilt).pops).toBe(0);
  });

  it("that tremble slightly at a high rate are steadied: no knee leaps, and hooves stay", () => {
    const slow: FourGait = { name: "slow walk", speed: 0.18, stride: 0.77, duty: 0.66, lags: [0, 0.5, 0.25, 0.75], pitch: 0.02 };
    for (const seed of [9, 376]) {
      const { pops, slideMax } = madeFigures(four(slow, 1.5, 100, 0, { faults: { trembles: 0.11 }, seed }));
      expect([pops, slideMax < 0.5], `${seed}`).toEqual([0, true]);
    }
  });
});
