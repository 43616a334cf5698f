import fc from "fast-check";
import { quat as glQuat } from "gl-matrix";
import { Euler, Quaternion, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { eulerRunToQuats, eulerToQuatFlat, quatToEulerFlat } from "./euler.ts";
import { expQuatFlat, fromToQuatFlat, logQuatFlat, multiplyQuatFlat, quatAngleFlat, rotateVecFlat, slerpQuatFlat } from "./quat.ts";

const angle = fc.double({ min: -3.1, max: 3.1, noNaN: true });
const unitQuat = fc.tuple(angle, angle, angle).map(([x, y, z]) => new Quaternion().setFromEuler(new Euler(x, y, z)).toArray());
const vector = fc.tuple(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true }));
const near = (a: ArrayLike<number>, b: ArrayLike<number>, e = 1e-6) => Array.from(a).every((v, i) => Math.abs(v - b[i]) < e);
const ORDERS = { XYZ: [0, 1, 2], XZY: [0, 2, 1], YXZ: [1, 0, 2], YZX: [1, 2, 0], ZXY: [2, 0, 1], ZYX: [2, 1, 0] } as const;

describe("quaternions against three.js and gl-matrix", () => {
  it("multiply and rotate agree, at offsets and in place", () => {
    fc.assert(
      fc.property(unitQuat, unitQuat, vector, (a, b, v) => {
        const buffer = [9, 9, ...a, ...b, ...v];
        multiplyQuatFlat(buffer, 2, buffer, 2, buffer, 6);
        const product = new Quaternion(...a).multiply(new Quaternion(...b));
        expect(near(buffer.slice(2, 6), product.toArray())).toBe(true);
        expect(near(buffer.slice(2, 6), glQuat.multiply(glQuat.create(), a as [number, number, number, number], b as [number, number, number, number]))).toBe(
          true,
        );
        rotateVecFlat(buffer, 10, buffer, 2, buffer, 10);
        expect(near(buffer.slice(10), new Vector3(...v).applyQuaternion(product).toArray())).toBe(true);
      }),
    );
  });

  it("slerp agrees and returns its ends bit for bit", () => {
    fc.assert(
      fc.property(unitQuat, unitQuat, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
        const out = slerpQuatFlat([0, 0, 0, 0], 0, a, 0, b, 0, t);
        const reference = new Quaternion(...a).slerp(new Quaternion(...b), t).toArray();
        expect(quatAngleFlat(out, 0, reference, 0)).toBeLessThan(1e-5);
        expect(slerpQuatFlat([0, 0, 0, 0], 0, a, 0, b, 0, 0)).toEqual(a);
      }),
    );
  });

  it("log and exp undo each other; fromTo turns the one direction onto the other", () => {
    fc.assert(
      fc.property(unitQuat, vector, vector, (q, u, v) => {
        expect(quatAngleFlat(expQuatFlat([0, 0, 0, 0], 0, logQuatFlat([0, 0, 0], 0, q, 0), 0), 0, q, 0)).toBeLessThan(1e-6);
        if (Math.hypot(...u) < 0.01 || Math.hypot(...v) < 0.01) return;
        const turn = fromToQuatFlat([0, 0, 0, 0], 0, u[0], u[1], u[2], v[0], v[1], v[2]);
        const turned = new Vector3(...(rotateVecFlat([0, 0, 0], 0, turn, 0, u, 0) as [number, number, number]));
        expect(turned.angleTo(new Vector3(...v))).toBeLessThan(1e-5);
      }),
      // All but opposite.
      {
        examples: [
          [
            [0, 0, 0, 1],
            [0, -0.01, 4.4e-7],
            [0, 0.01, 0],
          ] as [[number, number, number, number], [number, number, number], [number, number, number]],
        ],
      },
    );
  });
});

