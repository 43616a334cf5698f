import { describe, expect, it } from "vitest";
import { expectedOver, type Sole, type SolePoint } from "../character/soles.ts";
import type { RestPoint } from "../ground/fitGround.ts";
import { liftOf, planeUnder, settleSoles } from "./settleSoles.ts";

const point = (id: string, modelled: boolean): SolePoint => ({ id, local: [0, -0.1, 0.1], modelled, clearance: 0 });
const sole = (side: string, expected = 0.02): Sole => ({
  leg: {} as Sole["leg"],
  track: { frameCount: 0, positions: new Float64Array(0), rotations: new Float32Array(0) },
  unseen: new Set(),
  points: [point(`${side}Heel`, false), point(`${side}Toe`, true)],
  along: null,
  flat: [],
  upLocal: [0, 1, 0],
  legLength: 0.9,
  expected,
});
const soles = [sole("left"), sole("right")];
/** Six places a part along a walk, on a plane of that slope, at a height a part. */
function rests(heights: Readonly<Record<string, number>>, slopeZ = 0, from = 0): RestPoint[] {
  return Object.entries(heights).flatMap(([part, height]) =>
    Array.from({ length: 6 }, (_, i): RestPoint => {
      const z = from + 0.7 * i;
      return { part, point: [part.startsWith("left") ? 0.1 : -0.1, height + slopeZ * z, z], weight: 1, stirs: 0.0005 };
    }),
  );
}
const both = (heel: number, toe: number) => ({ leftHeel: heel, rightHeel: heel, leftToe: toe, rightToe: toe });
const settled = (heights: Readonly<Record<string, number>>) => settleSoles(soles, rests(heights));

describe("the ground off, or a sole thicker than it looks", () => {
  it("is a thicker sole while the joints lie where soles can explain: each keeps its height, the clip's zero is believed", () => {
    const {
      soles: [left],
      off,
    } = settled(both(0.03, 0.025));
    expect(off).toBe(0);
    expect(left.points[1].clearance).toBeCloseTo(0.025, 4);
    expect(left.points[1].local).toEqual([0, -0.1, 0.1]);
    // An estimate goes down to the ground.
    expect(left.points[0].local[1]).toBeCloseTo(-0.13, 4);
    expect(left.points[0].clearance).toBe(0);
    expect(settled(both(0.05, 0.088)).off).toBe(0);
  });

  it("is the ground where they lie higher than any sole, or under zero, by what proportions leave over", () => {
    const high = settled(both(0.3, 0.3));
    expect(high.off).toBeCloseTo(0.28, 4);
    expect(high.soles[0].points[1].clearance).toBeCloseTo(0.02, 4);
    const low = settled(both(-0.05, -0.05));
    expect(low.off).toBeCloseTo(-0.07, 4);
    expect(low.soles[1].points[1].clearance).toBeCloseTo(0.02, 4);
    // One foot that sinks is enough: no sole explains it, whatever the other does; so is one that hangs.
    const uneven = (left: number, right: number) => settled({ leftHeel: left, leftToe: left, rightHeel: right, rightToe: right }).off;
    expect(uneven(0.03, -0.05)).toBeCloseTo(-0.03, 3);
    expect(uneven(0.03, 0.2)).toBeCloseTo(0.095, 3);
    // A few millimetres under zero are none.
    expect(settled(both(-0.004, -0.004)).off).toBe(0);
  });

  it("goes by the estimates where no joint is there, and says nothing of parts that never rest", () => {
    const {
      soles: [left, right],
      off,
    } = settled({ leftHeel: 0.01 });
    expect(off).toBe(0);
    expect(left.points[0].local[1]).toBeCloseTo(-0.11, 4);
    expect(right.points).toEqual(soles[1].points);
    expect(left.points[1]).toEqual(soles[0].points[1]);
    expect(settleSoles(soles, [])).toEqual({ soles, off: 0 });
  });
});

