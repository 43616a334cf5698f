import { describe, expect, it } from "vitest";
import { ownHeights, type SeenHeights, tiltAt } from "./sharedHeights.ts";

const FRAMES = 400;
/** Feet come down 0.7 m apart, each for 36 frames of 60, both for 6 between. */
const STEPS = 13;

/** Toes at 2 and 2.6 cm over a floor that slopes, on a body heaved by `heave`; some of the feet stand off by `rough`. */
function walked(slope: number, heave: (frame: number) => number, rough: (step: number) => number = () => 0): SeenHeights[] {
  return Array.from({ length: STEPS }, (_, k) => {
    const start = k * 30;
    const length = Math.min(36, FRAMES - start);
    const [x, z] = [k % 2 ? 0.09 : -0.09, 0.7 * k];
    return {
      point: k % 2 ? "rightToe" : "leftToe",
      start,
      heights: Float64Array.from({ length }, (_, i) => (k % 2 ? 0.026 : 0.02) + slope * z + heave(start + i) + rough(k)),
      x: new Float64Array(length).fill(x),
      z: new Float64Array(length).fill(z),
      weights: new Float64Array(length).fill(1),
    };
  });
}

const LOOSE = { rest: 0.05, slope: [0.025, 0.025] as const, off: 0.0001, heave: 0.006, rate: null };
const FPS = 60;

describe("heights that parts have of their own", () => {
  const bob = (f: number) => 0.008 * Math.sin((2 * Math.PI * 1.7 * f) / 60 + 1);

  it("are told from what heaves them all, and so is the slope, whatever the heave is", () => {
    const { rests, tilt, off } = ownHeights(walked(0.01, bob), FRAMES, 1, LOOSE, FPS);
    expect(tilt.slopeZ).toBeCloseTo(0.01, 5);
    expect((rests.get("rightToe") ?? 0) - (rests.get("leftToe") ?? 0)).toBeCloseTo(0.006, 3);
    expect(off).toBeLessThan(1e-5);
  });

  it("do not take a heave that keeps step with the places for a slope", () => {
    // A straight line through where the feet stand would rise by 1 mm a step.
    const rising = (f: number) => (0.001 * f) / 30;
    const { tilt } = ownHeights(walked(0, rising), FRAMES, 1, LOOSE, FPS);
    expect(Math.abs(tilt.slopeZ)).toBeLessThan(1e-5);
  });

  it("are what was known beforehand where places are too rough to tell", () => {
    const rough = (k: number) => 0.006 * Math.sin(k * 2.4);
    const sure = ownHeights(walked(0, bob, rough), FRAMES, 6, { ...LOOSE, slope: [1e-4, 1e-4], off: 0.005 }, FPS);
    const unsure = ownHeights(walked(0, bob, rough), FRAMES, 6, { ...LOOSE, off: 0.005 }, FPS);
    expect(Math.abs(sure.tilt.slopeZ)).toBeLessThan(1e-4);
    expect(sure.off).toBeGreaterThan(0.001);
    expect(Math.abs(sure.tilt.slopeZ)).toBeLessThan(Math.abs(unsure.tilt.slopeZ));
  });

  it("are told where nothing rests together too, by a heave that does not jump as one foot takes over", () => {
    const alone = walked(0.01, bob).map((s) => ({ ...s, weights: s.weights.map((w, i) => (i < 3 || i >= 33 ? 0 : w)) }));
    const { rests, tilt } = ownHeights(alone, FRAMES, 1, LOOSE, FPS);
    expect(tilt.slopeZ).toBeCloseTo(0.01, 4);
    expect((rests.get("rightToe") ?? 0) - (rests.get("leftToe") ?? 0)).toBeCloseTo(0.006, 3);
  });

  it("leave a heave over that is the true one but for what is alike everywhere", () => {
    const { heave } = ownHeights(walked(0, bob), FRAMES, 1, LOOSE, FPS);
    const off = heave.map((v, f) => v - bob(f)).slice(0, 390);
    expect(Math.max(...off) - Math.min(...off)).toBeLessThan(0.0003);
  });

  it("count a tilt from the middle of the places that carry weight", () => {
    const seen = walked(0.01, bob);
    const { tilt } = ownHeights(seen, FRAMES, 1, LOOSE, FPS);
    expect(tilt.about[1]).toBeCloseTo(
      (0.7 * seen.reduce((sum, s, k) => sum + k * s.heights.length, 0)) / seen.reduce((sum, s) => sum + s.heights.length, 0),
      9,
    );
    expect(tiltAt(tilt, tilt.about[0], tilt.about[1] + 2)).toBeCloseTo(2 * tilt.slopeZ + 0, 9);
  });
});
