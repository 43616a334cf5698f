import { buildBiped } from "@stride/demo";
import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { FINGERS, type Role } from "../character/roles.ts";
import { ClipDraft } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { FLAT_HAND, fingerJoints, type HandShape, handRotations, type READY_SHAPES, readyShape } from "./handShape.ts";

// A body with fingers by another generator than this package's own.
const { skeleton } = buildBiped("hands", "Hands", { height: 1.72, breadth: 1, fingers: true, toes: true });
const draft = ClipDraft.make("rest", 30, 4, skeleton.names.length, Int16Array.of(0));
for (let f = 0; f < 4; f++) {
  draft.setPosition(0, f, [0, 0.96, 0]);
  for (let j = 0; j < skeleton.names.length; j++) draft.setRotation(j, f, skeleton.restRotations, j * 4);
}
const clip = draft.done();
const { body } = characterOf(skeleton, clip);
const role = (side: "left" | "right", part: string) => body.roles[`${side}${part}` as Role] ?? -1;

/** World places of a hand's joints in a shape, metres. */
function posed(side: "left" | "right", shape: HandShape) {
  const frame = new PoseFrame(skeleton, clip);
  frame.load(clip, 0);
  const rotations = handRotations(skeleton, body, side, shape);
  for (const [joint, q] of rotations) frame.setLocal(joint, q);
  frame.update();
  return { rotations, at: (part: string) => Array.from(frame.worldPositions.slice(role(side, part) * 3, role(side, part) * 3 + 3)) };
}
const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, i) => v - b[i]));
const angleOf = (q: ArrayLike<number>) => (2 * Math.acos(Math.min(1, Math.abs(q[3]))) * 180) / Math.PI;

describe("a hand's shape", () => {
  it("flat is the rest pose of the fingers, all of them, and of nothing else", () => {
    for (const side of ["left", "right"] as const) {
      const { rotations } = posed(side, FLAT_HAND);
      const fingers = fingerJoints(body, side);
      expect(rotations.map(([j]) => j).sort()).toEqual(fingers.map((f) => f.joint).sort());
      expect(fingers).toHaveLength(15);
    }
  });

  it("bends each joint of a finger by so many degrees, towards the palm on either side", () => {
    for (const side of ["left", "right"] as const) {
      const flat = posed(side, FLAT_HAND);
      const bent = posed(side, { ...FLAT_HAND, middle: 40 });
      for (const step of ["Middle", "Middle2", "Middle3"]) {
        const [, q] = bent.rotations.find(([j]) => j === role(side, step)) ?? [0, [0, 0, 0, 1]];
        const [, straight] = flat.rotations.find(([j]) => j === role(side, step)) ?? [0, [0, 0, 0, 1]];
        expect(Math.abs(angleOf(q) - angleOf(straight))).toBeCloseTo(40, 1);
      }
      // The palms of a body whose arms hang out to its sides face down at rest: what bends goes down; the other fingers stay.
      expect(bent.at("Middle3")[1]).toBeLessThan(flat.at("Middle3")[1] - 0.01);
      expect(bent.at("Ring3")).toEqual(flat.at("Ring3"));
      expect(bent.at("Middle")).toEqual(flat.at("Middle"));
    }
  });

  it("bends a single joint more where that is asked for", () => {
    const joint = role("left", "Index2");
    const [one, more] = [
      { ...FLAT_HAND, index: 10 },
      { ...FLAT_HAND, index: 10, single: { Index2: 25 } },
    ].map((s) => handRotations(skeleton, body, "left", s));
    for (const [j, q] of more) {
      const [, was] = one.find(([k]) => k === j) ?? [0, [0, 0, 0, 1]];
      expect(angleOf(q) - angleOf(was), skeleton.names[j]).toBeCloseTo(j === joint ? 25 : 0, 1);
    }
  });

  it("spreads neighbours apart: index and little go outwards, the middle stays, on either side alike", () => {
    for (const side of ["left", "right"] as const) {
      const [flat, spread] = [posed(side, FLAT_HAND), posed(side, { ...FLAT_HAND, spread: 15 })];
      const gap = (of: typeof flat, a: string, b: string) => apart(of.at(a), of.at(b));
      for (const [a, b] of [
        ["Index3", "Middle3"],
        ["Middle3", "Ring3"],
        ["Ring3", "Little3"],
      ])
        expect(gap(spread, a, b) - gap(flat, a, b), `${side} ${a} ${b}`).toBeGreaterThan(0.005);
      expect(spread.at("Middle3")).toEqual(flat.at("Middle3"));
      const closed = posed(side, { ...FLAT_HAND, spread: -8 });
      expect(gap(closed, "Index3", "Little3")).toBeLessThan(gap(flat, "Index3", "Little3"));
    }
  });

  it("brings the thumb across the palm, nearer to the little finger", () => {
    for (const side of ["left", "right"] as const) {
      const [flat, across] = [posed(side, FLAT_HAND), posed(side, { ...FLAT_HAND, thumbAcross: 50 })];
      expect(apart(across.at("Thumb3"), across.at("Little"))).toBeLessThan(apart(flat.at("Thumb3"), flat.at("Little")) - 0.001);
      expect(across.at("Index3")).toEqual(flat.at("Index3"));
    }
  });

  it("ready to use: relaxed bends the little finger most, a thin shaft is gripped tighter than a thick one", () => {
    const shape = (name: (typeof READY_SHAPES)[number]["name"]) => readyShape(name, skeleton, body, "left");
    const relaxed = shape("relaxed");
    expect([relaxed.index, relaxed.middle, relaxed.ring, relaxed.little]).toEqual(
      [...[relaxed.index, relaxed.middle, relaxed.ring, relaxed.little]].sort((a, b) => a - b),
    );
    for (const finger of FINGERS.slice(1).map((f) => f.toLowerCase() as "index" | "middle" | "ring" | "little"))
      expect(shape("shaft3")[finger], finger).toBeGreaterThan(shape("shaft6")[finger]);
    // 2 · atan(L / 2r) with L the mean of the two outer segments and r the shaft's radius and a finger's together.
    const lengths = ["Middle2", "Middle3"].map((part) => Math.hypot(...skeleton.offsets.slice(role("left", part) * 3, role("left", part) * 3 + 3)));
    const mean = (lengths[0] + lengths[1]) / 2;
    expect(shape("shaft3").middle).toBeCloseTo((2 * Math.atan(mean / (2 * 0.023)) * 180) / Math.PI, 6);
    expect(shape("shaft6").middle).toBeCloseTo((2 * Math.atan(mean / (2 * 0.038)) * 180) / Math.PI, 6);
    expect(shape("flat")).toEqual(FLAT_HAND);
    expect(shape("fist").middle).toBeGreaterThan(80);
    expect(shape("pinch").index).toBeGreaterThan(shape("pinch").little);
  });

  it("is nothing for a body without fingers there", () => {
    expect(handRotations(skeleton, { ...body, roles: {} }, "left", FLAT_HAND)).toEqual([]);
  });
});
