import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { apart, goal, joint, load, place, rig, skeleton } from "../testing/reaching.ts";
import { FREE, type Freedom, type Goal, reachBody } from "./bodyReach.ts";
import type { PoseFrame } from "./poseFrame.ts";

const feet = (frame: PoseFrame): Goal[] => ["LeftFoot", "RightFoot"].map((name) => goal(frame, name, place(frame, joint(name))));

/** Largest change of any bone's length, as a share. */
function stretch(frame: PoseFrame): number {
  let worst = 0;
  skeleton.parents.forEach((parent, j) => {
    if (parent < 0) return;
    const rest = Math.hypot(...[0, 1, 2].map((c) => skeleton.offsets[j * 3 + c]));
    if (rest > 0) worst = Math.max(worst, Math.abs(apart(place(frame, j), place(frame, parent)) - rest) / rest);
  });
  return worst;
}

describe("whole-body reach", () => {
  it("brings hands, feet, chest and head to any target within limits to a tenth of a millimetre; no bone changes its length", () => {
    const shift = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.18, max: 0.18, noNaN: true })));
    fc.assert(
      fc.property(fc.constantFrom("LeftHand", "RightHand", "LeftFoot", "Chest", "Head"), shift, fc.integer({ min: 0, max: 89 }), (name, by, f) => {
        const frame = load(f);
        const target = place(frame, joint(name)).map((v, c) => v + by[c]);
        // The legs of this body are all but straight: with its feet held the trunk cannot rise.
        const others = name === "Chest" || name === "Head" ? [] : feet(frame).filter((g) => g.joint !== joint(name));
        const left = reachBody(frame, rig, [goal(frame, name, target), ...others]);
        expect(apart(place(frame, joint(name)), target)).toBeLessThan(1e-4);
        for (const other of left) expect(other.position).toBeLessThan(1e-4);
        expect(stretch(frame)).toBeLessThan(1e-6);
      }),
      { numRuns: 400, seed: 3 },
    );
  });

  it("leaves the pose bit for bit where everything is where it should be", () => {
    const frame = load();
    const before = frame.rotations.slice();
    reachBody(frame, rig, [...feet(frame), goal(frame, "LeftHand", place(frame, joint("LeftHand"))), goal(frame, "Chest", place(frame, joint("Chest")))]);
    expect(frame.rotations).toEqual(before);
  });

  it("goes as near as it can when a target is out of reach, and says how far it stays away", () => {
    const frame = load();
    const from = place(frame, joint("LeftHand"));
    const target = [from[0] + 3, from[1], from[2]];
    const fixed: Freedom = { ...FREE, move: [0, 0, 0], hipsTurn: [0, 0, 0], locked: new Set(skeleton.names.keys()) };
    const limb = rig.limbs.find((l) => l.end === joint("LeftHand"));
    if (!limb) throw new Error("no such limb");
    const [left] = reachBody(frame, rig, [goal(frame, "LeftHand", target)], fixed);
    // Nothing but the arm may move: the nearest place is on the line from the shoulder, an arm's length out.
    const shoulder = place(frame, limb.upper);
    expect(left.position).toBeCloseTo(apart(shoulder, target) - limb.length * 0.99995, 5);
    expect(apart(place(frame, limb.end), shoulder)).toBeCloseTo(limb.length * 0.99995, 6);
    // With the body free it comes along, feet and all, and gets there.
    const free = load();
    const [there] = reachBody(free, rig, [goal(free, "LeftHand", target)]);
    expect(there.position).toBeLessThan(1e-3);
  });

  it("keeps a held chest in place and orientation while the hips are turned and moved under it", () => {
    const frame = load();
    const chest = joint("Chest");
    const position = place(frame, chest);
    const orientation = frame.worldRotations.slice(chest * 4, chest * 4 + 4);
    frame.turnWorld(rig.hips, Float64Array.of(0, Math.sin(0.06), 0, Math.cos(0.06)));
    frame.moveWorld(rig.mover, 0.015, -0.01, 0);
    frame.update();
    const [left] = reachBody(frame, rig, [{ joint: chest, local: null, position, orientation, rank: "keep", extent: 0 }], {
      ...FREE,
      move: [0, 0.08, 0.08],
      hipsTurn: [0, 0, 0],
    });
    expect(left.position).toBeLessThan(1e-6);
    expect(left.orientation).toBeLessThan(1e-6);
  });
});
