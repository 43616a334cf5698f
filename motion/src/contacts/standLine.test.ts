import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { normalNumbers } from "../testing/noise.ts";
import { legAway } from "./legAway.ts";
import { plainAway } from "./segment.ts";
import { leverage, type Stand, standWeights, tremblingOf } from "./standLine.ts";

const FPS = 60;
const LENGTH = 30;

/**
 * A foot that stands while the hips pass over it, on a leg of two bones: hip 0.9 m over the ground, from 0.35 m behind the foot to as far in front of it. Each of
 * both joints is turned by normal noise of `angle` radians about every axis (Rodrigues' formula to the first order, exact enough at a degree).
 */
function passing(angle: number, seed = 1, moves: readonly [number, number] = [0, 0], slope: readonly [number, number] = [0, 0]): Stand {
  const random = normalNumbers(seed);
  const course = new Float64Array(LENGTH * 3);
  const hip = new Float64Array(LENGTH * 3);
  const knee = new Float64Array(LENGTH * 3);
  for (let f = 0; f < LENGTH; f++) {
    const t = (f - (LENGTH - 1) / 2) / FPS;
    const level = [0.1 + moves[0] * t, 0.4 + moves[1] * t];
    const right = [level[0], 0.02 + slope[0] * level[0] + slope[1] * level[1], level[1]];
    const at = [right[0] - 0.1, 0.92, right[2] - 0.35 + (0.7 * f) / (LENGTH - 1)];
    const bent = right.map((v, i) => (v + at[i]) / 2 + (i === 2 ? 0.06 : 0));
    const place = right.slice();
    for (const joint of [at, bent]) {
      const [ex, ey, ez] = [random(), random(), random()].map((v) => v * angle);
      const [x, y, z] = right.map((v, i) => v - joint[i]);
      place[0] += ey * z - ez * y;
      place[1] += ez * x - ex * z;
      place[2] += ex * y - ey * x;
    }
    course.set(place, f * 3);
    hip.set(at, f * 3);
    knee.set(bent, f * 3);
  }
  return { start: 0, length: LENGTH, course, carriers: [hip, knee], slope };
}

const velocity = ({ course, start, length }: Stand, weights: Float64Array) =>
  Array.from({ length: length * 3 }, (_, i) => weights[i] * course[start * 3 + i]).reduce((a, b) => a + b, 0);
const rms = (values: readonly number[]) => Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length);
const DEGREE = Math.PI / 180;

describe("the trembling of a leg", () => {
  it("takes its foot across the way to each joint, as far as that is long", () => {
    const m = new Float64Array(6);
    tremblingOf(m, Float64Array.of(9, 9, 9, 0, 0, 0), [Float64Array.of(0, 0, 0, 0, 2, 0)], 1);
    expect([...m].map((v) => v + 0)).toEqual([4, 0, 0, 0, 0, 4]);
    tremblingOf(m, Float64Array.of(0, 0, 0), [Float64Array.of(0, 2, 0), Float64Array.of(-3, 0, 0)], 0);
    expect([...m].map((v) => v + 0)).toEqual([4, 0, 0, 9, 0, 13]);
    // Both ways slanted at once: the covariance of e × r for unit e is |r|²·1 − r·rᵀ.
    tremblingOf(m, Float64Array.of(1, -2, 3), [Float64Array.of(0, 0, 0)], 0);
    expect([...m]).toEqual([13, 2, -3, 10, 6, 5]);
  });

  it("has a leverage: its mean variance on a level axis", () => {
    // Two metres straight over it at first, then one metre beside it: 4 on either axis, and 1 on one of them and in height.
    const carriers = [Float64Array.of(0, 2, 0, 1, 0, 0)];
    expect(leverage({ start: 0, length: 2, course: new Float64Array(6), carriers, slope: [0, 0] })).toBeCloseTo((4 + 0.5) / 2, 12);
    expect(leverage({ start: 1, length: 1, course: new Float64Array(6), carriers, slope: [0, 0] })).toBeCloseTo(0.5, 12);
  });
});

