import { describe, expect, it } from "vitest";
import { ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { makeContactEdit } from "../contacts/contact.ts";
import { groundTilt } from "../ground/ground.ts";
import { multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { at, differences, patch, stick, withShift, worldAt } from "../testing/patched.ts";

// The figure 20 cm over zero.
const raised = withShift(
  stick.clip,
  0,
  Array.from({ length: 90 }, (_, f) => f),
  [0, 0.2, 0],
);
const plain = stick.evaluator(raised).evaluate(stick.work()).base;
const floored = (settings: Record<string, unknown>, rest: Parameters<typeof patch>[2] = {}) =>
  stick.evaluator(raised).evaluate(stick.work(patch("floor", settings, rest))).result;
const height = (clip: typeof plain.clip, f: number) => worldAt(clip, f, 0).place[1];

describe("the floor", () => {
  it("that was found is brought to zero, the whole body with it, pose and all", () => {
    const result = floored({});
    expect(plain.ground.height).toBeGreaterThan(0.18);
    expect(plain.ground.height).toBeLessThan(0.25);
    expect(result.ground.height).toBeCloseTo(0, 9);
    for (const f of [0, 33, 89]) expect(height(result.clip, f)).toBeCloseTo(height(plain.clip, f) - plain.ground.height, 5);
    expect(differences(plain.clip, result.clip).joints.filter((j) => j !== 0)).toEqual([]);
  });

  it("that is set by hand is taken at its word, whatever was found", () => {
    for (const heightCm of [-4, 0, 2.2, 11]) {
      const result = floored({ height: "set", heightCm, level: false });
      for (const f of [0, 40, 89]) expect(height(result.clip, f), `${heightCm} cm`).toBeCloseTo(height(plain.clip, f) - heightCm / 100, 5);
      // What was found then lies that much off zero.
      expect(result.ground.height).toBeCloseTo(plain.ground.height - heightCm / 100, 6);
    }
  });

  it("takes its tilt out where that is asked for, and only then", () => {
    // The figure, its way and all, turned so that it goes up by 1.5°.
    const up = [-Math.sin((0.75 * Math.PI) / 180), 0, 0, Math.cos((0.75 * Math.PI) / 180)];
    const draft = ClipDraft.of(stick.clip);
    const [q, p] = [new Float64Array(4), new Float64Array(3)];
    for (let f = 0; f < 90; f++) {
      readRotation(stick.clip, 0, f, q, 0);
      draft.setRotation(0, f, multiplyQuatFlat(q, 0, up, 0, q, 0));
      readPosition(stick.clip, 0, f, p, 0);
      draft.setPosition(0, f, rotateVecFlat(p, 0, up, 0, p, 0));
    }
    const clip = draft.done();
    const run = (level: boolean) => stick.evaluator(clip).evaluate(stick.work(patch("floor", { level })));
    expect((groundTilt(run(true).base.ground) * 180) / Math.PI).toBeCloseTo(1.5, 0);
    const climbs = (of: typeof clip) => worldAt(of, 89, 0).place[1] - worldAt(of, 0, 0).place[1];
    expect(climbs(clip)).toBeGreaterThan(0.06);
    expect(Math.abs(climbs(run(true).result.clip))).toBeLessThan(0.02);
    expect(climbs(run(false).result.clip)).toBeCloseTo(climbs(clip), 6);
    expect(groundTilt(run(true).result.ground)).toBe(0);
  });

  it("is level under a figure that only rises all along, as it would over a slope, and the figure is brought to it by contacts", () => {
    const clip = Array.from({ length: 90 }, (_, f) => f).reduce((c, f) => withShift(c, 0, [f], [0, 0.0005 * f, 0]), stick.clip);
    const { base, result } = stick.evaluator(clip).evaluate(stick.work(patch("floor", {}), patch("plant", {})));
    expect((groundTilt(base.ground) * 180) / Math.PI).toBeLessThan(0.1);
    for (const toe of ["LeftToeBase", "RightToeBase"]) {
      const lowest = (from: number, to: number) =>
        Math.min(...Array.from({ length: to - from }, (_, i) => worldAt(result.clip, from + i, stick.joint(toe)).place[1]));
      expect(Math.abs(lowest(0, 45) - lowest(45, 90))).toBeLessThan(0.006);
    }
  });

  it("works on its stretch, by its strength, and fades with its ramps", () => {
    const result = floored(
      { height: "set", heightCm: 10, level: false },
      { range: { start: at(40), end: at(50) }, rampIn: at(6), rampOut: at(12), weight: 0.5 },
    );
    const by = (f: number) => height(plain.clip, f) - height(result.clip, f);
    for (const f of [0, 33, 63, 89]) expect(by(f), `frame ${f}`).toBeCloseTo(0, 9);
    for (const f of [40, 45, 50]) expect(by(f)).toBeCloseTo(0.05, 6);
    expect(by(37)).toBeCloseTo(0.025, 3);
    expect(by(56)).toBeCloseTo(0.025, 3);
    // Over a part of the clip the ground is not what has moved.
    expect(result.ground).toEqual(plain.ground);
  });

  it("takes places that contacts were set to along", () => {
    const edit = makeContactEdit({ id: "c", point: "leftToe", start: at(20), end: at(30), rests: "set", anchor: [0.1, 0.2, 0.3] });
    const work = { ...stick.work(patch("floor", { height: "set", heightCm: 10, level: false })), contacts: [edit] };
    const point = stick
      .evaluator()
      .evaluate(work)
      .result.contacts.find((c) => c.origin === "set")?.anchor.point;
    expect(point?.[0]).toBeCloseTo(0.1, 9);
    expect(point?.[1]).toBeCloseTo(0.1, 9);
    expect(point?.[2]).toBeCloseTo(0.3, 9);
  });
});
