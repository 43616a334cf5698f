import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readRotation, rotationBetween } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { apart, around, differences, patch, stick, worldAt } from "../testing/patched.ts";
import { mirrorJoints, mirrorQuat } from "./mirror.ts";
import { limbJoints, mirroredSet, mirrorPose, type PasteOptions, pasteEdit, restPose, takePose } from "./poses.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const { character } = base;
const { rig, body } = character;
const at = (f: number, clip = stick.clip) => {
  const frame = new PoseFrame(stick.skeleton, clip);
  frame.load(clip, f);
  return frame;
};
const options = (more: Partial<PasteOptions> = {}): PasteOptions => ({ joints: null, where: "spot", amount: 1, label: "paste", ...more });
const pasted = (f: number, edit: ReturnType<typeof pasteEdit>, rest = around(f)) =>
  stick.evaluator().evaluate(stick.work(patch("touchUp", { at: f / 30, edits: [edit], holds: [] }, rest))).result.clip;

describe("mirroring", () => {
  it("gives the same rotation again when done twice, and turns left into right", () => {
    const n = fc.double({ min: -1, max: 1, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(n, n, n, n), (raw) => {
        const length = Math.hypot(...raw);
        if (length < 1e-3) return;
        const q = raw.map((v) => v / length);
        const twice = new Float64Array(4);
        mirrorQuat(twice, 0, q, 0, rig);
        mirrorQuat(twice, 0, twice, 0, rig);
        expect(quatAngleFlat(twice, 0, q, 0)).toBeLessThan(1e-6);
      }),
    );
    expect(mirrorJoints(stick.skeleton.names.length, body)[stick.joint("LeftHand")]).toBe(stick.joint("RightHand"));
    expect(mirrorJoints(stick.skeleton.names.length, body)[stick.joint("Chest")]).toBe(stick.joint("Chest"));
  });

  it("puts every joint of a mirrored pose where its partner was on the other side", () => {
    const pose = mirrorPose(takePose(at(20), character, null), rig);
    const clip = pasted(20, pasteEdit(at(20), character, pose, options()));
    const hips = worldAt(stick.clip, 20, 0).place;
    const pairs = mirrorJoints(stick.skeleton.names.length, body);
    for (const j of stick.skeleton.names.keys()) {
      const was = worldAt(stick.clip, 20, pairs[j]).place;
      const now = worldAt(clip, 20, j).place;
      expect(apart(now, [2 * hips[0] - was[0], was[1], was[2]]), stick.skeleton.names[j]).toBeLessThan(1e-5);
    }
    const again = mirrorPose(pose, rig);
    for (const [key, q] of Object.entries(takePose(at(20), character, null).rotations)) expect(quatAngleFlat(again.rotations[key], 0, q, 0)).toBeLessThan(1e-6);
  });
});

describe("pasting", () => {
  it("is exact at its frame, follows the motion's own life around it, and keeps to its window", () => {
    const pose = takePose(at(5), character, [stick.joint("LeftForeArm"), stick.joint("LeftArm")]);
    const clip = pasted(40, pasteEdit(at(40), character, pose, options()));
    const angle = (f: number, from: number) => {
      const j = stick.joint("LeftForeArm");
      return rotationBetween(clip, f, stick.clip, from, j);
    };
    expect(angle(40, 5)).toBeLessThan(1e-6);
    const { frames, joints } = differences(stick.clip, clip);
    expect(joints.every((j) => [stick.joint("LeftForeArm"), stick.joint("LeftArm")].includes(j))).toBe(true);
    expect([frames[0], frames.at(-1)]).toEqual([35, 45]);
  });

  it("pastes one limb with its collarbone onto the other side", () => {
    const left = limbJoints(stick.skeleton, rig, stick.joint("LeftForeArm"));
    expect([...left].map((j) => stick.skeleton.names[j])).toEqual(["LeftShoulder", "LeftArm", "LeftForeArm", "LeftHand"]);
    const pose = mirrorPose(takePose(at(8), character, left), rig);
    const edit = pasteEdit(at(24), character, pose, options({ joints: mirroredSet(left, stick.skeleton, body) }));
    expect(Object.keys(edit.rotations)).toEqual(["rightCollar", "rightUpperArm", "rightForearm", "rightHand"]);
    const clip = pasted(24, edit);
    const q = new Float64Array(4);
    readRotation(stick.clip, stick.joint("LeftForeArm"), 8, q, 0);
    mirrorQuat(q, 0, q, 0, rig);
    const now = new Float64Array(4);
    readRotation(clip, stick.joint("RightForeArm"), 24, now, 0);
    expect(quatAngleFlat(q, 0, now, 0)).toBeLessThan(1e-6);
  });

  it("pastes in the world or on the spot, and back to rest", () => {
    const pose = takePose(at(5), character, null);
    const world = pasted(60, pasteEdit(at(60), character, pose, options({ where: "world" })));
    expect(apart(worldAt(world, 60, 0).place, worldAt(stick.clip, 5, 0).place)).toBeLessThan(1e-5);
    const spot = pasted(60, pasteEdit(at(60), character, pose, options()));
    expect(worldAt(spot, 60, 0).place[2]).toBeCloseTo(worldAt(stick.clip, 60, 0).place[2], 6);
    const rest = pasted(60, pasteEdit(at(60), character, restPose(at(60), character), options()));
    for (const name of ["LeftArm", "RightLeg", "Chest"]) {
      const q = new Float64Array(4);
      readRotation(rest, stick.joint(name), 60, q, 0);
      expect(quatAngleFlat(q, 0, [0, 0, 0, 1], 0), name).toBeLessThan(1e-6);
    }
  });

  it("refuses a pose that shares no part with the body", () => {
    const pose = { ...takePose(at(5), character, null), rotations: { "=Wing": [0, 0, 0, 1] as [number, number, number, number] } };
    expect(() => pasteEdit(at(5), character, pose, options())).toThrow(/share no part/);
  });
});
