import { conjugateQuatFlat, emptyNotes, readCharacterNotes, rotateVecFlat } from "@stride/motion";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  belongsTo,
  boundIs,
  type Change,
  FREE,
  freeOf,
  inJoint,
  kept,
  limitsAre,
  partAsFound,
  partIs,
  pointAsFound,
  pointAt,
  pointsAt,
  restTurned,
  saidPoints,
} from "./notes.ts";

const after = (...changes: Change[]) => changes.reduce((notes, change) => change(notes), emptyNotes());

describe("what is said of a character", () => {
  it("is changed without touching what was said before, and can always be read back", () => {
    const first = after(partIs("leftHand", "HandL"));
    const frozen = JSON.stringify(first);
    const all = [
      partIs("tail", null),
      restTurned("Head", 0, -25),
      pointAt("leftHeel", [0.01, -0.08, -0.05]),
      boundIs("LeftShin", "bend", 1, 140),
      limitsAre({ Head: { bend: [-40, 40], side: [-30, 30], twist: [-80, 80] } }),
    ].reduce((notes, change) => change(notes), first);
    expect(JSON.stringify(first)).toBe(frozen);
    expect(readCharacterNotes(JSON.parse(JSON.stringify(all)))).toEqual(all);
    expect(all.body).toEqual({ leftHand: "HandL", tail: null });
    // What was measured takes the place of what was there.
    expect(Object.keys(all.limits)).toEqual(["Head"]);
  });

  it("is nothing once all of it has been taken back", () => {
    const back = after(
      partIs("tail", null),
      partAsFound("tail"),
      restTurned("Head", 1, 10),
      restTurned("Head", 1, 0),
      pointAt("seat", [0, 0, 0.1]),
      pointAsFound("seat"),
      boundIs("Head", "twist", 0, -60),
      freeOf("Head"),
    );
    expect(kept(back)).toBeNull();
    expect(kept(after(partIs("tail", null)))).not.toBeNull();
  });

  it("turns a joint about each axis by itself", () => {
    expect(after(restTurned("Head", 0, 5), restTurned("Head", 2, -7)).rest).toEqual({ Head: [5, 0, -7] });
    expect(after(restTurned("Head", 0, 5), restTurned("Head", 2, -7), restTurned("Head", 0, 0)).rest).toEqual({ Head: [0, 0, -7] });
  });

  it("keeps a lower bound below its upper one, whichever is set", () => {
    expect(after(boundIs("Head", "bend", 0, -40)).limits.Head).toEqual({ ...FREE, bend: [-40, 180] });
    expect(after(boundIs("Head", "bend", 1, 30), boundIs("Head", "bend", 0, 50)).limits.Head.bend).toEqual([50, 50]);
    expect(after(boundIs("Head", "bend", 0, 20), boundIs("Head", "bend", 1, -10)).limits.Head.bend).toEqual([-10, -10]);
  });

  it("keeps points to tenths of a millimetre", () => {
    expect(after(pointsAt({ leftToe: [0.123456, -0.00004, 0], seat: [1, 2, 3] })).points).toEqual({ leftToe: [0.1235, -0, 0], seat: [1, 2, 3] });
  });
});

it("a point is shown where it is said to lie at once, the others where they were", () => {
  const point = (id: string) => ({ id, joint: 3, local: [0, 0, 0.1] as const, clearance: 0, modelled: true, named: 3, limb: -1, side: null, bears: false });
  const points = [point("seat"), point("back")];
  const shown = saidPoints(points, after(pointAt("back", [0, 0.02, -0.11])));
  expect(shown[0]).toBe(points[0]);
  expect(shown[1]).toMatchObject({ id: "back", joint: 3, local: [0, 0.02, -0.11], placed: true });
  expect(points[1].local).toEqual([0, 0, 0.1]);
});

describe("a place on the skin", () => {
  it("is told in its joint's frame: turned and moved back it is where it was (property)", () => {
    const number = fc.double({ min: -2, max: 2, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(number, number, number), fc.tuple(number, number, number), fc.tuple(number, number, number, number), (place, at, turn) => {
        const size = Math.hypot(...turn);
        fc.pre(size > 0.01);
        const q = turn.map((v) => v / size);
        const local = inJoint(place, 1, [9, 9, 9, ...at], [0, 0, 0, 1, ...q]);
        const back = rotateVecFlat([0, 0, 0], 0, q, 0, local, 0);
        for (let c = 0; c < 3; c++) expect(back[c] + at[c]).toBeCloseTo(place[c], 9);
        expect(conjugateQuatFlat([0, 0, 0, 0], 0, q, 0)[3]).toBe(q[3]);
      }),
    );
  });

  it("belongs to a point of its own joint, of the one above next to it, or of any above it; not to another limb's", () => {
    // hips 0, thigh 1, shin 2, foot 3; spine 4
    const parents = [-1, 0, 1, 2, 0];
    expect(belongsTo(3, 3, parents)).toBe(true);
    expect(belongsTo(2, 3, parents)).toBe(true);
    expect(belongsTo(3, 2, parents)).toBe(true);
    expect(belongsTo(1, 3, parents)).toBe(false);
    expect(belongsTo(4, 2, parents)).toBe(false);
  });
});
