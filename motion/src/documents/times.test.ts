import { describe, expect, it } from "vitest";
import { contactEditSchema, makeContactEdit } from "../contacts/contact.ts";
import { differences, named, patch, stick } from "../testing/patched.ts";
import { namedByBody } from "./namedParts.ts";
import { mapMoments, movedPatch } from "./times.ts";
import type { Work } from "./work.ts";

const later = (m: number) => m + 10;

describe("moments in a document", () => {
  it("move with the time beneath them, lengths of time stay: keys, touch-ups, poses, ranges", () => {
    const key = { at: 1, value: 4, tangent: "smooth" };
    const layer = patch(
      "layer",
      { channels: [{ target: { drives: "turn", part: { joint: "Head" }, axis: "x" }, keys: [key] }], weightKeys: [{ ...key, at: 2 }], fadeIn: 0.5 },
      { range: { start: 0.5, end: 3 }, rampIn: 0.2, rampOut: 0.3 },
    );
    const moved = movedPatch(layer, later);
    expect(moved).toMatchObject({ range: { start: 10.5, end: 13 }, rampIn: 0.2, rampOut: 0.3, name: "layer" });
    expect(moved.settings).toMatchObject({ channels: [{ keys: [{ at: 11, value: 4 }] }], weightKeys: [{ at: 12 }], fadeIn: 0.5 });

    const touchUp = movedPatch(patch("touchUp", { at: 1, edits: [{ op: "turn", parts: named("Head"), degrees: [1, 2, 3] }] }), later);
    expect(touchUp.settings).toMatchObject({ at: 11, edits: [{ degrees: [1, 2, 3] }] });
    expect(movedPatch(patch("amplitude", { poseAt: 2, trendInSeconds: 1.2 }), later).settings).toEqual({ poseAt: 12, trendInSeconds: 1.2 });
    expect(movedPatch(patch("trim", { from: 1, to: null }), later).settings).toEqual({ from: 11, to: null });
    expect(movedPatch(patch("plant", { landingRamp: 0.2 }), later).settings).toEqual({ landingRamp: 0.2 });
  });

  it("are found in contact edits too; what is not told there is handed on as it is", () => {
    const edit = { id: "e", point: "leftToe", kind: "span", start: 1, end: 2, rampIn: 0.3, rests: "set", anchor: [1, 2, 3], on: { joint: "Hips" }, more: 7 };
    expect(mapMoments(contactEditSchema, edit, later)).toEqual({ ...edit, start: 11, end: 12 });
    expect(movedPatch(patch("wings", { at: 3 }), later).settings).toEqual({ at: 3 });
  });
});

describe("parts in a document", () => {
  it("are told by role where the body has one, wherever they stand; the motion stays the same", () => {
    const turn = { op: "turn", parts: named("LeftArm"), space: "own", degrees: [20, 0, 0], shared: false, pivot: { parts: named("LeftToeBase"), point: null } };
    const hold = { part: { joint: "RightHand" }, position: true, orientation: true, on: { joint: "Hips" } };
    const key = { at: 1, value: 10, tangent: "flat" };
    const channels = [
      { target: { drives: "turn", part: { joint: "Head" }, axis: "x" }, keys: [key] },
      { target: { drives: "measure", measure: { of: "distance", part: { joint: "LeftHand" }, to: { joint: "Head" } } }, keys: [] },
    ];
    const contact = makeContactEdit({ id: "c", point: "leftHand", start: 0.2, end: 0.6 });
    const { base } = stick.evaluator().evaluate(stick.work());
    const work = {
      ...stick.work(
        patch("touchUp", { at: 1, edits: [turn], holds: [hold] }, { range: { start: 1, end: 1 }, rampIn: 0.2, rampOut: 0.2 }),
        patch("layer", { channels, holds: [] }, { parts: named("Head", "Wing") }),
      ),
      contacts: [
        { ...contact, on: { joint: "LeftLeg" } },
        { ...contact, id: "d", on: "place" as const },
      ],
    };
    const told = namedByBody(work, base.character);
    const text = JSON.stringify(told);
    expect(text).not.toMatch(/"joint":"(?!Wing)/);
    expect(told.patches[0].settings).toMatchObject({
      edits: [{ parts: [{ role: "leftUpperArm" }], pivot: { parts: [{ role: "leftToe" }] } }],
      holds: [{ part: { role: "rightHand" }, on: { role: "hips" } }],
    });
    expect(told.patches[1].parts).toEqual([{ role: "head" }, { joint: "Wing" }]);
    expect(told.contacts.map((c) => c.on)).toEqual([{ role: "leftShin" }, "place"]);
    expect(namedByBody(told, base.character)).toEqual(told);
    const clip = (w: Work) => stick.evaluator().evaluate(w).result.clip;
    expect(differences(clip(work), clip(told))).toEqual({ frames: [], joints: [], moved: false });
  });
});
