import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { axisAngleQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { LimbParts } from "./limbPairs.ts";
import { sidesByName, sidesByPlace } from "./sides.ts";

/** Hip, knee, ankle and toes of a left and a right leg, then both shoulders: forward is +Z, up is +Y, left is +X. Knees are bent by so much, metres. */
const body = (bent: number, toes = 0.15) => [
  ...[0.1, -0.1].flatMap((x) => [
    [x, 0.9, 0],
    [x, 0.5, bent],
    [x, 0.08, 0],
    [x, 0.02, toes],
  ]),
  [0.2, 1.4, 0],
  [-0.2, 1.4, 0],
];
const limb = (first: number): LimbParts => ({ upper: first, lower: first + 1, end: first + 2, tip: first + 3, named: 0 });
const [LEFT, RIGHT] = [limb(0), limb(4)];
const arm = (joint: number): LimbParts => ({ upper: joint, lower: joint, end: joint, tip: -1, named: 0 });

/** One sample of such places, the whole turned about an axis. */
function seen(places: readonly (readonly number[])[], axis: readonly [number, number, number] = [0, 1, 0], angle = 0) {
  const turn = axisAngleQuatFlat(new Float64Array(4), 0, axis[0], axis[1], axis[2], angle);
  const positions = new Float64Array(places.length * 3);
  places.forEach((place, i) => rotateVecFlat(positions, i * 3, turn, 0, [...place], 0));
  return { count: 1, pointCount: places.length, positions };
}

describe("sides of a body without names", () => {
  it("are told by its legs, whichever way it lies, stands or hangs", () => {
    const component = fc.double({ min: -1, max: 1, noNaN: true });
    fc.assert(
      fc.property(component, component, component, fc.double({ min: -Math.PI, max: Math.PI, noNaN: true }), fc.boolean(), (x, y, z, angle, swapped) => {
        const length = Math.hypot(x, y, z);
        fc.pre(length > 0.1);
        const samples = seen(body(0.05), [x / length, y / length, z / length], angle);
        const { order } = sidesByPlace(samples, swapped ? [RIGHT, LEFT] : [LEFT, RIGHT], null, null, 1);
        expect(order).toEqual(swapped ? ["right", "left"] : ["left", "right"]);
      }),
    );
  });

  it("are told by straight legs with toes, by bent ones without, and where a crawling body's toes point back", () => {
    const told = (samples: ReturnType<typeof seen>, limbs: readonly [LimbParts, LimbParts]) => sidesByPlace(samples, limbs, null, null, 1).order[0];
    expect(told(seen(body(0)), [LEFT, RIGHT])).toBe("left");
    expect(
      told(seen(body(0.03)), [
        { ...RIGHT, tip: -1 },
        { ...LEFT, tip: -1 },
      ]),
    ).toBe("right");
    // On hands and knees: shins lie behind the knees, toes behind the ankles.
    const crawls = [0.1, -0.1].flatMap((x) => [
      [x, 0.45, 0],
      [x, 0.04, 0.05],
      [x, 0.04, -0.36],
      [x, 0.01, -0.45],
    ]);
    expect(told(seen(crawls), [LEFT, RIGHT])).toBe("left");
    expect(told(seen(crawls), [RIGHT, LEFT])).toBe("right");
  });

  it("of arms are those of the legs under them, though the trunk is twisted by a quarter", () => {
    const twisted = body(0.02).map(([x, y, z], i) => (i >= 8 ? [0.1 * x, y, -x] : [x, y, z]));
    const legs = { left: LEFT.upper, right: RIGHT.upper };
    for (const places of [body(0.02), twisted]) {
      expect(sidesByPlace(seen(places), [arm(9), arm(8)], legs, null, 1).order).toEqual(["right", "left"]);
      expect(sidesByPlace(seen(places), [arm(8), arm(9)], legs, null, 1).order).toEqual(["left", "right"]);
    }
  });

  it("of four legs are told by the way it faces, whatever its hooves do, and of names by what they say", () => {
    const back = body(0.05).map(([x, y, z]) => [x, y, -z]);
    expect(sidesByPlace(seen(back), [LEFT, RIGHT], null, [0, 0, 1], 1)).toEqual({ order: ["left", "right"], reason: "side from where the fore legs are" });
    expect(sidesByPlace(seen(back), [LEFT, RIGHT], null, null, 1).order).toEqual(["right", "left"]);
    expect(sidesByName("right")).toEqual({ order: ["right", "left"], reason: "right by name" });
  });
});
