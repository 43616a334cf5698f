import { describe, expect, it } from "vitest";
import { makePatch } from "../documents/patch.ts";
import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { readBvh } from "../formats/bvh/read.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { oneSource } from "../sources.ts";
import { skatingBody } from "../testing/skatingBody.ts";
import { pasteEdit, restPose, takePose } from "./poses.ts";

/** Two bodies with the same bones: arms out to the sides at rest, and arms that hang at rest. */
const SPREAD = skatingBody();
const HANGING = SPREAD.replace(
  /JOINT (Left|Right)(ForeArm|Hand) \{ OFFSET (-?[\d.]+) 0 0/g,
  (_, side, name, x) => `JOINT ${side}${name} { OFFSET 0 -${Math.abs(Number(x))} 0`,
).replace(/(JOINT (Left|Right)Hand \{[^{]*End Site \{ OFFSET) (-?[\d.]+) 0 0/g, (_, begin, __, x) => `${begin} 0 -${Math.abs(Number(x))} 0`);

function body(text: string) {
  const { skeleton, clip } = readBvh(new TextEncoder().encode(text), { fileName: "body.bvh" });
  const evaluator = new Evaluator(oneSource(skeleton, clip));
  const { base } = evaluator.evaluate(emptyWork());
  const frame = new PoseFrame(skeleton, clip);
  frame.load(clip, 40);
  const place = (of: PoseFrame, name: string) => Array.from(of.worldPositions.slice(skeleton.names.indexOf(name) * 3, skeleton.names.indexOf(name) * 3 + 3));
  return { skeleton, clip, evaluator, character: base.character, frame, place };
}

/** The pose that a body is in at frame 40 once a pose is pasted there. */
function pasted(on: ReturnType<typeof body>, pose: ReturnType<typeof takePose>): PoseFrame {
  const edit = pasteEdit(on.frame, on.character, pose, { joints: null, where: "spot", amount: 1, label: "paste" });
  const touchUp = { ...makePatch("touchUp", "T", "t", { at: 40 / 30, edits: [edit], holds: [] }), range: { start: 40 / 30, end: 40 / 30 } };
  const { result } = on.evaluator.evaluate({ ...emptyWork(), patches: [touchUp] });
  const frame = new PoseFrame(on.skeleton, result.clip);
  frame.load(result.clip, 40);
  return frame;
}

describe("a pose on a body with another rest pose", () => {
  const [spread, hanging] = [body(SPREAD), body(HANGING)];

  it("the fixture: one has its arms out at rest, the other hanging", () => {
    expect(Math.abs(spread.skeleton.offsets[spread.skeleton.names.indexOf("LeftHand") * 3])).toBeGreaterThan(0.2);
    expect(hanging.skeleton.offsets[hanging.skeleton.names.indexOf("LeftHand") * 3 + 1]).toBeLessThan(-0.2);
  });

  it("writes the T-pose that was kept on the one onto the other, and the other way round", () => {
    const tPose = restPose(spread.frame, spread.character);
    for (const on of [spread, hanging]) {
      const frame = pasted(on, tPose);
      for (const side of ["Left", "Right"]) {
        const [shoulder, elbow, hand] = ["Arm", "ForeArm", "Hand"].map((name) => on.place(frame, `${side}${name}`));
        // Level, and out to the side along a straight line.
        expect(Math.abs(hand[1] - shoulder[1]), side).toBeLessThan(0.01);
        expect((side === "Left" ? 1 : -1) * (hand[0] - shoulder[0]), side).toBeGreaterThan(0.5);
        expect(Math.abs(elbow[1] - shoulder[1]), side).toBeLessThan(0.01);
      }
    }
    const hung = restPose(hanging.frame, hanging.character);
    const frame = pasted(spread, hung);
    for (const side of ["Left", "Right"]) {
      const [shoulder, hand] = ["Arm", "Hand"].map((name) => spread.place(frame, `${side}${name}`));
      expect(shoulder[1] - hand[1], side).toBeGreaterThan(0.5);
      expect(Math.hypot(shoulder[0] - hand[0], shoulder[2] - hand[2]), side).toBeLessThan(0.02);
    }
  });

  it("brings every bone of a frame to point the same way on both", () => {
    const pose = takePose(spread.frame, spread.character, null);
    const frame = pasted(hanging, pose);
    const bones = [
      ["LeftArm", "LeftForeArm"],
      ["LeftForeArm", "LeftHand"],
      ["RightArm", "RightForeArm"],
      ["LeftUpLeg", "LeftLeg"],
      ["RightLeg", "RightFoot"],
      ["Spine", "Chest"],
    ];
    for (const [from, to] of bones) {
      const way = (of: ReturnType<typeof body>, at: PoseFrame) => {
        const [a, b] = [of.place(at, from), of.place(at, to)];
        const d = b.map((v, i) => v - a[i]);
        return d.map((v) => v / Math.hypot(...d));
      };
      const [there, here] = [way(spread, spread.frame), way(hanging, frame)];
      expect(Math.hypot(...there.map((v, i) => v - here[i])), `${from} to ${to}`).toBeLessThan(0.01);
    }
  });
});