describe("Euler angles against three.js, all six orders", () => {
  for (const [name, order] of Object.entries(ORDERS)) {
    it(`${name}: the same rotation both ways`, () => {
      fc.assert(
        fc.property(angle, angle, angle, (x, y, z) => {
          const angles = order.map((axis) => [x, y, z][axis]);
          const q = eulerToQuatFlat([0, 0, 0, 0], 0, order, angles, 0);
          const reference = new Quaternion().setFromEuler(new Euler(x, y, z, name as "XYZ"));
          expect(quatAngleFlat(q, 0, reference.toArray(), 0)).toBeLessThan(1e-6);
          const back = quatToEulerFlat([0, 0, 0], 0, order, q, 0, [0, 0, 0], 0);
          expect(quatAngleFlat(eulerToQuatFlat([0, 0, 0, 0], 0, order, back, 0), 0, q, 0)).toBeLessThan(1e-6);
        }),
      );
    });
  }

  it("a run of degrees, over any number of turns, is the same rotations, each in the hemisphere of the one before", () => {
    const degrees = fc.oneof(
      fc.double({ min: -100, max: 100, noNaN: true }),
      fc.double({ min: -3000, max: 3000, noNaN: true }),
      fc.integer({ min: -40, max: 40 }).map((n) => n * 45),
    );
    fc.assert(
      fc.property(fc.constantFrom(...Object.values(ORDERS)), fc.array(fc.tuple(degrees, degrees, degrees), { minLength: 1, maxLength: 8 }), (order, rows) => {
        // The angles stand in columns 3, 1 and 0 of rows of five.
        const values = Float64Array.from(rows.flatMap(([a, b, c]) => [c, b, 1e9, a, 1e9]));
        const quats = new Float32Array(rows.length * 4);
        const before = [0, 0, 0, -1];
        eulerRunToQuats(quats, { order, columns: [3, 1, 0], stride: 5 }, values, rows.length, before, 0);
        rows.forEach((row, f) => {
          const radians = row.map((d) => (d * Math.PI) / 180);
          const reference = new Quaternion();
          order.forEach((axis, i) => {
            reference.multiply(new Quaternion().setFromAxisAngle(new Vector3().setComponent(axis, 1), radians[i]));
          });
          const sign = Math.sign(reference.dot(new Quaternion(...quats.slice(f * 4, f * 4 + 4))));
          expect(
            near(
              quats.slice(f * 4, f * 4 + 4),
              reference.toArray().map((v) => v * sign),
              2e-7,
            ),
          ).toBe(true);
          const last = f === 0 ? before : quats.slice(f * 4 - 4, f * 4);
          expect([0, 1, 2, 3].reduce((sum, i) => sum + quats[f * 4 + i] * last[i], 0)).toBeGreaterThan(-1e-7);
        });
      }),
    );
  });

  it("unrolls a turn of three whole turns without a jump, also through gimbal lock", () => {
    const order = ORDERS.ZXY;
    const near3 = [0, 0, 0];
    for (let i = 0; i <= 600; i++) {
      const truth = [(i / 100) * Math.PI, 0.3 * Math.sin(i / 40), 0.1];
      const q = eulerToQuatFlat([0, 0, 0, 0], 0, order, truth, 0);
      const before = [...near3];
      quatToEulerFlat(near3, 0, order, q, 0, near3, 0);
      expect(Math.max(...near3.map((v, k) => Math.abs(v - before[k])))).toBeLessThan(0.12);
      expect(near3[0]).toBeCloseTo(truth[0], 6);
    }
    const locked = eulerToQuatFlat([0, 0, 0, 0], 0, order, [0.7, Math.PI / 2, 0.4], 0);
    const angles = quatToEulerFlat([0, 0, 0], 0, order, locked, 0, [0.7, 1.5, 0.4], 0);
    expect(quatAngleFlat(eulerToQuatFlat([0, 0, 0, 0], 0, order, angles, 0), 0, locked, 0)).toBeLessThan(1e-6);
    expect(angles[0]).toBeCloseTo(0.7, 6);
  });
});
