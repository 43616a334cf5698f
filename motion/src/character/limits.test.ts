import fc from "fast-check";
import { Quaternion, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { ClipDraft } from "../clip/clip.ts";
import { stick } from "../testing/patched.ts";
import { characterOf } from "./character.ts";
import { type JointLimit, jointAngles, limitAxes, measuredLimits, pastLimits } from "./limits.ts";

const { skeleton, clip } = stick;
const character = characterOf(skeleton, clip);
const axes = limitAxes(character);
const arm = stick.joint("LeftArm");
const forearm = stick.joint("LeftForeArm");
const own = (joint: number) => {
  const found = axes[joint];
  if (!found) throw new Error("no axes");
  return found;
};
const vector = (v: Float64Array) => new Vector3(v[0], v[1], v[2]);
const RAD = Math.PI / 180;

/** A rotation of so much bend, side and twist, made with three.js: first the twist about the bone, then the swing about an axis square to it. */
function turned(joint: number, bend: number, side: number, twist: number): Quaternion {
  const { bone, bend: b, side: s } = own(joint);
  const swing = vector(b)
    .multiplyScalar(bend * RAD)
    .add(vector(s).multiplyScalar(side * RAD));
  const size = swing.length();
  return new Quaternion()
    .setFromAxisAngle(size > 0 ? swing.divideScalar(size) : vector(b), size)
    .multiply(new Quaternion().setFromAxisAngle(vector(bone), twist * RAD));
}

/** A clip in which a joint goes through angles, the rest at rest. */
function moving(joint: number, angles: readonly (readonly [number, number, number])[]) {
  const draft = ClipDraft.make("moving", 30, angles.length, skeleton.names.length, clip.positionJoints);
  angles.forEach(([bend, side, twist], f) => {
    for (let j = 0; j < skeleton.names.length; j++) draft.setRotation(j, f, [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)]);
    const q = new Quaternion(...skeleton.restRotations.subarray(joint * 4, joint * 4 + 4)).multiply(turned(joint, bend, side, twist));
    draft.setRotation(joint, f, [q.x, q.y, q.z, q.w]);
    clip.positionJoints.forEach((_, slot) => draft.setPosition(slot, f, [0, 1, 0]));
  });
  return draft.done();
}

describe("a joint's angles", () => {
  it("are the bend, the side and the twist that it was turned by, whichever sign its quaternion has (property)", () => {
    const angle = fc.double({ min: -85, max: 85, noNaN: true });
    fc.assert(
      fc.property(angle, angle, fc.double({ min: -170, max: 170, noNaN: true }), fc.boolean(), (bend, side, twist, negative) => {
        const q = new Quaternion(...skeleton.restRotations.subarray(arm * 4, arm * 4 + 4)).multiply(turned(arm, bend, side, twist));
        const sign = negative ? -1 : 1;
        const local = Float64Array.of(sign * q.x, sign * q.y, sign * q.z, sign * q.w);
        const angles = jointAngles(new Float64Array(3), own(arm), skeleton.restRotations, arm * 4, local);
        expect(angles[0]).toBeCloseTo(bend, 4);
        expect(angles[1]).toBeCloseTo(side, 4);
        expect(angles[2]).toBeCloseTo(twist, 4);
      }),
    );
  });

  it("are about axes of unit length, square to each other; an elbow bends about its hinge", () => {
    for (const one of axes) {
      if (!one) continue;
      const [b, f, s] = [one.bone, one.bend, one.side].map(vector);
      for (const v of [b, f, s]) expect(v.length()).toBeCloseTo(1, 9);
      for (const [u, v] of [
        [b, f],
        [b, s],
        [f, s],
      ])
        expect(u.dot(v)).toBeCloseTo(0, 9);
    }
    const limb = character.rig.limbs.find((l) => l.lower === forearm);
    if (!limb) throw new Error("no arm");
    // The stick's joints rest with the world's axes: frames are one.
    expect(Math.abs(vector(own(forearm).bend).dot(vector(limb.hinge)))).toBeGreaterThan(0.99);
  });
});

describe("what a joint may do", () => {
  it("is measured off its clips: how far it goes, a little room around it, a single spike left out", () => {
    const way = Array.from({ length: 1200 }, (_, f): [number, number, number] => [60 * Math.sin(f / 60), 10, f === 700 ? 120 : -20]);
    const found = measuredLimits(character, [{ skeleton, clip: moving(arm, way) }]).find((l) => l.joint === arm);
    expect(found?.bend[0]).toBeGreaterThanOrEqual(-67);
    expect(found?.bend[0]).toBeLessThanOrEqual(-63);
    expect(found?.bend[1]).toBeGreaterThanOrEqual(63);
    // It may always stand as it rests.
    expect(found?.side).toEqual([0, 15]);
    expect(found?.twist).toEqual([-25, 0]);
    expect(measuredLimits(character, [])).toEqual([]);
    // Two clips: as far as either goes.
    const both = measuredLimits(
      character,
      [way.slice(0, 3), [[-80, 0, 0]] as [number, number, number][]].map((w) => ({ skeleton, clip: moving(arm, w) })),
    );
    expect(both.find((l) => l.joint === arm)?.bend).toEqual([-85, 7]);
  });

  it("is told where it is passed: which way, how far at most, when, and for how long; nothing is held back", () => {
    const limit: JointLimit = { joint: arm, bend: [-30, 30], side: [-180, 180], twist: [-180, 180] };
    const way = Array.from({ length: 40 }, (_, f): [number, number, number] => [f >= 10 && f < 20 ? 30 + 2 * (f - 9) : 0, 0, 0]);
    const made = moving(arm, way);
    const past = pastLimits({ ...character, limits: [limit] }, made);
    expect(past).toHaveLength(1);
    expect(past[0]).toMatchObject({ joint: arm, way: "bend", start: 10, end: 19, at: 19 });
    expect(past[0].value).toBeCloseTo(20, 3);
    expect(pastLimits({ ...character, limits: [] }, made)).toEqual([]);
    // Past it on the other side, and up to the last frame.
    const low = pastLimits(
      { ...character, limits: [{ ...limit, bend: [-30, 80] }] },
      moving(arm, [
        [0, 0, 0],
        [-45, 0, 0],
      ]),
    );
    expect(low[0]).toMatchObject({ start: 1, end: 1 });
    expect(low[0].value).toBeCloseTo(15, 3);
  });
});
