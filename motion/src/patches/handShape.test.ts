import { buildBiped, gaitPlan, performBiped, straight } from "@stride/demo";
import { describe, expect, it } from "vitest";
import type { Role } from "../character/roles.ts";
import { readRotation } from "../clip/clip.ts";
import { makePatch, type Patch } from "../documents/patch.ts";
import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { PatchError } from "../formats/errors.ts";
import { FLAT_HAND, fingerJoints, handRotations } from "../hands/handShape.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { oneSource } from "../sources.ts";
import { differences, patch, stick } from "../testing/patched.ts";

// A body with fingers, by another generator than this package's own.
const { skeleton, ...build } = buildBiped("hands", "Hands", { height: 1.72, breadth: 1, fingers: true, toes: true });
const gait = { stepLength: 0.6, stepTime: 0.5, stance: 0.6, width: 0.17, strikePitch: 0.3, liftPitch: 0.6, clearance: 0.04, bob: 0.01, shift: 0.3 };
const { clip } = performBiped({ skeleton, ...build }, gaitPlan({ ...gait, name: "walk", fps: 30, seed: 1, seconds: 2, path: straight }));
const evaluator = () => new Evaluator(oneSource(skeleton, clip));
const shaped = (settings: Record<string, unknown>, rest: Partial<Patch> = {}) =>
  evaluator().evaluate({ ...emptyWork(), patches: [{ ...makePatch("handShape", "h", "h", settings), ...rest }] }).result;
const fist = { ...FLAT_HAND, index: 70, middle: 70, ring: 70, little: 70, thumb: 40 };

describe("a hand's shape as a patch", () => {
  const { body } = evaluator().evaluate(emptyWork()).base.character;
  const wanted = (side: "left" | "right") => new Map(handRotations(skeleton, body, side, fist).map(([j, q]) => [j, q] as const));
  const turn = (of: typeof clip, joint: number, f: number) => {
    const q = new Float64Array(4);
    readRotation(of, joint, f, q, 0);
    return q;
  };

  it("puts the fingers of the hand that it is for into the shape, and leaves all else as it was", () => {
    const result = shaped({ left: fist, right: null });
    const fingers = fingerJoints(body, "left").map((f) => f.joint);
    expect(differences(clip, result.clip).joints.every((j) => fingers.includes(j))).toBe(true);
    for (const [joint, q] of wanted("left")) for (const f of [0, 30, 59]) expect(quatAngleFlat(turn(result.clip, joint, f), 0, q, 0)).toBeLessThan(1e-5);
    const both = shaped({ left: fist, right: fist });
    const right = body.roles["rightMiddle2" as Role] ?? -1;
    expect(quatAngleFlat(turn(both.clip, right, 30), 0, wanted("right").get(right) ?? [], 0)).toBeLessThan(1e-5);
  });

  it("is half-way there by half its strength, in its range, and by its ramps", () => {
    const joint = body.roles["leftMiddle2" as Role] ?? -1;
    const q = wanted("left").get(joint) ?? new Float64Array(4);
    const left = (of: typeof clip, f: number) => quatAngleFlat(turn(of, joint, f), 0, q, 0);
    const half = shaped({ left: fist, right: null }, { weight: 0.5 });
    expect(left(half.clip, 30) / left(clip, 30)).toBeCloseTo(0.5, 3);
    const ranged = shaped({ left: fist, right: null }, { range: { start: 1, end: 1.2 }, rampIn: 0.2, rampOut: 0.4 });
    for (const f of [0, 23, 49]) expect([...turn(ranged.clip, joint, f)]).toEqual([...turn(clip, joint, f)]);
    for (const f of [30, 33, 36]) expect(left(ranged.clip, f)).toBeLessThan(1e-5);
    expect(left(ranged.clip, 27) / left(clip, 27)).toBeCloseTo(0.5, 2);
    expect(left(ranged.clip, 42) / left(clip, 42)).toBeCloseTo(0.5, 2);
  });

  it("is nothing for no hand, and refused for a body without fingers", () => {
    expect(shaped({ left: null, right: null }).clip).toBe(clip);
    const bare = () => stick.evaluator().evaluate(stick.work(patch("handShape", { left: fist, right: null })));
    expect(bare).toThrow(PatchError);
    expect(bare).toThrow(/no known fingers/);
  });
});
