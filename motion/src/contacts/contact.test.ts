import { describe, expect, it } from "vitest";
import { foundContact } from "../testing/contacts.ts";
import { applyContactEdits, type Contact, type ContactEdit, contactEditSchema, type EditTarget, makeContactEdit, overlap, sortContacts } from "./contact.ts";

const FPS = 30;
const target: EditTarget = {
  fps: FPS,
  frameCount: 100,
  namedJoint: (point) => ({ leftToe: 7, leftHeel: 6, rightToe: 9 })[point],
  besides: (point) => (point === "leftToe" ? ["leftHeel"] : []),
  jointOf: (part) => ("joint" in part && part.joint === "Thigh" ? 3 : undefined),
};
const found = (point: string, start: number, end: number) => foundContact(point, start, end, { joint: 1 });
const edit = (point: string, from: number, to: number, rest: Partial<ContactEdit> = {}): ContactEdit =>
  makeContactEdit({ id: `${point}${from}`, point, start: from / FPS, end: to / FPS, ...rest });
const spans = (contacts: readonly Contact[]) => contacts.map((c) => `${c.point} ${c.start}-${c.end} ${c.origin}`);
const all = [found("leftToe", 10, 29), found("leftHeel", 10, 20), found("leftToe", 50, 69), found("rightToe", 30, 55)];

describe("a person's contacts over those that were found", () => {
  it("replace every found span of their point that they touch, and no other", () => {
    const { contacts, unused } = applyContactEdits(all, [edit("leftToe", 29, 40)], target);
    expect(spans(contacts)).toEqual(["leftHeel 10-20 found", "leftToe 29-40 set", "rightToe 30-55 found", "leftToe 50-69 found"]);
    expect(unused).toEqual([]);
    expect(spans(applyContactEdits(all, [edit("leftToe", 30, 49)], target).contacts)).toHaveLength(5);
    expect(spans(applyContactEdits(all, [edit("leftToe", 29, 50)], target).contacts)).toEqual([
      "leftHeel 10-20 found",
      "leftToe 29-50 set",
      "rightToe 30-55 found",
    ]);
  });

  it("take away what lies mostly inside a stretch of none", () => {
    const none = (from: number, to: number) => spans(applyContactEdits(all, [edit("leftToe", from, to, { kind: "none" })], target).contacts);
    // Half of the 20 frames is not mostly; one more is.
    expect(none(0, 18)).toContain("leftToe 10-29 found");
    expect(none(0, 19)).not.toContain("leftToe 10-29 found");
    expect(none(0, 99)).toEqual(["leftHeel 10-20 found", "rightToe 30-55 found"]);
  });

  it("win over earlier ones, and are cut at the clip's end", () => {
    const twice = applyContactEdits(all, [edit("rightToe", 80, 90), edit("rightToe", 88, 140)], target).contacts;
    expect(spans(twice.filter((c) => c.point === "rightToe"))).toEqual(["rightToe 30-55 found", "rightToe 88-99 set"]);
  });

  it("rest on what the one rested on that they replace, unless they say on what", () => {
    const onStep = [foundContact("leftToe", 10, 29, { on: "place" })];
    const on = (list: readonly Contact[], rest: Partial<ContactEdit> = {}) => applyContactEdits(list, [edit("leftToe", 12, 31, rest)], target).contacts[0].on;
    expect(on(onStep)).toBe("place");
    expect(on(onStep, { on: "ground" })).toBe("ground");
    expect(on(all)).toBe("ground");
    expect(on([foundContact("leftToe", 40, 60, { on: "place" })])).toBe("ground");
  });

  it("say how long their ramps are, what they rest on, how high, how flat", () => {
    const said = edit("leftToe", 10, 30, { rampIn: 5 / FPS, rampOut: 0, on: { joint: "Thigh" }, rests: "last", height: 0.2, flat: 0.5 });
    const [contact] = applyContactEdits([], [said], target).contacts;
    expect(contact).toEqual({
      point: "leftToe",
      joint: 7,
      start: 10,
      end: 30,
      on: { joint: 3 },
      anchor: { mode: "last", point: null },
      rampIn: 5,
      rampOut: 0,
      origin: "set",
      height: 0.2,
      flat: 0.5,
    });
    const [plain] = applyContactEdits([], [edit("leftToe", 10, 30, { on: "place" })], target).contacts;
    expect(plain.on).toBe("place");
    expect([plain.rampIn, plain.rampOut]).toEqual([null, null]);
    expect("height" in plain || "flat" in plain).toBe(false);
  });

  it("that lead free the other end of the foot, in the middle of its span too", () => {
    const freed = (from: number, to: number) =>
      spans(applyContactEdits([found("leftHeel", 10, 40)], [edit("leftToe", from, to, { leads: true })], target).contacts).filter((s) => s.includes("Heel"));
    expect(freed(0, 12)).toEqual(["leftHeel 13-40 found"]);
    expect(freed(20, 25)).toEqual(["leftHeel 10-19 found", "leftHeel 26-40 found"]);
    expect(freed(5, 45)).toEqual([]);
    // A single frame that is left is none.
    expect(freed(11, 60)).toEqual([]);
    expect(freed(50, 60)).toEqual(["leftHeel 10-40 found"]);
  });

  it("are listed where they mean nothing here: no such point or part, or behind the end", () => {
    const odd = [edit("tail", 1, 2), edit("leftToe", 100, 120), edit("rightToe", 1, 2, { on: { joint: "Wing" } })];
    const { contacts, unused } = applyContactEdits(all, odd, target);
    expect(unused).toEqual(["tail1", "leftToe100", "rightToe1"]);
    expect(spans(contacts)).toEqual(spans(sortContacts(all)));
    // The last frame itself is still inside.
    expect(spans(applyContactEdits([], [edit("leftToe", 99, 99)], target).contacts)).toEqual(["leftToe 99-99 set"]);
  });

  it("are refused where they end before they start, or are set nowhere", () => {
    const fine = edit("leftToe", 1, 5);
    expect(contactEditSchema.safeParse(fine).success).toBe(true);
    expect(contactEditSchema.safeParse({ ...fine, end: 0 }).success).toBe(false);
    expect(contactEditSchema.safeParse({ ...fine, rests: "set" }).success).toBe(false);
    expect(contactEditSchema.safeParse({ ...fine, rests: "set", anchor: [0, 0, 0] }).success).toBe(true);
  });
});

it("two ranges share their common frames, ends included", () => {
  expect([overlap(0, 9, 9, 20), overlap(0, 9, 10, 20), overlap(5, 30, 10, 12), overlap(10, 12, 5, 30)]).toEqual([1, 0, 3, 3]);
});
