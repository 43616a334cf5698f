import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { FootSkin } from "../character/footSkin.ts";
import { ClipDraft } from "../clip/clip.ts";
import { type Ground, LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { expQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { stick } from "../testing/patched.ts";
import { FootPose } from "./footPose.ts";
import type { EndTargets } from "./footTargets.ts";

const { skeleton, clip: source } = stick;
const [FOOT, TOE] = [stick.joint("LeftFoot"), stick.joint("LeftToeBase")];
const toeOffset = [0, 1, 2].map((i) => skeleton.offsets[TOE * 3 + i]);
/** Skin that is less deep counts as out of the ground, metres. */
const SKIMS = 0.0003;

const quat = (turn: readonly number[]) => expQuatFlat(new Float64Array(4), 0, [...turn], 0) as Float64Array;
const turned = (v: readonly number[], by: Float64Array) => rotateVecFlat(Float64Array.from(v), 0, by, 0, Float64Array.from(v), 0);

interface Place {
  readonly ofFoot: readonly number[];
  readonly ofToe: readonly number[];
  readonly share: number;
}

/** A foot of such places: its own first, then those of both, then the toe's. */
function footOf(places: readonly Place[]): FootSkin {
  const sorted = [...places].sort((a, b) => a.share - b.share);
  return {
    foot: FOOT,
    toe: TOE,
    hoof: false,
    ball: Float64Array.from(toeOffset),
    heel: null,
    tip: null,
    reach: 0.3,
    places: {
      mixed: sorted.filter((p) => p.share === 0).length,
      toes: sorted.filter((p) => p.share < 1).length,
      shares: Float64Array.from(sorted, (p) => p.share),
      ofFoot: Float64Array.from(sorted.flatMap((p) => p.ofFoot.map((v) => v * (1 - p.share)))),
      ofToe: Float64Array.from(sorted.flatMap((p) => p.ofToe.map((v) => v * p.share))),
    },
    bend: null,
  };
}

const targetsOf = (place: readonly number[], turn: readonly number[]): EndTargets => ({
  positions: Float64Array.from(place),
  rotations: quat(turn),
  resting: new Uint8Array(1),
});

/** The clip's first frame with the toe turned by a rotation vector in the foot. */
function toesTurned(turn: readonly number[]) {
  const draft = ClipDraft.of(source);
  draft.setRotation(TOE, 0, quat(turn));
  return draft.done();
}

/** How deep each place is, worked out from the places alone. */
function depths(places: readonly Place[], at: readonly number[], turn: readonly number[], bend: readonly number[], ground: (x: number, z: number) => number) {
  const q = quat(turn);
  const own = multiplyQuatFlat(new Float64Array(4), 0, q, 0, quat(bend), 0) as Float64Array;
  return places.map(({ ofFoot, ofToe, share }) => {
    const a = turned(ofFoot, q);
    const joint = turned(toeOffset, q);
    const b = turned(ofToe, own);
    const [x, y, z] = [0, 1, 2].map((i) => at[i] + (1 - share) * a[i] + share * (joint[i] + b[i]));
    return ground(x, z) - y - SKIMS;
  });
}

const vector = (size: number) => fc.array(fc.double({ min: -size, max: size, noNaN: true }), { minLength: 3, maxLength: 3 });
const place = fc.record({ ofFoot: vector(0.15), ofToe: vector(0.08), share: fc.constantFrom(0, 0, 0.2, 0.7, 1, 1) });
const deepest = (list: readonly number[]) => Math.max(Number.NEGATIVE_INFINITY, ...list);

describe("how deep a foot is", () => {
  // On level ground heights and boxes do; over a slope, or with shapes, every place is looked at.
  it.each([
    ["level ground", LEVEL_GROUND, () => 0],
    ["a level floor", planeGround(-0.04), () => -0.04],
    ["a slope", planeGround(0.01, 0.1, -0.05), (x: number, z: number) => 0.01 + 0.1 * x - 0.05 * z],
  ] as const)("on %s is the depth of its deepest place, of the foot's and of the toe's own", (_, ground: Ground, height) => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 8 }), vector(0.12), vector(0.8), vector(0.5), (places, at, turn, bend) => {
        const pose = new FootPose(footOf(places), targetsOf(at, turn), skeleton, toesTurned(bend), ground, 10);
        pose.load(0);
        pose.measure();
        const deep = depths(places, at, turn, bend, height);
        const foot = deepest(deep.filter((_, i) => places[i].share < 0.5));
        const toe = deepest(deep.filter((_, i) => places[i].share >= 0.5));
        for (const [found, right] of [
          [pose.footDepth, foot],
          [pose.toeDepth, toe],
        ])
          if (Math.max(found, right) > 0) expect(found).toBeCloseTo(right, 6);
        // Whatever is in the ground is seen.
        expect(Math.max(pose.footDepth, pose.toeDepth) > 0).toBe(Math.max(foot, toe) > 0);
      }),
    );
  });

  it("counts for nothing where it is inside something", () => {
    const places = [{ ofFoot: [0, -0.02, 0], ofToe: [0, 0, 0], share: 0 }];
    const depthOf = (inside: number) => {
      const pose = new FootPose(footOf(places), targetsOf([0, -0.1, 0], [0, 0, 0]), skeleton, source, LEVEL_GROUND, inside);
      pose.load(0);
      pose.measure();
      return pose.footDepth;
    };
    expect(depthOf(0.2)).toBeCloseTo(0.12 - SKIMS, 9);
    expect(depthOf(0.1)).toBe(0);
  });
});

describe("a foot near the ground", () => {
  const near = (height: number, ground: Ground) =>
    new FootPose(footOf([{ ofFoot: [0, 0, 0], ofToe: [0, 0, 0], share: 0 }]), targetsOf([1, height, 0], [0, 0, 0]), skeleton, source, ground, 1).near(0);

  it("is one whose furthest place could reach it; beside steps every one is", () => {
    expect([near(0.29, LEVEL_GROUND), near(0.31, LEVEL_GROUND)]).toEqual([true, false]);
    // At x = 1 the slope lies 0.2 m up.
    expect([near(0.49, planeGround(0, 0.2)), near(0.51, planeGround(0, 0.2))]).toEqual([true, false]);
    const stepped: Ground = { ...LEVEL_GROUND, shapes: [{ shape: "box", x: 9, z: 9, heading: 0, width: 1, length: 1, height: 0.1 }] };
    expect(near(3, stepped)).toBe(true);
  });
});
