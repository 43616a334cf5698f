import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { rotateVecFlat } from "../math/quat.ts";
import { makeTwoBoneReach, reachTwoBone } from "./twoBone.ts";

const START = [0.1, 1, 0.05];
const MIDDLE = [0.12, 0.58, 0.12];
const END = [0.1, 0.16, 0.02];
const HINGE = [1, 0, 0];
const length = (a: ArrayLike<number>, b: ArrayLike<number>) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
const L1 = length(START, MIDDLE);
const L2 = length(MIDDLE, END);

/** Middle and end after the reach. */
function solve(hip: number[], target: number[]) {
  const reach = makeTwoBoneReach();
  reachTwoBone(reach, START, 0, MIDDLE, 0, END, 0, hip, target, HINGE);
  const add = (a: ArrayLike<number>, b: ArrayLike<number>) => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
  const middle = add(
    hip,
    rotateVecFlat(
      [0, 0, 0],
      0,
      reach.upper,
      0,
      [0, 1, 2].map((i) => MIDDLE[i] - START[i]),
      0,
    ),
  );
  const end = add(
    middle,
    rotateVecFlat(
      [0, 0, 0],
      0,
      reach.lower,
      0,
      [0, 1, 2].map((i) => END[i] - MIDDLE[i]),
      0,
    ),
  );
  return { middle, end, shortfall: reach.shortfall };
}

const place = fc.tuple(
  fc.double({ min: -0.8, max: 0.8, noNaN: true }),
  fc.double({ min: -0.2, max: 0.9, noNaN: true }),
  fc.double({ min: -0.8, max: 0.8, noNaN: true }),
);

describe("two-bone reach", () => {
  it("meets every target within reach to a tenth of a millimetre with bones as long as they were; beyond, says how short it falls", () => {
    fc.assert(
      fc.property(place, place, (shift, target) => {
        const hip = [START[0] + shift[0] * 0.1, START[1] + shift[1] * 0.1, START[2] + shift[2] * 0.1];
        const { middle, end, shortfall } = solve(hip, target);
        expect(length(hip, middle)).toBeCloseTo(L1, 9);
        expect(length(middle, end)).toBeCloseTo(L2, 9);
        const distance = length(hip, target);
        if (distance < (L1 + L2) * 0.9999 && distance > Math.abs(L1 - L2) + 1e-3) {
          expect(length(end, target)).toBeLessThan(1e-6);
          // Law of cosines: the angle at the middle joint.
          const cos = (L1 ** 2 + L2 ** 2 - distance ** 2) / (2 * L1 * L2);
          const u = [0, 1, 2].map((i) => hip[i] - middle[i]);
          const v = [0, 1, 2].map((i) => end[i] - middle[i]);
          expect((u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) / (L1 * L2)).toBeCloseTo(cos, 6);
        } else expect(length(end, target)).toBeCloseTo(shortfall, 5);
      }),
      { numRuns: 500 },
    );
  });

  it("leaves a pose alone whose target is where it is", () => {
    const { middle, end } = solve([...START], [...END]);
    expect(length(middle, MIDDLE)).toBeLessThan(1e-9);
    expect(length(end, END)).toBeLessThan(1e-9);
  });

  it("moves without a jump while the target passes full stretch and comes back", () => {
    let before = solve([...START], [...END]).middle;
    for (let i = 1; i <= 400; i++) {
      const down = 0.84 + 0.06 * Math.sin(i / 30);
      const { middle } = solve([...START], [START[0], START[1] - down, START[2] + 0.02]);
      expect(length(middle, before)).toBeLessThan(0.03);
      // The knee stays in front: the hinge keeps its side.
      expect(middle[2]).toBeGreaterThan(START[2] - 1e-3);
      before = middle;
    }
  });

  it("bends a chain that was all but straight about its hinge, however its middle wavered", () => {
    const target = [0.1, 0.35, 0.05];
    const bent = (aside: number) => {
      const middle = [0.1 + aside, 0.58, 0.05 + 0.02];
      const reach = makeTwoBoneReach();
      const [start, end] = [
        [0.1, 1, 0.05],
        [0.1, 0.16, 0.05],
      ];
      reachTwoBone(reach, start, 0, middle, 0, end, 0, start, target, HINGE, null, true);
      return rotateVecFlat(
        [0, 0, 0],
        0,
        reach.upper,
        0,
        middle.map((v, c) => v - start[c]),
        0,
      );
    };
    const [left, right] = [bent(-0.02), bent(0.02)];
    // It wavers by 4 cm as it comes, and is bent by 25 cm: by its own way alone it would swing through 90°, 35 cm.
    expect(left[2]).toBeGreaterThan(0.2);
    expect(right[2]).toBeGreaterThan(0.2);
    expect(length(left, right)).toBeLessThan(0.06);
  });
});
