import { describe, expect, it } from "vitest";
import { splitAtSteps } from "./smallSteps.ts";

const FPS = 120;
const LEG = 0.9;
const STILL = { noise: 0, cutoff: 14 };

/** A foot at 0 until frame 40, from there on its way, and from frame 70 on `far` metres on: seen over frames 0 to 119. */
const stepping = (far: number) =>
  Float64Array.from({ length: 120 * 3 }, (_, i) => {
    const t = Math.max(0, Math.min(1, (Math.floor(i / 3) - 40) / 30));
    const share = t * t * (3 - 2 * t);
    return i % 3 === 2 ? far * share : i % 3 === 1 ? 0.02 * Math.sin(Math.PI * share) : 0.3;
  });

describe("a span with a small step in it", () => {
  it("is two: each rest to where it leaves, or from where it arrives", () => {
    const [a, b, ...more] = splitAtSteps(stepping(0.06), [5, 115], FPS, LEG, STILL);
    expect(more).toEqual([]);
    expect([a[0], b[1]]).toEqual([5, 115]);
    // The step is slow at its ends: a few frames more or less are told later, by where the part rests.
    expect(a[1]).toBeGreaterThanOrEqual(39);
    expect(a[1]).toBeLessThanOrEqual(45);
    expect(b[0]).toBeGreaterThanOrEqual(65);
    expect(b[0]).toBeLessThanOrEqual(71);
  });

  it("stays one where the places are no further apart than travel and noise may make them, by the body's size", () => {
    expect(splitAtSteps(stepping(0.02), [5, 115], FPS, LEG, STILL)).toEqual([[5, 115]]);
    expect(splitAtSteps(stepping(0.06), [5, 115], FPS, LEG, { noise: 0.02, cutoff: 14 })).toEqual([[5, 115]]);
    expect(splitAtSteps(stepping(0.06), [5, 115], FPS, 3 * LEG, STILL)).toEqual([[5, 115]]);
    expect(splitAtSteps(stepping(0.02), [5, 115], FPS, LEG / 2, STILL)).toHaveLength(2);
  });

  it("stays one where the foot skates evenly, and where it has been there for a moment only", () => {
    const skating = Float64Array.from({ length: 120 * 3 }, (_, i) => (i % 3 === 2 ? 0.001 * Math.floor(i / 3) : 0));
    expect(splitAtSteps(skating, [0, 119], FPS, LEG, STILL)).toEqual([[0, 119]]);
    expect(splitAtSteps(stepping(0.06), [36, 115], FPS, LEG, STILL)).toEqual([[36, 115]]);
  });

  it("stays one where the foot lifts and comes down where it was", () => {
    const there = stepping(0.06).map((v, i) => (i % 3 === 2 ? 0 : v));
    expect(splitAtSteps(there, [5, 115], FPS, LEG, STILL)).toEqual([[5, 115]]);
  });

  it("stays one where the foot goes aside and comes back to rest where it was, wherever in the world that is", () => {
    // Out by 4 cm around frame 60 and back.
    const aside = Float64Array.from(
      { length: 120 * 3 },
      (_, i) => [3, 0, 5][i % 3] + (i % 3 === 0 ? 0.04 * Math.exp(-(((Math.floor(i / 3) - 60) / 7) ** 2)) : 0),
    );
    expect(splitAtSteps(aside, [5, 115], FPS, LEG, STILL)).toEqual([[5, 115]]);
    const far = stepping(0.06).map((v, i) => v + [3, 0, 5][i % 3]);
    expect(splitAtSteps(far, [5, 115], FPS, LEG, STILL)).toEqual(splitAtSteps(stepping(0.06), [5, 115], FPS, LEG, STILL));
  });

  it("is looked at from three times a rest on, and split where the step goes sideways too", () => {
    const sideways = stepping(0.06).map((_, i, all) => (i % 3 === 0 ? all[i + 2] : i % 3 === 2 ? 0.1 : all[i]));
    expect(splitAtSteps(sideways, [5, 115], FPS, LEG, STILL)).toHaveLength(2);
    expect(splitAtSteps(sideways, [41, 68], FPS, LEG, STILL)).toEqual([[41, 68]]);
  });
});
