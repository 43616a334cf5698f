import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { apart, stick } from "../testing/patched.ts";
import { chainReader, clipWorld } from "./forward.ts";
import { reachLimb, swivel } from "./limbReach.ts";
import { PoseFrame } from "./poseFrame.ts";

const { skeleton, clip } = stick;
const { rig } = characterOf(skeleton, clip, {});
const loaded = (f: number) => {
  const frame = new PoseFrame(skeleton, clip);
  frame.load(clip, f);
  return frame;
};
const place = (frame: PoseFrame, joint: number) => Array.from(frame.worldPositions.slice(joint * 3, joint * 3 + 3));
const turn = (frame: PoseFrame, joint: number) => frame.worldRotations.slice(joint * 4, joint * 4 + 4);
const [hand, forearm, arm] = ["LeftHand", "LeftForeArm", "LeftArm"].map(stick.joint);
const X30 = [Math.sin(Math.PI / 12), 0, 0, Math.cos(Math.PI / 12)];

describe("a frame in hand", () => {
  it("stands where the whole clip's transforms and a joint's own chain say", () => {
    const world = clipWorld(skeleton, clip);
    const p = new Float64Array(3);
    const q = new Float64Array(4);
    for (const f of [0, 17, 63, 64, 89])
      for (const joint of [0, hand, stick.joint("RightToeBase"), stick.joint("Head")]) {
        const frame = loaded(f);
        chainReader(skeleton, clip, joint).read(f, p, q);
        const o = (f * clip.jointCount + joint) * 3;
        for (let i = 0; i < 3; i++) {
          expect(place(frame, joint)[i]).toBeCloseTo(world.positions[o + i], 5);
          expect(p[i]).toBeCloseTo(world.positions[o + i], 5);
        }
        expect(quatAngleFlat(turn(frame, joint), 0, q, 0)).toBeLessThan(1e-5);
      }
  });

  it("shows a set rotation once it is updated, or at once where it is put", () => {
    const frame = loaded(20);
    const before = place(frame, hand);
    frame.setLocal(forearm, X30);
    expect(place(frame, hand)).toEqual(before);
    frame.update();
    expect(apart(place(frame, hand), before)).toBeGreaterThan(0.01);
    const other = loaded(20);
    other.putLocal(forearm, X30);
    expect(place(other, hand)).toEqual(place(frame, hand));
    // Arrays in hand stay true over an update.
    const held = other.worldPositions;
    other.setLocal(forearm, [0, 0, 0, 1]);
    other.update();
    expect(Array.from(held.slice(hand * 3, hand * 3 + 3))).toEqual(place(other, hand));
  });

  it("turns and sets joints in the world, and moves the body alone", () => {
    const frame = loaded(20);
    const was = turn(frame, arm);
    frame.turnWorld(arm, Float64Array.from(X30));
    frame.update();
    expect(quatAngleFlat(turn(frame, arm), 0, was, 0)).toBeCloseTo(Math.PI / 6, 6);
    frame.setWorld(arm, was);
    frame.update();
    expect(quatAngleFlat(turn(frame, arm), 0, was, 0)).toBeLessThan(1e-6);
    const hips = place(frame, 0);
    const there = place(frame, hand);
    expect(frame.moveWorld(0, 0.1, -0.2, 0.3)).toBe(true);
    frame.update();
    [0.1, -0.2, 0.3].forEach((by, i) => {
      expect(place(frame, 0)[i] - hips[i]).toBeCloseTo(by, 9);
      expect(place(frame, hand)[i] - there[i]).toBeCloseTo(by, 9);
    });
    expect(frame.moveWorld(arm, 1, 1, 1)).toBe(false);
  });

  it("stores what was touched and nothing else, on the joints it may", () => {
    const frame = loaded(20);
    frame.setLocal(forearm, X30);
    frame.setLocal(arm, X30);
    frame.moveWorld(0, 0.5, 0, 0);
    const stored = (only: ReadonlySet<number> | null) => {
      const draft = ClipDraft.of(clip);
      frame.store(draft, 20, only);
      return draft.done();
    };
    const q = [0, 0, 0, 0];
    const all = stored(null);
    for (const joint of [forearm, arm]) {
      readRotation(all, joint, 20, q, 0);
      q.forEach((v, i) => {
        expect(v).toBeCloseTo(X30[i], 6);
      });
    }
    expect(all.rotations[hand]).toBe(clip.rotations[hand]);
    const p = [0, 0, 0];
    readPosition(all, 0, 20, p, 0);
    expect(p[0]).toBeCloseTo(0.5, 6);
    const masked = stored(new Set([arm]));
    expect(masked.rotations[forearm]).toBe(clip.rotations[forearm]);
    expect(masked.rotations[arm]).not.toBe(clip.rotations[arm]);
    expect(masked.positions[0]).toBe(clip.positions[0]);
  });

  it("is another's copy until either is changed", () => {
    const frame = loaded(20);
    frame.setLocal(arm, X30);
    frame.update();
    const copy = new PoseFrame(skeleton, clip);
    copy.copyFrom(frame);
    expect(place(copy, hand)).toEqual(place(frame, hand));
    copy.setLocal(arm, [0, 0, 0, 1]);
    copy.update();
    expect(place(copy, hand)).not.toEqual(place(frame, hand));
  });
});

