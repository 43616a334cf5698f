import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import { LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { foundContact } from "../testing/contacts.ts";
import { differences, stick, worldAt } from "../testing/patched.ts";
import { layFlat } from "./layFlat.ts";
import { limbEnds } from "./plants.ts";
import { PLANT_DEFAULTS } from "./settings.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const ends = limbEnds(base.character, base.points);
const N = base.clip.frameCount;
const all = new Float64Array(N).fill(1);
const foot = stick.joint("LeftFoot");
const [heel, toe] = ends.find((e) => e.limb.end === foot)?.points ?? [];

/** The figure standing as at rest, its left foot rolled by `roll` and pitched by `pitch` degrees all the time. */
function standing(roll: number, pitch = 0): Clip {
  const draft = ClipDraft.of(base.clip);
  const [r, p] = [roll, pitch].map((v) => (v * Math.PI) / 360);
  for (let f = 0; f < N; f++) {
    draft.setPosition(0, f, [0, 0.95, 0]);
    for (let j = 0; j < base.clip.jointCount; j++) draft.setRotation(j, f, [0, 0, 0, 1]);
    // Roll about z, then pitch about x.
    draft.setRotation(foot, f, [Math.sin(p) * Math.cos(r), -Math.sin(p) * Math.sin(r), Math.cos(p) * Math.sin(r), Math.cos(p) * Math.cos(r)]);
  }
  return draft.done();
}
const contact = (point: string, start: number, end: number, rest: Partial<Contact> = {}) => foundContact(point, start, end, { joint: foot, ...rest });
const stand = (rest: Partial<Contact> = {}) => [contact("leftHeel", 30, 50, rest), contact("leftToe", 30, 50, rest)];
const laid = (clip: Clip, contacts: readonly Contact[], amount: number, ground = LEVEL_GROUND, weights = all) =>
  layFlat({ ...base, contacts, ground }, clip, ends, { ...PLANT_DEFAULTS, layFlat: amount, landingRamp: 6 / 30, liftRamp: 10 / 30 }, weights);

/** How far the foot's own up is off a direction, degrees. */
function off(clip: Clip, f: number, from: readonly number[] = [0, 1, 0]): number {
  const up = rotateVecFlat(new Float64Array(3), 0, worldAt(clip, f, foot).turn, 0, [0, 1, 0], 0);
  const length = Math.hypot(...from);
  return (
    (Math.acos(
      Math.min(
        1,
        [0, 1, 2].reduce((sum, i) => sum + (up[i] * from[i]) / length, 0),
      ),
    ) *
      180) /
    Math.PI
  );
}
/** The same for the line from heel to toe off the level, degrees. */
function slope(clip: Clip, f: number): number {
  const along = toe.local.map((v, i) => v - heel.local[i]);
  const v = rotateVecFlat(new Float64Array(3), 0, worldAt(clip, f, foot).turn, 0, along as unknown as Float64Array, 0);
  return (Math.asin(v[1] / Math.hypot(...along)) * 180) / Math.PI;
}

describe("a foot laid flat", () => {
  it("turns a rolled foot upright while it stands, by the amount asked for, and nothing but the foot", () => {
    const rolled = standing(20);
    expect(off(rolled, 40)).toBeCloseTo(20, 3);
    const whole = laid(rolled, stand(), 1);
    for (const f of [30, 40, 50]) expect(off(whole, f), `frame ${f}`).toBeLessThan(0.5);
    const half = laid(rolled, stand(), 0.5);
    for (const f of [30, 40, 50]) expect(off(half, f)).toBeCloseTo(10, 0);
    expect(differences(rolled, whole)).toMatchObject({ joints: [foot], moved: false });
  });

  it("lays heel and toe as high as each other as they stand on level ground", () => {
    const pitched = laid(standing(0, 15), stand(), 1);
    const climb = (100 * (toe.clearance - heel.clearance)) / Math.hypot(...toe.local.map((v, i) => v - heel.local[i]));
    expect(Math.sin((slope(pitched, 40) * Math.PI) / 180) * 100).toBeCloseTo(climb, 1);
    expect(Math.abs(slope(standing(0, 15), 40) - slope(pitched, 40))).toBeGreaterThan(10);
  });

  it("goes by what its contacts say, the most of them, before what the plant says", () => {
    const rolled = standing(20);
    const saying = (heelSays: number | undefined, toeSays: number | undefined, amount: number) =>
      off(laid(rolled, [contact("leftHeel", 30, 50, { flat: heelSays }), contact("leftToe", 30, 50, { flat: toeSays })], amount), 40);
    expect(saying(0.25, 0.75, 0)).toBeCloseTo(5, 0);
    expect(saying(0.5, undefined, 1)).toBeCloseTo(10, 0);
    expect(saying(0, undefined, 1)).toBeCloseTo(20, 3);
  });

  it("comes and goes with the plant's ramps, and keeps every frame beyond them", () => {
    const rolled = standing(20);
    const whole = laid(rolled, stand(), 1);
    for (const f of [0, 20, 23, 61, 80]) expect(off(whole, f), `frame ${f}`).toBe(off(rolled, f));
    expect(off(whole, 27)).toBeGreaterThan(3);
    expect(off(whole, 27)).toBeLessThan(17);
    expect(off(whole, 58)).toBeGreaterThan(10);
    expect(off(whole, 52)).toBeLessThan(5);
  });

  it("lies along a ground that slopes, and level where it stands on a place of its own", () => {
    const rolled = standing(20);
    const ground = planeGround(0, 0.15, 0);
    expect(off(laid(rolled, stand(), 1, ground), 40, [-0.15, 1, 0])).toBeLessThan(0.5);
    expect(off(laid(rolled, stand({ on: "place" }), 1, ground), 40)).toBeLessThan(0.5);
  });

  it("does as a contact says, and nothing without an amount, a weight or a stand", () => {
    const rolled = standing(20);
    expect(off(laid(rolled, stand({ flat: 1 }), 0), 40)).toBeLessThan(0.5);
    expect(off(laid(rolled, stand({ flat: 0.25 }), 1), 40)).toBeCloseTo(15, 0);
    expect(laid(rolled, stand({ flat: 0 }), 1)).toBe(rolled);
    expect(laid(rolled, stand(), 0)).toBe(rolled);
    expect(laid(rolled, [], 1)).toBe(rolled);
    expect(off(laid(rolled, stand(), 1, LEVEL_GROUND, new Float64Array(N).fill(0.5)), 40)).toBeCloseTo(10, 0);
    // A hand that rests is not a foot.
    expect(laid(rolled, [contact("leftHand", 30, 50)], 1)).toBe(rolled);
  });

  it("reads its turn off the frames on which heel and toe both rest", () => {
    // The foot rolls over during the stand: level at first, by 30° towards its end, when the heel has left.
    const draft = ClipDraft.of(standing(0));
    for (let f = 41; f <= 50; f++) draft.setRotation(foot, f, [0, 0, Math.sin(Math.PI / 12), Math.cos(Math.PI / 12)]);
    const clip = draft.done();
    const early = laid(clip, [contact("leftHeel", 30, 40), contact("leftToe", 30, 50)], 1);
    expect(off(early, 35)).toBeLessThan(0.5);
    expect(off(early, 48)).toBeCloseTo(30, 0);
    // Where the toe rests alone all of it counts.
    const alone = laid(clip, [contact("leftToe", 30, 50)], 1);
    expect(off(alone, 35)).toBeGreaterThan(5);
    expect(off(alone, 48)).toBeLessThan(25);
  });
});
