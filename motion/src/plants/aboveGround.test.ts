import { describe, expect, it } from "vitest";
import { LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { expQuatFlat, fromToQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { foundContact } from "../testing/contacts.ts";
import { stick } from "../testing/patched.ts";
import { keepAboveGround, placesBelow, raiseSmoothly } from "./aboveGround.ts";
import type { Holding } from "./footTargets.ts";
import { limbEnds } from "./plants.ts";

const N = 60;
const resting = Uint8Array.from({ length: N }, (_, f) => (f < 10 || f >= 50 ? 1 : 0));
/** An edge of 12 cm that is passed from frame `from` to frame `to`. */
const edge = (from: number, to: number) => Float64Array.from({ length: N }, (_, f) => (f >= from && f <= to ? 0.12 : 0));

describe("a foot raised over an edge", () => {
  it("is up at it, begins at its lift, ends at its landing, and never leaps", () => {
    const raised = raiseSmoothly(edge(30, 34), resting, true, 60);
    for (let f = 30; f <= 34; f++) expect(raised[f]).toBeGreaterThanOrEqual(0.12 - 1e-9);
    expect(Math.max(...raised)).toBeLessThan(0.125);
    for (let f = 0; f < N; f++) if (resting[f]) expect(raised[f]).toBe(0);
    expect(raised[14]).toBeGreaterThan(0);
    const bends = Array.from({ length: N - 2 }, (_, i) => Math.abs(raised[i + 2] - 2 * raised[i + 1] + raised[i]));
    // A quintic over 20 frames: at most 5.8 · 12 cm / 20² a frame², and a little for where it meets the top.
    expect(Math.max(...bends)).toBeLessThan(0.003);
  });

  it("keeps between two edges what it has to, and takes all the time behind the last", () => {
    const lacks = edge(20, 22).map((v, f) => Math.max(v, edge(36, 38)[f]));
    const raised = raiseSmoothly(lacks, resting, true, 60);
    lacks.forEach((lack, f) => {
      expect(raised[f]).toBeGreaterThanOrEqual(lack - 1e-9);
    });
    expect(raised[44]).toBeGreaterThan(0.005);
    expect(raised[49]).toBeLessThan(0.002);
  });

  it("is not raised early over a plane, which it only skims", () => {
    const skims = Float64Array.from({ length: N }, (_, f) => (f === 30 ? 0.003 : 0));
    expect(raiseSmoothly(skims, resting, true, 60)[25]).toBe(0);
    const level = raiseSmoothly(skims, resting, false, 60);
    expect(level[30]).toBeCloseTo(0.003, 9);
    expect(level[28]).toBe(0);
  });
});

describe("how far under the ground a foot may go", () => {
  const foot = { points: [{ id: "toe", clearance: 0.02 }] } as unknown as Parameters<typeof placesBelow>[0];
  const at = (start: number, end: number, y: number, on: "ground" | "place") =>
    foundContact("toe", start, end, { on, anchor: { mode: "settle", point: [0, y, 0] } });
  const down = [at(0, 9, 0.02, "ground"), at(20, 29, -0.14, "place"), at(40, 49, -0.3, "place"), foundContact("other", 0, 59)];

  it("is as far as its own places lie there, from when it leaves the one before until it lands on the one behind", () => {
    const below = placesBelow(foot, down, LEVEL_GROUND, 60);
    const expected = (f: number) => (f < 10 ? 0 : f < 30 ? 0.16 : 0.32);
    below.forEach((v, f) => expect(v, `frame ${f}`).toBeCloseTo(expected(f), 9));
    placesBelow(foot, down, planeGround(-0.16), 60).forEach((v, f) => expect(v).toBeCloseTo(f < 30 ? 0 : 0.16, 9));
  });

  it("is the same all through a stand of heel and toes, as deep as the deeper of them", () => {
    const rolls = { points: [...foot.points, { id: "heel", clearance: 0.05 }] } as unknown as typeof foot;
    const heel = foundContact("heel", 10, 30, { on: "place", anchor: { mode: "settle", point: [0, 0.03, 0] } });
    const below = placesBelow(rolls, [at(20, 40, -0.02, "place"), heel], LEVEL_GROUND, 60);
    below.forEach((v, f) => expect(v, `frame ${f}`).toBeCloseTo(0.04, 9));
  });

  it("is nothing on the ground, over it, and where nothing says how it stands", () => {
    const up = [at(0, 9, 0.02, "ground"), at(20, 29, 0.18, "place")];
    for (const contacts of [up, [], [at(5, 9, -0.2, "ground")], [foundContact("toe", 3, 9, { on: "place" })]])
      expect(placesBelow(foot, contacts, LEVEL_GROUND, 60).every((v) => v === 0)).toBe(true);
  });
});

describe("a foot that stands on one end", () => {
  const limb = stick.evaluator().evaluate(stick.work()).result;
  const [end] = limbEnds(limb.character, limb.points).filter((each) => each.bears);
  const [heel, toe] = end.points;
  const along = Math.hypot(...toe.local.map((v, c) => v - heel.local[c]));
  const none = new Int32Array(1).fill(-1);
  const held = new Int32Array(1);
  /** The foot turned to a heading about the vertical, then its toes dipped below level; its heel at height zero. */
  const dipped = (heading: number, dip: number) => {
    const yaw = expQuatFlat(new Float64Array(4), 0, [0, heading, 0], 0) as Float64Array;
    const level = fromToQuatFlat(
      new Float64Array(4),
      0,
      ...([0, 1, 2].map((c) => toe.local[c] - heel.local[c]) as [number, number, number]),
      0,
      -Math.sin(dip),
      Math.cos(dip),
    );
    const rotations = multiplyQuatFlat(new Float64Array(4), 0, yaw, 0, level as Float64Array, 0) as Float64Array;
    const h = rotateVecFlat(new Float64Array(3), 0, rotations, 0, [...heel.local], 0);
    return { positions: Float64Array.from([1 - h[0], heel.clearance - h[1], 2 - h[2]]), rotations, resting: Uint8Array.of(1) };
  };
  const placeOf = ({ positions, rotations }: ReturnType<typeof dipped>, local: readonly number[]) =>
    Array.from(rotateVecFlat(new Float64Array(3), 0, rotations, 0, [...local], 0), (v, c) => v + positions[c]);
  const holding = { contacts: [], ground: LEVEL_GROUND, weights: Float64Array.of(1), fps: 30 } as unknown as Holding;

  it.each([0, 0.9, Math.PI / 2, -2])("heading %d: its toes come up to the ground, its heel stays, and it keeps its length", (heading) => {
    const foot = dipped(heading, 0.3);
    const before = placeOf(foot, heel.local);
    expect(placeOf(foot, toe.local)[1]).toBeLessThan(-0.03);
    const facing = (f: typeof foot) => [0, 2].map((c) => placeOf(f, toe.local)[c] - placeOf(f, heel.local)[c]);
    const [x, z] = facing(foot);
    keepAboveGround(end, foot, [held, none], holding);
    placeOf(foot, heel.local).forEach((v, c) => {
      expect(v).toBeCloseTo(before[c], 9);
    });
    const up = placeOf(foot, toe.local);
    expect(Math.abs(up[1] - toe.clearance)).toBeLessThan(0.01);
    expect(Math.hypot(...up.map((v, c) => v - before[c]))).toBeCloseTo(along, 9);
    // It still points the same way.
    const [x2, z2] = facing(foot);
    expect((x * x2 + z * z2) / (Math.hypot(x, z) * Math.hypot(x2, z2))).toBeCloseTo(1, 9);
  });

  it("on both ends, or out of the ground, is left as it is", () => {
    for (const [foot, at] of [
      [dipped(0.4, 0.3), [held, held]],
      [dipped(0.4, -0.3), [held, none]],
    ] as const) {
      const [p, q] = [foot.positions.slice(), foot.rotations.slice()];
      keepAboveGround(end, foot, at, holding);
      expect([foot.positions, foot.rotations]).toEqual([p, q]);
    }
  });
});
