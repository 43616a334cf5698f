import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { expQuatFlat, quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import { rigidFit } from "./rigidFit.ts";

const number = fc.double({ min: -1, max: 1, noNaN: true });
const place = fc.tuple(number, number, number);
const moved = (places: readonly number[][], turn: Float64Array, by: readonly number[]) =>
  places.map((p) => Array.from(rotateVecFlat(new Float64Array(3), 0, turn, 0, p, 0), (v, i) => v + by[i]));
const apply = (fit: ReturnType<typeof rigidFit>, p: readonly number[]) =>
  Array.from(
    rotateVecFlat(
      new Float64Array(3),
      0,
      fit.turn,
      0,
      p.map((v, i) => v - fit.from[i]),
      0,
    ),
    (v, i) => v + fit.to[i],
  );

describe("the rigid movement nearest to", () => {
  it("places that were moved rigidly is that movement (property)", () => {
    const spread = [
      [0, 0, 0],
      [0.5, 0, 0.1],
      [0.1, 0.4, -0.2],
    ];
    fc.assert(
      fc.property(place, place, (vector, by) => {
        const turn = expQuatFlat(new Float64Array(4), 0, vector, 0) as Float64Array;
        const targets = moved(spread, turn, by);
        const fit = rigidFit(spread, targets);
        spread.forEach((p, k) => {
          apply(fit, p).forEach((v, i) => {
            expect(v).toBeCloseTo(targets[k][i], 6);
          });
        });
      }),
    );
  });

  it("one place is a move without a turn; two places turn by no more than their line does", () => {
    const one = rigidFit([[1, 2, 3]], [[1.1, 2, 3]]);
    expect(Array.from(one.turn)).toEqual([0, 0, 0, 1]);
    expect(one.to[0]).toBeCloseTo(1.1, 12);
    const fit = rigidFit(
      [
        [0, 0, 0],
        [0, 0, 0.4],
      ],
      [
        [0, 0, 0],
        [0, 0.06, Math.sqrt(0.16 - 0.0036)],
      ],
    );
    expect(quatAngleFlat(fit.turn, 0, [0, 0, 0, 1], 0)).toBeCloseTo(Math.asin(0.15), 6);
    expect(fit.turn[2]).toBeCloseTo(0, 9);
  });

  it("places that no rigid movement reaches shares what is left evenly, steadily", () => {
    // Five millimetres too far apart: half of it at either end, whatever the slope.
    for (let height = 0; height < 0.1; height += 0.003) {
      const fit = rigidFit(
        [
          [0, 0, 0],
          [0, 0, 0.4],
        ],
        [
          [0, height, 0],
          [0, 0, Math.sqrt(0.405 ** 2 - height ** 2)],
        ],
      );
      const end = apply(fit, [0, 0, 0]);
      expect(Math.hypot(end[0], end[1] - height, end[2])).toBeCloseTo(0.0025, 6);
    }
  });
});
