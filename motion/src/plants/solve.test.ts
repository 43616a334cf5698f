import { describe, expect, it } from "vitest";
import type { Clip } from "../clip/clip.ts";
import { type ContactEdit, makeContactEdit } from "../contacts/contact.ts";
import { DEFAULT_RECIPE } from "../documents/work.ts";
import { groundHeight } from "../ground/ground.ts";
import { quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import { at, stick, withShift, worldAt } from "../testing/patched.ts";

const [, plant] = DEFAULT_RECIPE.patches;
/** The figure planted, its travel left as it is, so that what is asked of the legs is known. */
const planted = (settings: Record<string, unknown> = {}, contacts: ContactEdit[] = [], clip: Clip = stick.clip, rest = {}) =>
  stick.evaluator(clip).evaluate({ ...stick.work({ ...plant, settings: { travelStrength: 0, steadyLegs: 0, ...settings }, ...rest }), contacts });
const toe = (clip: Clip, f: number) => worldAt(clip, f, stick.joint("LeftToeBase")).place;
const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, i) => v - b[i]));
/** Off the source, metres. */
const moved = (clip: Clip, f: number) => apart(toe(clip, f), toe(stick.clip, f));
/** No contact but one of the left toe, over frames 40 to 50. */
const only = (rest: Partial<ContactEdit> = {}): ContactEdit[] => [
  ...["leftHeel", "leftToe", "rightHeel", "rightToe"].map((point) => makeContactEdit({ id: point, point, kind: "none", start: 0, end: 3 })),
  makeContactEdit({ id: "one", point: "leftToe", start: at(40), end: at(50), ...rest }),
];

describe("a contact that is held", () => {
  it("stands still over its span, where it settles, or where it is first or last", () => {
    for (const [rests, frame] of [
      ["first", 40],
      ["last", 50],
    ] as const) {
      const { result } = planted({}, only({ rests }));
      for (let f = 41; f <= 50; f++) expect(apart(toe(result.clip, f), toe(result.clip, 40)), `${rests}, frame ${f}`).toBeLessThan(1e-4);
      const [x, , z] = toe(stick.clip, frame);
      expect(Math.hypot(toe(result.clip, 45)[0] - x, toe(result.clip, 45)[2] - z), rests).toBeLessThan(1e-3);
    }
    const { result } = planted({}, only());
    expect(Math.abs(toe(result.clip, 45)[2] - toe(stick.clip, 45)[2])).toBeLessThan(0.02);
  });

  it("takes its ramps from the plant, or has its own, each end by itself", () => {
    const reach = (settings: Record<string, unknown>, rest: Partial<ContactEdit> = {}) => {
      const { clip } = planted(settings, only({ rests: "last", ...rest })).result;
      // Moved by more than a tenth of a millimetre: the first such frame before, and the last one behind.
      const frames = Array.from({ length: 90 }, (_, f) => f).filter((f) => moved(clip, f) > 1e-4);
      return [40 - frames[0], frames.at(-1) ?? 0];
    };
    const ramps = { landingRamp: at(10), liftRamp: at(3) };
    // A ramp of ten frames shows on up to nine of them: its last value is nothing.
    const [before] = reach(ramps);
    expect(before).toBeGreaterThanOrEqual(7);
    expect(before).toBeLessThanOrEqual(10);
    const [short] = reach({ ...ramps, landingRamp: at(2) });
    expect(short).toBeLessThanOrEqual(2);
    const [own] = reach(ramps, { rampIn: at(4) });
    expect(own).toBeGreaterThanOrEqual(3);
    expect(own).toBeLessThanOrEqual(4);
    const first = (settings: Record<string, unknown>, rest: Partial<ContactEdit> = {}) => {
      const { clip } = planted(settings, only({ rests: "first", ...rest })).result;
      return Math.max(...Array.from({ length: 90 }, (_, f) => f).filter((f) => moved(clip, f) > 1e-4)) - 50;
    };
    expect(first({ ...ramps, liftRamp: at(12) })).toBeGreaterThanOrEqual(9);
    expect(first(ramps)).toBeLessThanOrEqual(3);
    expect(first(ramps, { rampOut: at(8) })).toBeGreaterThanOrEqual(6);
    expect(first({ ...ramps, liftRamp: at(12) }, { rampOut: 0 })).toBeLessThanOrEqual(0);
  });

  it("is held by the plant's strength: half of it moves the foot half the way", () => {
    const anchor: [number, number, number] = [toe(stick.clip, 45)[0] + 0.04, toe(stick.clip, 45)[1], toe(stick.clip, 45)[2]];
    const way = (weight: number) =>
      toe(planted({}, only({ rests: "set", anchor, on: "place" }), stick.clip, { weight }).result.clip, 45)[0] - toe(stick.clip, 45)[0];
    expect(way(1)).toBeCloseTo(0.04, 4);
    expect(way(0.5)).toBeCloseTo(0.02, 3);
    expect(way(0)).toBeCloseTo(0, 9);
  });
});

