import { describe, expect, it } from "vitest";
import { expQuatFlat, quatAngleFlat } from "../math/quat.ts";
import { normalNumbers } from "../testing/noise.ts";
import { courseNoise, steadiedCourse } from "./smoothCourse.ts";
import { laneNoise, steadiedLane } from "./smoothRotation.ts";

const N = 240;
const DEGREE = Math.PI / 180;

/** A lane of turns about x (radians, by frame), with noise of `sigma` radians about each axis, `burst` times as much on frames 100 to 107. */
function lane(turn: (f: number) => number, sigma: number, seed = 1, burst = 1): Float64Array {
  const random = normalNumbers(seed);
  const out = new Float64Array(N * 4);
  for (let f = 0; f < N; f++) {
    const size = sigma * (f >= 100 && f < 108 ? burst : 1);
    const noise = [random() * size, random() * size, random() * size];
    expQuatFlat(out, f * 4, [turn(f) + noise[0], noise[1], noise[2]], 0);
  }
  return out;
}

/** Root mean square of the angle between two lanes over frames, radians. */
function apart(a: Float64Array, b: Float64Array, from = 10, to = N - 10): number {
  let sum = 0;
  for (let f = from; f < to; f++) sum += quatAngleFlat(a, f * 4, b, f * 4) ** 2;
  return Math.sqrt(sum / (to - from));
}

const sway = (f: number) => 0.3 * Math.sin(f / 30);
/** A swing of 60° within 12 frames. */
const kick = (f: number) => DEGREE * 60 * Math.exp(-(((f - 120) / 5) ** 2));

describe("a steadied lane", () => {
  it("keeps a third of its noise where the movement is slow, and a movement that is quick", () => {
    const sigma = 0.5 * DEGREE;
    const noisy = lane(sway, sigma);
    const right = lane(sway, 0);
    expect(apart(steadiedLane(noisy, N, 15, sigma), right)).toBeLessThan(0.36 * apart(noisy, right));
    const kicks = steadiedLane(lane(kick, sigma), N, 15, sigma);
    const truth = lane(kick, 0);
    // Smoothed as widely as the sway it would be off by ten degrees.
    for (let f = 105; f < 136; f++) expect(quatAngleFlat(kicks, f * 4, truth, f * 4), `frame ${f}`).toBeLessThan(4 * sigma);
  });

  it("is as steady where for a few frames the noise is a little more than usual: that is no movement", () => {
    const sigma = 0.5 * DEGREE;
    const [plain, burst] = [1, 2.2].map((size) =>
      [3, 4, 5, 6, 7, 8].map((seed) => {
        const noisy = lane(sway, sigma, seed, size);
        return apart(steadiedLane(noisy, N, 15, sigma), lane(sway, 0), 96, 112) / apart(noisy, lane(sway, 0), 96, 112);
      }),
    );
    const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    expect(mean(plain)).toBeLessThan(0.28);
    expect(mean(burst)).toBeLessThan(0.3);
  });

  it("is the lane itself where there is no noise", () => {
    const clean = lane(kick, 0);
    expect(apart(steadiedLane(clean, N, 15, 1e-9), clean, 0, N)).toBeLessThan(1e-7);
  });
});

describe("the noise of a lane", () => {
  it("is that about each axis, whatever the movement, and none where there is only movement", () => {
    for (const [turn, sigma] of [
      [sway, 0.002],
      [sway, 0.01],
      [kick, 0.005],
    ] as const)
      expect(laneNoise(lane(turn, sigma), N) / sigma).toBeCloseTo(1, 0);
    expect(laneNoise(lane(sway, 0), N)).toBeLessThan(1e-6);
    expect(laneNoise(lane(sway, 0.01), 15)).toBe(0);
  });
});

describe("a course that trembles", () => {
  /** Hips that go along at 1.3 m/s and bob, with a hop of 20 cm within a third of a second, and noise of `sigma` metres along each axis. */
  const course = (sigma: number, seed = 1) => {
    const random = normalNumbers(seed);
    return Float64Array.from({ length: N * 3 }, (_, i) => {
      const f = Math.floor(i / 3);
      const right = [0.02 * Math.sin(f / 20), 0.95 + 0.02 * Math.sin(f / 8) + 0.2 * Math.exp(-(((f - 150) / 6) ** 2)), (1.3 * f) / 60][i % 3];
      return right + sigma * random();
    });
  };
  const off = (a: Float64Array, b: Float64Array, from: number, to: number) => {
    let sum = 0;
    for (let i = from * 3; i < to * 3; i++) sum += (a[i] - b[i]) ** 2;
    return Math.sqrt(sum / (3 * (to - from)));
  };

  it("tells its noise, whatever it does beside, and none where it only moves", () => {
    for (const sigma of [0.0005, 0.003]) expect(courseNoise(course(sigma)) / sigma).toBeCloseTo(1, 0);
    expect(courseNoise(course(0))).toBeLessThan(1e-5);
    expect(courseNoise(course(0.003).slice(0, 15 * 3))).toBe(0);
  });

  it("is steadied to a third of its noise where it goes evenly, and hops as high as it did", () => {
    const sigma = 0.003;
    const [noisy, right] = [course(sigma), course(0)];
    const steady = steadiedCourse(noisy, N, 8, sigma);
    expect(off(steady, right, 10, 120)).toBeLessThan(0.45 * off(noisy, right, 10, 120));
    expect(off(steady, right, 135, 165)).toBeLessThan(1.1 * sigma);
    expect(Math.abs(steady[150 * 3 + 1] - right[150 * 3 + 1])).toBeLessThan(3 * sigma);
    // Smoothed as widely there it would be cut by centimetres.
    const clean = course(0);
    expect(off(steadiedCourse(clean, N, 8, 1e-9), clean, 0, N)).toBeLessThan(1e-9);
  });
});
