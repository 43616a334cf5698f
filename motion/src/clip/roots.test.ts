import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { axisAngleQuatFlat, quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import { apart, stick, worldAt } from "../testing/patched.ts";
import { moveBody, movePlace, type RigidMove } from "./roots.ts";

const small = fc.double({ min: -2, max: 2, noNaN: true });
const anyMove = fc.record({ x: small, y: small, z: small, angle: fc.double({ min: -3, max: 3, noNaN: true }), turned: fc.boolean() }).map(
  ({ x, y, z, angle, turned }): RigidMove => ({
    shift: [x, y, z],
    turn: turned ? (axisAngleQuatFlat(new Float64Array(4), 0, 0.6, 0.64, 0.48, angle) as Float64Array) : null,
  }),
);

describe("moving a body as one piece", () => {
  it("takes every joint where the move takes its place, and turns it as the move does (property)", () => {
    fc.assert(
      fc.property(anyMove, fc.integer({ min: 0, max: stick.skeleton.names.length - 1 }), (move, joint) => {
        const moved = moveBody(stick.skeleton, stick.clip, (f) => (f === 40 ? move : null));
        const [was, now] = [worldAt(stick.clip, 40, joint), worldAt(moved, 40, joint)];
        expect(apart(now.place, movePlace(was.place as [number, number, number], move))).toBeLessThan(1e-5);
        if (move.turn) {
          const ahead = rotateVecFlat(new Float64Array(3), 0, was.turn, 0, [0, 0, 1], 0) as Float64Array;
          rotateVecFlat(ahead, 0, move.turn, 0, ahead, 0);
          const here = rotateVecFlat(new Float64Array(3), 0, now.turn, 0, [0, 0, 1], 0) as Float64Array;
          expect(apart(ahead, here)).toBeLessThan(1e-5);
        } else expect(quatAngleFlat(was.turn, 0, now.turn, 0)).toBeLessThan(1e-6);
        // Other frames keep their bits.
        expect(worldAt(moved, 39, joint)).toEqual(worldAt(stick.clip, 39, joint));
      }),
      { numRuns: 60 },
    );
  });
});