describe("a contact of a toe's tip", () => {
  const joint = stick.joint("LeftToeBase");
  const tipOf = (clip: Clip, local: readonly number[], f: number) => {
    const { place, turn } = worldAt(clip, f, joint);
    return Array.from(rotateVecFlat(new Float64Array(3), 0, turn, 0, [...local], 0), (v, c) => v + place[c]);
  };

  it("is held by its leg: the tip stays, toe and foot turn as they did, and the rest of the body is left", () => {
    const { base, result } = planted({}, only({ point: "leftToeTip" }));
    const local = result.character.contactPoints.find((p) => p.id === "leftToeTip")?.local ?? [];
    const [before, after] = [stick.clip, result.clip];
    expect(apart(tipOf(before, local, 41), tipOf(before, local, 50))).toBeGreaterThan(0.01);
    for (let f = 41; f <= 50; f++) {
      expect(apart(tipOf(after, local, f), tipOf(after, local, 40)), `frame ${f}`).toBeLessThan(1e-4);
      for (const name of ["LeftFoot", "LeftToeBase"]) {
        const [a, b] = [base.clip, after].map((clip) => worldAt(clip, f, stick.joint(name)).turn);
        expect(quatAngleFlat(a, 0, b, 0)).toBeLessThan(1e-5);
      }
      expect(apart(worldAt(after, f, stick.joint("RightFoot")).place, worldAt(base.clip, f, stick.joint("RightFoot")).place)).toBeLessThan(0.02);
    }
    // It lies on the ground where nobody says otherwise.
    const [x, y, z] = tipOf(after, local, 45);
    expect(y).toBeCloseTo(groundHeight(result.ground, x, z), 4);
  });

  it("gives way to ball and heel while they rest, and takes over from them where it is to lead", () => {
    const ball = makeContactEdit({ id: "ball", point: "leftToe", start: at(30), end: at(60) });
    const tip = (rest: Partial<ContactEdit>) => only({ point: "leftToeTip", ...rest });
    const local =
      stick
        .evaluator()
        .evaluate(stick.grounded())
        .result.character.contactPoints.find((p) => p.id === "leftToeTip")?.local ?? [];
    const both = planted(
      {},
      [ball, ...tip({ leads: false })].sort((a, b) => Number(a.kind === "span") - Number(b.kind === "span")),
    ).result;
    for (let f = 41; f <= 50; f++) expect(apart(toe(both.clip, f), toe(both.clip, 40))).toBeLessThan(1e-4);
    const led = planted({}, [...tip({}).slice(0, 4), ball, { ...tip({})[4], leads: true }]).result;
    expect(led.contacts.filter((c) => c.point === "leftToe").map(({ start, end }) => [start, end])).toEqual([
      [30, 39],
      [51, 60],
    ]);
    for (let f = 41; f <= 50; f++) expect(apart(tipOf(led.clip, local, f), tipOf(led.clip, local, 40))).toBeLessThan(1e-4);
  });

  it("is not looked for by itself", () => {
    const { result } = stick.evaluator().evaluate(stick.grounded());
    expect(result.contacts.length).toBeGreaterThan(2);
    expect(result.contacts.filter((c) => c.point.endsWith("ToeTip"))).toEqual([]);
  });
});

