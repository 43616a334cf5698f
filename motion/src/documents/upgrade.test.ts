import { describe, expect, it } from "vitest";
import { makeContactEdit } from "../contacts/contact.ts";
import { DocumentError } from "./errors.ts";
import { checkWork, readRecipe, readWork } from "./read.ts";
import { emptyWork } from "./work.ts";

const old = (patch: Record<string, unknown>, rest: Record<string, unknown> = {}) => ({
  format: "patch-stride.work/1",
  patches: [{ id: "p", name: "P", ...patch }],
  ...rest,
});
const read = (patch: Record<string, unknown>, fps = 60) => readWork(old(patch), { fps }).patches[0];

describe("works of version 1", () => {
  it("count frames of their clip: ranges, ramps, masks", () => {
    const patch = read({
      kind: "repair",
      range: { start: 30, end: 90 },
      rampInFrames: 6,
      rampOutFrames: 12,
      mask: ["LeftArm", "leftHand"],
      settings: { smoothInFrames: 3 },
    });
    expect(patch).toMatchObject({
      range: { start: 0.5, end: 1.5 },
      rampIn: 0.1,
      rampOut: 0.2,
      parts: [{ joint: "LeftArm" }, { joint: "leftHand" }],
      settings: { smoothOver: 0.05 },
    });
    expect(read({ kind: "repair", range: null, mask: null })).toMatchObject({ range: null, parts: null, rampIn: 0 });
  });

  it("bring each kind's settings over", () => {
    expect(read({ kind: "plant", settings: { landingRampInFrames: 5, liftRampInFrames: 6, rests: "first" } }).settings).toEqual({
      landingRamp: 5 / 30,
      liftRamp: 6 / 30,
      rests: "first",
    });
    expect(read({ kind: "trim", settings: { keepFromFrame: 12, keepToFrame: 48 } }).settings).toEqual({ from: 0.2, to: 0.8 });
    expect(read({ kind: "amplitude", settings: { poseFrame: 30, parts: ["Chest"] } }).settings).toMatchObject({ poseAt: 0.5, parts: [{ joint: "Chest" }] });
    const touchUp = read({
      kind: "touchUp",
      settings: {
        frame: 30,
        edits: [
          { op: "turn", joints: ["Hips"], space: "world", degrees: [1, 2, 3], shared: false, pivot: { parts: ["LeftToe"], point: null } },
          { op: "move", joints: ["LeftHand"], space: "body", centimetres: [1, 0, 0] },
        ],
        holds: [{ joint: "LeftFoot", position: true, orientation: true, on: null }],
      },
    });
    expect(touchUp.settings).toMatchObject({
      at: 0.5,
      edits: [
        { op: "turn", parts: [{ joint: "Hips" }], pivot: { parts: [{ joint: "LeftToe" }] } },
        { op: "move", centimetres: [1, 0, 0] },
      ],
      holds: [{ part: { joint: "LeftFoot" }, on: null }],
    });
    const layer = read({
      kind: "layer",
      settings: {
        mode: "additive",
        channels: [{ target: { drives: "turn", joint: "Head", axis: "y" }, keys: [{ frame: 30, value: 4, tangent: "smooth" }] }],
        weightKeys: [],
        holds: [],
      },
    });
    expect(layer.settings).toMatchObject({ channels: [{ target: { drives: "turn", part: { joint: "Head" }, axis: "y" }, keys: [{ at: 0.5, value: 4 }] }] });
  });

  it("bring contacts and the body map over", () => {
    const contact = { id: "c", part: "leftToe", kind: "span", start: 30, end: 60, mode: "set", point: [1, 0, 2], rampInFrames: 3, rampOutFrames: null };
    const work = readWork(old({ kind: "plant" }, { contacts: [contact], body: { head: "Skull", leftToe: null } }), { fps: 30 });
    expect(work.contacts).toEqual([makeContactEdit({ id: "c", point: "leftToe", start: 1, end: 2, rests: "set", anchor: [1, 0, 2], rampIn: 0.1 })]);
    expect(work.body).toEqual({ head: "Skull", leftToe: null });
    expect(checkWork(work)).toEqual(work);
  });

  it("are refused where they are wrong, naming the field as it is called now", () => {
    expect(() => read({ kind: "wings" })).toThrow(/patches\.0\.kind: .*wings/);
    expect(() => read({ kind: "repair", range: { start: "soon", end: 3 } })).toThrow(/patches\.0\.range\.start/);
    expect(() => read({ kind: "trim", settings: { keepFromFrame: null } })).toThrow(/patches\.0\.settings\.from/);
    expect(() => readWork({ ...old({ kind: "plant" }), patches: "none" }, { fps: 30 })).toThrow(DocumentError);
  });

  it("of no version are refused by name", () => {
    for (const format of ["patch-stride.work/3", "patch-stride.recipe/2", "__proto__", 7, undefined])
      expect(() => readWork({ ...emptyWork(), format }, { fps: 30 }), String(format)).toThrow(/format/);
    for (const data of [null, 3, "work", []]) expect(() => readWork(data, { fps: 30 })).toThrow(DocumentError);
  });
});

describe("recipes", () => {
  it("of version 1 run in seconds of the clip at hand; kinds alone are enough", () => {
    const recipe = {
      format: "patch-stride.recipe/1",
      name: "R",
      patches: [{ kind: "trim", settings: { keepFromFrame: 12, keepToFrame: null } }, { kind: "plant" }],
    };
    expect(readRecipe(recipe, { fps: 120 }).patches[0].settings).toEqual({ from: 0.1, to: null });
    expect(readRecipe(recipe, { fps: 24 }).patches).toMatchObject([
      { kind: "trim", name: "Trim", settings: { from: 0.5 } },
      { kind: "plant", name: "Plant feet", weight: 1, range: null },
    ]);
    const ids = readRecipe(recipe, { fps: 24 }).patches.map((p) => p.id);
    expect(new Set(ids).size).toBe(2);
    expect(() => readRecipe({ ...recipe, patches: [{ kind: "plant", settings: { wide: 1 } }] }, { fps: 24 })).toThrow(/patches\.0\.settings\.wide/);
  });
});