describe("a limb's reach", () => {
  const limb = rig.limbs.find((l) => l.end === hand);
  if (!limb) throw new Error("no left arm");
  const goal = (position: number[] | null, orientation: ArrayLike<number> | null, local: number[] | null = null) => ({
    joint: hand,
    local,
    position,
    orientation,
    rank: "keep" as const,
    extent: 0.6,
  });

  it("brings the hand, or a point of it, to its place, turned as asked, and no bone longer", () => {
    const frame = loaded(20);
    const elbow = apart(place(frame, forearm), place(frame, arm));
    const target = place(frame, hand).map((v, i) => v + [0.05, 0.04, -0.06][i]);
    const turned = Float64Array.of(0, Math.sin(0.3), 0, Math.cos(0.3));
    reachLimb(frame, limb, goal(target, turned));
    frame.update();
    expect(apart(place(frame, hand), target)).toBeLessThan(1e-6);
    expect(quatAngleFlat(turn(frame, hand), 0, turned, 0)).toBeLessThan(1e-6);
    expect(apart(place(frame, forearm), place(frame, arm))).toBeCloseTo(elbow, 6);
    const point = loaded(20);
    const tip = point.point(new Float64Array(3), hand, [0.1, 0, 0]);
    const shoulder = place(point, arm);
    // Towards the shoulder, where the arm reaches.
    const wanted = Array.from(tip, (v, i) => v + 0.15 * (shoulder[i] - v));
    reachLimb(point, limb, goal(wanted, null, [0.1, 0, 0]));
    point.update();
    expect(apart(Array.from(point.point(new Float64Array(3), hand, [0.1, 0, 0])), wanted)).toBeLessThan(1e-6);
  });

  it("keeps the hand's own turn where only its place is asked for a point of it, and leaves what is there alone", () => {
    const frame = loaded(20);
    const before = [arm, forearm, hand].map((j) => Array.from(turn(frame, j)));
    reachLimb(frame, limb, goal(place(frame, hand), turn(frame, hand)));
    frame.update();
    [arm, forearm, hand].forEach((j, i) => {
      expect(Array.from(turn(frame, j))).toEqual(before[i]);
    });
  });

  it("swivels about the line from shoulder to hand: the elbow turns towards its target, both ends stay", () => {
    const frame = loaded(20);
    // A bent elbow has somewhere to go.
    frame.setLocal(forearm, [0, 0, Math.sin(0.5), Math.cos(0.5)]);
    frame.update();
    const ends = [arm, hand].map((j) => place(frame, j));
    const way = turn(frame, hand);
    const target = place(frame, forearm).map((v, i) => v + [0, -0.4, 0.3][i]);
    const before = apart(place(frame, forearm), target);
    swivel(frame, limb, target);
    frame.update();
    [arm, hand].forEach((j, i) => {
      expect(apart(place(frame, j), ends[i])).toBeLessThan(1e-6);
    });
    expect(quatAngleFlat(turn(frame, hand), 0, way, 0)).toBeLessThan(1e-6);
    expect(apart(place(frame, forearm), target)).toBeLessThan(before);
    // As near as a turn about that line takes it: a little on either way is farther.
    const best = apart(place(frame, forearm), target);
    swivel(frame, limb, target);
    frame.update();
    expect(apart(place(frame, forearm), target)).toBeCloseTo(best, 9);
  });
});