describe("hips under a plant", () => {
  // The toe is wanted 30 cm ahead of where the leg reaches.
  const [x, y, z] = toe(stick.clip, 45);
  const far = only({ rests: "set", anchor: [x, y, z + 0.3], on: "place" });
  const dropped = (settings: Record<string, unknown>) => {
    const { clip } = planted(settings, far).result;
    return Array.from({ length: 90 }, (_, f) => worldAt(stick.clip, f, 0).place[1] - worldAt(clip, f, 0).place[1]);
  };

  it("come down as far as they may for a leg that does not reach, and no further, smoothly", () => {
    for (const most of [0, 3, 8]) {
      const drop = dropped({ hipsMayDropCm: most });
      expect(Math.max(...drop), `${most} cm`).toBeLessThan(most / 100 + 1e-6);
      expect(Math.max(...drop), `${most} cm`).toBeGreaterThan(0.9 * (most / 100) - 1e-6);
      expect(Math.min(...drop)).toBeGreaterThan(-1e-9);
      // Far from the contact they are where they were.
      for (const f of [0, 15, 75, 89]) expect(drop[f]).toBe(0);
      for (let f = 2; f < 90; f++) expect(Math.abs(drop[f] - 2 * drop[f - 1] + drop[f - 2])).toBeLessThan(0.012);
    }
  });

  it("come down sooner for a softer knee", () => {
    const near = only({ rests: "set", anchor: [x, y, z + 0.02], on: "place" });
    const drop = (softKneeDegrees: number) => {
      const { clip } = planted({ softKneeDegrees, hipsMayDropCm: 15 }, near).result;
      return Math.max(...Array.from({ length: 90 }, (_, f) => worldAt(stick.clip, f, 0).place[1] - worldAt(clip, f, 0).place[1]));
    };
    expect(drop(150)).toBeGreaterThanOrEqual(drop(178));
    const bent = only({ rests: "set", anchor: [x, y, z + 0.12], on: "place" });
    const soft = (softKneeDegrees: number) => {
      const { clip } = planted({ softKneeDegrees, hipsMayDropCm: 15 }, bent).result;
      return worldAt(stick.clip, 45, 0).place[1] - worldAt(clip, 45, 0).place[1];
    };
    expect(soft(145)).toBeGreaterThan(soft(178) + 0.002);
  });

  it("let no bone be longer than it is", () => {
    const { clip } = planted({ hipsMayDropCm: 2 }, far).result;
    for (const f of [40, 45, 50]) {
      const [hip, knee, foot] = ["LeftUpLeg", "LeftLeg", "LeftFoot"].map((name) => worldAt(clip, f, stick.joint(name)).place);
      expect(apart(hip, knee)).toBeCloseTo(0.43, 5);
      expect(apart(knee, foot)).toBeCloseTo(0.43, 5);
    }
  });
});

describe("a foot in flight", () => {
  it("is kept out of the ground that it would cut", () => {
    // The body sinks by 15 cm while the left foot swings.
    const swing = Array.from({ length: 13 }, (_, i) => 20 + i);
    const clip = swing.reduce((c, f) => withShift(c, 0, [f], [0, -0.15 * Math.sin((Math.PI * (f - 19)) / 14) ** 2, 0]), stick.clip);
    const { base, result } = planted({}, [], clip);
    const depth = (of: Clip, f: number) => {
      const [tx, ty, tz] = toe(of, f);
      return groundHeight(result.ground, tx, tz) - ty;
    };
    expect(Math.max(...swing.map((f) => depth(base.clip, f)))).toBeGreaterThan(0.005);
    expect(Math.max(...swing.map((f) => depth(result.clip, f)))).toBeLessThan(0.003);
  });
});