describe("the line along which a part moves while it stands", () => {
  it("is exact where nothing trembles, whatever trembling is reckoned with, level or on a slope", () => {
    const speed = fc.double({ min: -0.5, max: 0.5, noNaN: true });
    const steep = fc.double({ min: -0.2, max: 0.2, noNaN: true });
    fc.assert(
      fc.property(speed, speed, steep, steep, fc.constantFrom(0, 0.2, 1, 3), (vx, vz, sx, sz, degrees) => {
        const stand = passing(0, 1, [vx, vz], [sx, sz]);
        const line = standWeights(stand, { angle: degrees * DEGREE, way: 0 }, 0.002, FPS);
        expect(velocity(stand, line?.along[0] ?? new Float64Array(0))).toBeCloseTo(vx, 6);
        expect(velocity(stand, line?.along[1] ?? new Float64Array(0))).toBeCloseTo(vz, 6);
      }),
    );
  });

  it("is as sure as it says, and along the way that the leg leans two and a half times as sure as where heights wander and say nothing", () => {
    const angle = 0.6 * DEGREE;
    const off = (uneven: number) => {
      const seen = Array.from({ length: 300 }, (_, i) => {
        const stand = passing(angle, 7 + 31 * i);
        const line = standWeights(stand, { angle, way: 0 }, uneven, FPS);
        return ([0, 1] as const).map((k) => velocity(stand, line?.along[k] ?? new Float64Array(0)));
      });
      return [0, 1].map((k) => rms(seen.map((v) => v[k])));
    };
    const [across, along] = off(0);
    const [xx, , zz] = standWeights(passing(0), { angle, way: 0 }, 0, FPS)?.covariance ?? [0, 0, 0];
    for (const [seen, told] of [
      [across, xx],
      [along, zz],
    ]) {
      // It reckons with uneven heights besides.
      expect(seen / Math.sqrt(told)).toBeGreaterThan(0.55);
      expect(seen / Math.sqrt(told)).toBeLessThan(1.2);
    }
    expect(off(1)[1] / along).toBeGreaterThan(2.5);
  });

  it("leaves a frame out at which the part has left already", () => {
    const stand = passing(0.2 * DEGREE, 5);
    const clean = standWeights(stand, { angle: 0.2 * DEGREE, way: 0 }, 0, FPS);
    const before = velocity(stand, clean?.along[1] ?? new Float64Array(0));
    stand.course[(LENGTH - 1) * 3 + 1] += 0.03;
    stand.course[(LENGTH - 1) * 3 + 2] += 0.06;
    const line = standWeights(stand, { angle: 0.2 * DEGREE, way: 0 }, 0, FPS);
    expect(line?.along[1][(LENGTH - 1) * 3 + 2]).toBe(0);
    expect(Math.abs(velocity(stand, line?.along[1] ?? new Float64Array(0)) - before)).toBeLessThan(0.01);
  });

  it("is none where there is too little to see it by", () => {
    const stand = passing(0);
    expect(standWeights({ ...stand, length: 1 }, { angle: 0.01, way: 0 }, 0, FPS)).toBeNull();
  });
});

describe("how far a part of a trembling leg is from a place", () => {
  const stand = passing(0);
  const rest = [0.1, 0.02, 0.4];
  const moved = (f: number, by: readonly number[]) => {
    const course = stand.course.slice();
    by.forEach((v, i) => {
      course[f * 3 + i] += v;
    });
    return course;
  };

  it("counts what lies along the leg for more than what lies across it", () => {
    // On its first frame the leg leans: from the foot to the hip it is (−0.1, 0.9, −0.35).
    const length = Math.hypot(0.1, 0.9, 0.35);
    const along = [-0.1, 0.9, -0.35].map((v) => (0.01 * v) / length);
    const across = [0, 0.35, 0.9].map((v) => (0.01 * v) / Math.hypot(0.35, 0.9));
    const away = (by: readonly number[], heave = 0) => legAway(moved(0, by), heave, stand.course, stand.carriers, 0.01)(0, rest);
    expect(away(along)).toBeGreaterThan(0.025);
    expect(away(across)).toBeGreaterThan(0.006);
    expect(away(across)).toBeLessThan(0.011);
    expect(away([0, 0, 0])).toBe(0);
    // A height is free as far as the body may heave.
    expect(away([0, 0.005, 0], 0.006)).toBe(0);
    expect(away([0, 0.015, 0], 0.005)).toBeCloseTo(away([0, 0.01, 0]), 12);
    expect(away([0, -0.015, 0], 0.005)).toBeCloseTo(away([0, -0.01, 0]), 12);
  });

  it("is as much as in a straight line for the leg's own trembling, on the whole", () => {
    const ratios = Array.from({ length: 40 }, (_, i) => {
      const shaky = passing(0.5 * DEGREE, 3 + 17 * i);
      const [leg, plain] = [legAway(shaky.course, 0, stand.course, stand.carriers, 0.01), plainAway(shaky.course, 0)];
      const square = (away: typeof leg) => Array.from({ length: LENGTH }, (_f, f) => away(f, rest) ** 2).reduce((a, b) => a + b, 0);
      return Math.sqrt(square(leg) / square(plain));
    });
    const mean = ratios.reduce((a, b) => a + b, 0) / ratios.length;
    expect(mean).toBeGreaterThan(0.8);
    expect(mean).toBeLessThan(1.25);
  });

  it("counts them alike where the whole body trembles as much as the foot, and in between where its joints do besides", () => {
    const random = normalNumbers(9);
    const shaken = (way: number) => stand.carriers.map((course, i) => (i === stand.carriers.length - 1 ? course.map((v) => v + way * random()) : course));
    const length = Math.hypot(0.1, 0.9, 0.35);
    const along = [-0.1, 0.9, -0.35].map((v) => (0.01 * v) / length);
    const away = (way: number, noise: number) => legAway(moved(0, along), 0, stand.course, shaken(way), noise)(0, rest);
    // Its root is the last of what carries it.
    expect(away(0.01, 0.004)).toBeCloseTo(0.01, 12);
    const joints = away(0, 0.01);
    expect(away(0.004, 0.01)).toBeLessThan(0.9 * joints);
    expect(away(0.004, 0.01)).toBeGreaterThan(0.0105);
  });
});
