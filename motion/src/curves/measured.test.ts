import { describe, expect, it } from "vitest";
import { findPart } from "../character/parts.ts";
import { ClipDraft } from "../clip/clip.ts";
import { LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { editFrame } from "../pose/editFrame.ts";
import { stick, worldAt } from "../testing/patched.ts";
import { gaugeOf, type Measure, measuredCurve, measureLabel, measureUnit } from "./measured.ts";

const { character, clip } = stick.evaluator().evaluate(stick.work()).base;
const { rig, skeleton } = character;
const part = (joint: string) => ({ joint });
const index = (ref: Parameters<typeof findPart>[1]) => findPart(character, ref) ?? -1;
const gauge = (measure: Measure, ground = LEVEL_GROUND) => gaugeOf(measure, rig, ground, index);
const at = (f: number) => {
  const frame = new PoseFrame(skeleton, clip);
  frame.load(clip, f);
  return frame;
};
const place = (name: string, f: number) => worldAt(clip, f, stick.joint(name)).place;
const read = (measure: Measure, f: number, ground = LEVEL_GROUND) => gauge(measure, ground).read(at(f));

/** The figure standing turned to its left by so many degrees. */
function facing(degrees: number) {
  const draft = ClipDraft.of(clip);
  const half = (degrees * Math.PI) / 360;
  for (let f = 0; f < clip.frameCount; f++) draft.setRotation(0, f, [0, Math.sin(half), 0, Math.cos(half)]);
  const frame = new PoseFrame(skeleton, draft.done());
  frame.load(draft.clip, 0);
  return frame;
}

describe("what is measured of a pose", () => {
  it("is a joint's place in the world on each axis, centimetres", () => {
    for (const [axis, i] of [
      ["x", 0],
      ["y", 1],
      ["z", 2],
    ] as const)
      expect(read({ of: "position", part: part("LeftHand"), axis, space: "world" }, 30)).toBeCloseTo(100 * place("LeftHand", 30)[i], 6);
  });

  it("is its place as the body sees it: to its left, up and forward of the hips, whichever way it faces", () => {
    const own = (axis: "x" | "y" | "z", degrees: number) => gauge({ of: "position", part: part("LeftHand"), axis, space: "body" }).read(facing(degrees));
    for (const axis of ["x", "y", "z"] as const) for (const degrees of [90, 180, -60]) expect(own(axis, degrees)).toBeCloseTo(own(axis, 0), 4);
    // The left hand is to the left.
    expect(own("x", 0)).toBeGreaterThan(5);
    expect(gauge({ of: "position", part: part("RightHand"), axis: "x", space: "body" }).read(facing(0))).toBeLessThan(-5);
  });

  it("is the distance between two joints, and a height over the ground under it", () => {
    const [a, b] = [place("LeftHand", 20), place("RightHand", 20)];
    expect(read({ of: "distance", part: part("LeftHand"), to: part("RightHand") }, 20)).toBeCloseTo(100 * Math.hypot(...a.map((v, i) => v - b[i])), 6);
    const toe = place("LeftToeBase", 20);
    expect(read({ of: "height", part: part("LeftToeBase") }, 20)).toBeCloseTo(100 * toe[1], 6);
    expect(read({ of: "height", part: part("LeftToeBase") }, 20, planeGround(0.1, 0, 0.2))).toBeCloseTo(100 * (toe[1] - 0.1 - 0.2 * toe[2]), 6);
  });

  it("is the body's heading, counted on over whole turns", () => {
    for (const degrees of [0, 35, -120]) expect(gauge({ of: "heading" }).read(facing(degrees))).toBeCloseTo(degrees, 3);
    const draft = ClipDraft.of(clip);
    for (let f = 0; f < clip.frameCount; f++) {
      const half = (10 * f * Math.PI) / 360;
      draft.setRotation(0, f, [0, Math.sin(half), 0, Math.cos(half)]);
    }
    const curve = measuredCurve(skeleton, draft.done(), gauge({ of: "heading" }));
    curve.forEach((v, f) => {
      expect(v).toBeCloseTo(10 * f, 2);
    });
  });

  it("is its lean, forward positive, and its sway to the left from between the feet", () => {
    const frame = facing(0);
    const spine = stick.joint("Spine");
    frame.setLocal(spine, [Math.sin(0.15), 0, 0, Math.cos(0.15)]);
    frame.update();
    // Chest 20 cm over a spine that lies 10 cm over the hips: atan2(20 sin 17.2°, 10 + 20 cos 17.2°).
    expect(gauge({ of: "lean" }).read(frame)).toBeCloseTo((Math.atan2(20 * Math.sin(0.3), 10 + 20 * Math.cos(0.3)) * 180) / Math.PI, 1);
    const upright = facing(0);
    upright.setLocal(spine, [0, 0, 0, 1]);
    upright.update();
    expect(gauge({ of: "lean" }).read(upright)).toBeCloseTo(0, 6);
    const still = gauge({ of: "sway" }).read(facing(0));
    expect(Math.abs(still)).toBeLessThan(0.1);
    // Feet alone to the right: the hips are to their left.
    const swayed = facing(90);
    for (const name of ["LeftUpLeg", "RightUpLeg"]) swayed.setLocal(stick.joint(name), [0, 0, Math.sin(-0.1), Math.cos(-0.1)]);
    swayed.update();
    expect(gauge({ of: "sway" }).read(swayed)).toBeGreaterThan(10);
  });

  it("has a unit and a name", () => {
    expect(measureUnit({ of: "heading" })).toBe("°");
    expect(measureUnit({ of: "lean" })).toBe("°");
    for (const of of ["sway"] as const) expect(measureUnit({ of })).toBe("cm");
    const name = (ref: unknown) => (ref as { joint: string }).joint;
    expect(measureLabel({ of: "position", part: part("Hand"), axis: "x", space: "world" }, name)).toBe("Hand x, world");
    expect(measureLabel({ of: "position", part: part("Hand"), axis: "x", space: "body" }, name)).toBe("Hand to the left of the hips");
    expect(measureLabel({ of: "position", part: part("Hand"), axis: "z", space: "body" }, name)).toBe("Hand forward of the hips");
    expect(measureLabel({ of: "distance", part: part("A"), to: part("B") }, name)).toBe("A to B");
    expect(measureLabel({ of: "height", part: part("A") }, name)).toBe("A over the floor");
    expect([measureLabel({ of: "heading" }, name), measureLabel({ of: "lean" }, name), measureLabel({ of: "sway" }, name)]).toEqual([
      "Heading",
      "Lean",
      "Sway",
    ]);
  });
});

describe("what is driven", () => {
  const driven = (measure: Measure, by: number, f = 12) => {
    const own = gauge(measure);
    const before = at(f);
    const frame = at(f);
    editFrame(frame, before, rig, own.drive(before, by), [], []);
    return own.read(frame) - own.read(before);
  };

  it("comes to what was asked for, or near it where a reading does not answer evenly", () => {
    expect(driven({ of: "position", part: part("LeftHand"), axis: "y", space: "world" }, 4)).toBeCloseTo(4, 2);
    expect(driven({ of: "position", part: part("LeftHand"), axis: "x", space: "body" }, -3)).toBeCloseTo(-3, 2);
    expect(driven({ of: "height", part: part("LeftHand") }, 5)).toBeCloseTo(5, 2);
    expect(driven({ of: "distance", part: part("LeftHand"), to: part("RightHand") }, 2)).toBeCloseTo(2, 0);
    expect(driven({ of: "distance", part: part("LeftHand"), to: part("RightHand") }, -3)).toBeCloseTo(-3, 0);
    expect(driven({ of: "heading" }, 20)).toBeCloseTo(20, 2);
    expect(driven({ of: "sway" }, 2)).toBeCloseTo(2, 0);
    expect(Math.sign(driven({ of: "lean" }, 5))).toBe(1);
  });

  it("says which joint it moves, if one", () => {
    expect(gauge({ of: "height", part: part("LeftHand") }).moves).toBe(stick.joint("LeftHand"));
    expect(gauge({ of: "distance", part: part("LeftHand"), to: part("Head") }).moves).toBe(stick.joint("LeftHand"));
    for (const of of ["heading", "lean", "sway"] as const) expect(gauge({ of }).moves).toBe(-1);
    // No distance is driven below nothing.
    const own = gauge({ of: "distance", part: part("LeftHand"), to: part("RightHand") });
    const length = own.read(at(12));
    const [op] = own.drive(at(12), -1e6);
    if (op.op !== "move") throw new Error("no move");
    expect(100 * Math.hypot(...Array.from(op.vector))).toBeCloseTo(length, 6);
  });
});
