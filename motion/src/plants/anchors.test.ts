import { describe, expect, it } from "vitest";
import type { ContactPoint } from "../character/contactPoints.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { foundContact } from "../testing/contacts.ts";
import { stick, withShift } from "../testing/patched.ts";
import { placeAnchors } from "./anchors.ts";
import { limbEnds } from "./plants.ts";
import { PLANT_DEFAULTS, type PlantSettings } from "./settings.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const ends = limbEnds(base.character, base.points);
// The left foot leaves its place evenly by 1 cm a frame over frames 40 to 60.
const frames = Array.from({ length: 21 }, (_, i) => 40 + i);
const clip = frames.reduce((c, f) => withShift(c, 0, [f], [0.01 * (f - 50), 0, 0]), base.clip);
const tracks = new PointTracks(base.character.skeleton, clip, base.points);
const contact = (point: string, rest: Partial<Contact> = {}) => foundContact(point, 40, 60, rest);
const placed = (contacts: readonly Contact[], settings: Partial<PlantSettings> = {}, ground = LEVEL_GROUND) =>
  placeAnchors(contacts, tracks, ends, ground, { ...PLANT_DEFAULTS, ...settings }).map((c) => c.anchor.point as readonly [number, number, number]);
const course = (id: string, f: number) => [0, 1, 2].map((i) => (tracks.course(id) as Float64Array)[f * 3 + i]);
const clearanceOf = (id: string) => (tracks.point(id) as ContactPoint).clearance;

describe("where a contact rests", () => {
  it("is its first frame, its last, or its middle, as the plant says or the contact itself does", () => {
    const toe = "leftToe";
    const at = (frame: number) => [course(toe, frame)[0], course(toe, frame)[2]];
    const level = ([x, , z]: readonly number[]) => [x, z];
    expect(level(placed([contact(toe)], { rests: "first" })[0])).toEqual(at(40));
    expect(level(placed([contact(toe)], { rests: "last" })[0])).toEqual(at(60));
    // What a person said of one contact goes before the plant's setting.
    const said = (mode: "first" | "last" | "settle") => contact(toe, { origin: "set", anchor: { mode, point: null } });
    expect(level(placed([said("first")], { rests: "last" })[0])).toEqual(at(40));
    expect(level(placed([said("last")], { rests: "first" })[0])).toEqual(at(60));
    expect(level(placed([contact(toe, { anchor: { mode: "last", point: null } })], { rests: "first" })[0])).toEqual(at(60));
    // Settling: the median of the middle half, frames 45 to 55.
    const xs = Array.from({ length: 11 }, (_, i) => course(toe, 45 + i)[0]).sort((a, b) => a - b);
    expect(placed([contact(toe)])[0][0]).toBeCloseTo(xs[5], 12);
    expect(placed([said("settle")], { rests: "first" })[0][0]).toBeCloseTo(xs[5], 12);
  });

  it("lies on the ground by its clearance, or as high over it as was said, and keeps its own height elsewhere", () => {
    const toe = "leftToe";
    const slope = planeGround(0.1, 0.05, 0);
    const [on] = placed([contact(toe)], {}, slope);
    expect(on[1]).toBeCloseTo(0.1 + 0.05 * on[0] + clearanceOf(toe), 9);
    const [over] = placed([contact(toe, { height: 0.07 })], {}, slope);
    expect(over[1]).toBeCloseTo(0.1 + 0.05 * over[0] + clearanceOf(toe) + 0.07, 9);
    const [own] = placed([contact(toe, { on: "place" })], { rests: "last" }, slope);
    expect(own[1]).toBeCloseTo(course(toe, 60)[1], 12);
    const [lifted] = placed([contact(toe, { on: "place", height: 0.07 })], {}, slope);
    expect(lifted[1]).toBeCloseTo(0.1 + 0.05 * lifted[0] + clearanceOf(toe) + 0.07, 9);
  });

  it("is where a person put it, whatever the foot does", () => {
    expect(placed([contact("leftToe", { anchor: { mode: "set", point: [3, 2, 1] } })], { rests: "first" })[0]).toEqual([3, 2, 1]);
  });

  it("keeps heel and toe of one sole its own length apart where both rest; a place that was set does not give way", () => {
    const [heel, toe] = ends.find((e) => e.points.some((p) => p.id === "leftToe"))?.points ?? [];
    const length = Math.hypot(...toe.local.map((v, i) => v - heel.local[i]));
    const apart = ([a, b]: readonly (readonly number[])[]) => Math.hypot(...a.map((v, i) => v - b[i]));
    // The toe's span is late, where the foot has gone on: left alone the two would lie too far apart.
    const pair = [contact("leftHeel", { start: 40, end: 46 }), contact("leftToe", { start: 46, end: 60 })];
    expect(apart(placed([pair[0]]).concat(placed([pair[1]])))).toBeGreaterThan(length + 0.01);
    expect(apart(placed(pair))).toBeCloseTo(length, 5);
    const fixed = [pair[0], contact("leftToe", { start: 46, end: 60, anchor: { mode: "set", point: [0.2, clearanceOf("leftToe"), 1] } })];
    const [moved, kept] = placed(fixed);
    expect(kept).toEqual([0.2, clearanceOf("leftToe"), 1]);
    expect(apart([moved, kept])).toBeCloseTo(length, 5);
    // Spans that do not overlap are two stands, each by itself; so are two that both were set.
    const parted = [pair[0], contact("leftToe", { start: 47, end: 60 })];
    expect(placed(parted)).toEqual([placed([parted[0]])[0], placed([parted[1]])[0]]);
    const both = [contact("leftHeel", { start: 40, end: 46, anchor: { mode: "set", point: [0, 0, 0] } }), fixed[1]];
    expect(placed(both)[0]).toEqual([0, 0, 0]);
  });

  it("is left open for a point that the body lacks", () => {
    expect(placed([contact("tail")])[0]).toBeNull();
  });
});
