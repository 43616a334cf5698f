import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import type { Motion } from "../motion.ts";
import { foundContact } from "../testing/contacts.ts";
import { apart, differences, stick, worldAt } from "../testing/patched.ts";
import { holdBody } from "./body.ts";
import { PLANT_DEFAULTS } from "./settings.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const N = base.clip.frameCount;
const all = new Float64Array(N).fill(1);
/** The figure on the spot, going 3 cm up and down. */
const clip = (() => {
  const draft = ClipDraft.of(base.clip);
  for (let f = 0; f < N; f++) {
    draft.setPosition(0, f, [0, 0.96 + 0.03 * Math.sin(f / 6), 0]);
    draft.setRotation(0, f, [0, 0, 0, 1]);
  }
  return draft.done();
})();
const placeOf = (of: Clip, id: string, f: number) => {
  const course = new PointTracks(stick.skeleton, of, base.points).course(id) as Float64Array;
  return Array.from(course.slice(f * 3, f * 3 + 3));
};
const contact = (point: string, [x, y, z]: readonly number[], rest: Partial<Contact> = {}) =>
  foundContact(point, 30, 50, { on: "place", anchor: { mode: "set", point: [x, y, z] }, origin: "set", ...rest });
const settings = { ...PLANT_DEFAULTS, landingRamp: 6 / 30, liftRamp: 10 / 30 };
const held = (contacts: readonly Contact[], weights = all, settled: Clip | null = null) => {
  const motion: Motion = { ...base, clip, contacts, plants: [{ settings, weights, trembles: 0 }] };
  return holdBody(motion, contacts, weights, settled && { settled, also: null });
};
const moved = (of: Clip, f: number) => apart(worldAt(of, f, 0).place, worldAt(clip, f, 0).place);
const seat = placeOf(clip, "seat", 40);

describe("a part that the body as a whole has to bring to its place", () => {
  it("is there all through its span; the body goes along as one piece, and comes and goes with the ramps", () => {
    const target = seat.map((v, i) => v + [0.1, -0.05, 0.2][i]);
    const result = held([contact("seat", target)]);
    for (const f of [30, 36, 44, 50]) expect(apart(placeOf(result, "seat", f), target), `frame ${f}`).toBeLessThan(1e-5);
    // One point says nothing of a turn: no joint has turned.
    expect(differences(clip, result)).toMatchObject({ joints: [], moved: true });
    for (const f of [0, 22, 62, 89]) expect(moved(result, f), `frame ${f}`).toBe(0);
    for (const f of [27, 55]) expect(moved(result, f), `frame ${f}`).toBeGreaterThan(0.02);
    const quick = held([contact("seat", target, { rampIn: 1, rampOut: 2 })]);
    for (const f of [27, 28, 54, 55]) expect(moved(quick, f), `frame ${f}`).toBe(0);
  });

  it("goes half of the way by half the weight, and nowhere without any", () => {
    const target = seat.map((v, i) => v + [0.1, 0, 0][i]);
    const half = held([contact("seat", target)], new Float64Array(N).fill(0.5));
    expect(worldAt(half, 40, 0).place[0]).toBeCloseTo(0.05, 4);
    expect(held([contact("seat", target)], new Float64Array(N))).toBe(clip);
    expect(held([])).toBe(clip);
    // A foot or a hand is its limb's to bring.
    expect(held([contact("leftToe", target)])).toBe(clip);
  });

  it("turns the body where two parts ask for it, each to its place", () => {
    // Back and seat where they are on frame 40, turned by 20° about the vertical through the seat.
    const [s, b] = ["seat", "back"].map((id) => placeOf(clip, id, 40));
    const [cos, sin] = [Math.cos(Math.PI / 9), Math.sin(Math.PI / 9)];
    const [dx, dy, dz] = b.map((v, i) => v - s[i]);
    const back = [s[0] + cos * dx + sin * dz, s[1] + dy, s[2] + cos * dz - sin * dx];
    const result = held([contact("seat", s, { start: 40, end: 40 }), contact("back", back, { start: 40, end: 40 })]);
    expect(apart(placeOf(result, "seat", 40), s)).toBeLessThan(1e-4);
    expect(apart(placeOf(result, "back", 40), back)).toBeLessThan(1e-4);
    expect(differences(clip, result).joints).toEqual([0]);
  });

  it("rides on another part of the body that it rests on", () => {
    // The head's own place as the left hand sees it on frame 40 is where it has to stay.
    const hand = stick.joint("LeftHand");
    const tracks = new PointTracks(stick.skeleton, clip, base.points);
    const local = tracks.spanCourse(contact("head", [0, 0, 0], { start: 40, end: 40, on: { joint: hand } })) as Float64Array;
    const result = held([contact("head", Array.from(local), { on: { joint: hand } })]);
    // Moving the whole body moves hand and head alike: what is asked of it is the same each frame, and small at the frame it was read off.
    expect(moved(result, 40)).toBeLessThan(1e-6);
    expect(moved(result, 33)).toBeGreaterThan(1e-4);
  });

  it("that was found is calmed: the body is not shaken against its own trembling", () => {
    const draft = ClipDraft.of(clip);
    for (let f = 0; f < N; f++) draft.setPosition(0, f, [f % 2 ? 0.004 : -0.004, 0.96, 0]);
    const shaky = draft.done();
    const target = placeOf(shaky, "seat", 40).map((v, i) => v + [0.05, 0, 0][i]);
    const run = (origin: "found" | "set") => {
      const contacts = [contact("seat", target, { origin })];
      return holdBody({ ...base, clip: shaky, contacts, plants: [{ settings, weights: all, trembles: 0 }] }, contacts, all, null);
    };
    const steps = (of: Clip) => Math.max(...[36, 37, 38, 39, 40, 41, 42, 43].map((f) => Math.abs(worldAt(of, f + 1, 0).place[0] - worldAt(of, f, 0).place[0])));
    // Set by hand it is exactly there; found, the body keeps its own small life about it.
    expect(steps(run("set"))).toBeLessThan(1e-6);
    expect(steps(run("found"))).toBeGreaterThan(0.006);
  });

  it("is solved only where something has changed, of what was solved before", () => {
    const target = seat.map((v, i) => v + [0.1, 0, 0][i]);
    const draft = ClipDraft.of(clip);
    draft.setPosition(0, 45, [0.01, 0.96, 0]);
    const settled = draft.done();
    const again = held([contact("seat", target)], all, settled);
    expect(moved(again, 45)).toBeGreaterThan(0.05);
    for (const f of [31, 40, 44, 46]) expect(moved(again, f), `frame ${f}`).toBe(0);
  });
});