describe("what a sole should be thick by its proportions", () => {
  /** Ankle 10 cm over the ground and ball 3 cm, 15 cm ahead, standing flat on ground that rises by so much a metre ahead. */
  const onSlope = (slopeZ: number): Sole => {
    const half = -Math.atan(slopeZ) / 2;
    const track = {
      frameCount: 2,
      positions: new Float64Array(6),
      rotations: Float32Array.of(...[0, 1].flatMap(() => [Math.sin(half), 0, 0, Math.cos(half)])),
    };
    return { ...sole("left"), track, flat: [0, 1], points: [point("leftHeel", false), { ...point("leftToe", true), local: [0, -0.07, 0.15] }] };
  };
  const over = (of: Sole, sure: number, likeliest = sure) => expectedOver(of, { slopeX: 0, slopeZ: sure }, { slopeX: 0, slopeZ: likeliest });
  it("is across the ground, not straight up: the same on any slope that the foot lies along", () => {
    const level = over(onSlope(1e-9), 1e-9);
    expect(level).toBeCloseTo((0.039 / 0.491) * 0.9 - 0.07, 6);
    for (const slope of [-0.1, 0.03, 0.2]) expect(over(onSlope(slope), slope)).toBeCloseTo(level, 6);
    // On level ground, and where no joint is there, it is what was found in building the sole.
    expect(over(onSlope(0.1), 0)).toBe(0.02);
    expect(over({ ...onSlope(0.1), points: [point("leftHeel", false), point("leftToe", false)] }, 0.1)).toBe(0.02);
  });

  it("goes down to where the heel has been seen to roll, across the likeliest slope, be it sure or not", () => {
    const rolled = (slope: number): Sole => {
      const [heel, toe] = onSlope(slope).points;
      return { ...onSlope(slope), points: [{ ...heel, rolledAt: [0, -0.083, -0.06] }, toe] };
    };
    expect(over(rolled(1e-9), 0)).toBeCloseTo(0.013, 6);
    for (const slope of [-0.1, 0.03]) for (const sure of [0, slope]) expect(over(rolled(slope), sure, slope)).toBeCloseTo(0.013, 6);
    // A toe joint under the heel's pivot is as deep as it goes.
    expect(over({ ...rolled(0), points: [{ ...rolled(0).points[0], rolledAt: [0, -0.05, -0.06] }, rolled(0).points[1]] }, 0)).toBe(0);
  });
});

describe("a heel that was seen to roll, where the ground is off", () => {
  it("stays where it is in its foot, and tells how far off the ground is", () => {
    const upright = { frameCount: 2, positions: new Float64Array(6), rotations: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1) };
    const seen = soles.map((s): Sole => {
      const [heel, toe] = s.points;
      return { ...s, track: upright, flat: [0, 1], points: [{ ...heel, local: [0, -0.115, -0.06], rolledAt: [0, -0.115, -0.06], rolls: 0 }, toe] };
    });
    // Toe joints 1.5 cm over where heels roll, all of it 20 cm up; on a slope that nobody is sure of heels stand 4 mm higher.
    for (const higher of [0, 0.004]) {
      const { soles: out, off } = settleSoles(seen, rests(both(0.2 + higher, 0.215)));
      expect(off).toBeCloseTo(0.2, 4);
      expect(out[0].points[0].local).toEqual([0, -0.115, -0.06]);
      expect(out[0].points[0].clearance).toBeCloseTo(higher, 4);
      expect(out[0].points[1].clearance).toBeCloseTo(0.015, 4);
    }
  });
});

describe("a slope", () => {
  it("is counted from the place nearest to the origin that the feet have been to", () => {
    const fit = { slopeX: 0.1, slopeZ: 0.2, heights: new Map<string, number>() };
    const at = (x: number, z: number): RestPoint => ({ part: "a", point: [x, 0, z], weight: 1, stirs: 0 });
    // The origin lies among them: nothing to count.
    expect(liftOf([at(-1, -2), at(3, 4)], fit)).toBe(0);
    expect(liftOf([at(2, 5), at(3, 9)], fit)).toBeCloseTo(0.1 * 2 + 0.2 * 5, 12);
    expect(liftOf([at(-4, -9), at(-3, -6)], fit)).toBeCloseTo(0.1 * -3 + 0.2 * -6, 12);
    expect(liftOf([], fit)).toBe(0);
  });

  it("is the plane that the parts stand on by their clearances", () => {
    const fit = { slopeX: 0, slopeZ: 0.05, heights: new Map([["leftToe", 0.12]]) };
    const [left] = settled(both(0.03, 0.025)).soles;
    const ground = planeUnder([left], fit);
    expect(ground.slopeZ).toBe(0.05);
    expect(ground.height).toBeCloseTo(0.12 - left.points[1].clearance, 4);
  });
});
