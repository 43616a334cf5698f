import { describe, expect, it } from "vitest";
import { readBvh } from "../formats/bvh/read.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { stick } from "../testing/patched.ts";
import { skatingBody } from "../testing/skatingBody.ts";
import { characterOf } from "./character.ts";
import { pointLabel } from "./contactPoints.ts";
import { allParts, findPart, partFromKey, partInWords, partKey, partName, partOf } from "./parts.ts";

const { character } = stick.evaluator().evaluate(stick.work()).base;
const point = (id: string) => {
  const found = character.contactPoints.find((p) => p.id === id);
  if (!found) throw new Error(`no point ${id}`);
  return found;
};

/** Where a point is while the figure stands in its rest pose at the origin, metres. */
function atRest(id: string): number[] {
  const { joint, local } = point(id);
  const at = [local[0], local[1], local[2]];
  for (let j = joint; j >= 0; j = stick.skeleton.parents[j]) for (let i = 0; i < 3; i++) at[i] += stick.skeleton.offsets[j * 3 + i];
  return at;
}

describe("a character's contact points", () => {
  it("are feet that bear, and hands, knees, elbows, tips of toes, back, seat and head that may be set", () => {
    expect(
      character.contactPoints
        .filter((p) => p.bears)
        .map((p) => p.id)
        .sort(),
    ).toEqual(["leftHeel", "leftToe", "rightHeel", "rightToe"]);
    expect(
      character.contactPoints
        .filter((p) => !p.bears)
        .map((p) => p.id)
        .sort(),
    ).toEqual(["back", "head", "leftElbow", "leftHand", "leftKnee", "leftToeTip", "rightElbow", "rightHand", "rightKnee", "rightToeTip", "seat"]);
  });

  it("lie where one would put a hand on the body: behind, below, beyond", () => {
    // The figure looks along +Z with its left at +X; hips at the origin, chest 30 cm up.
    const [back, seat, head] = ["back", "seat", "head"].map(atRest);
    expect(back[2]).toBeLessThan(-0.05);
    expect(seat[2]).toBeLessThan(0);
    expect(seat[1]).toBeLessThan(0);
    expect(head[1]).toBeGreaterThan(0.6);
    expect(atRest("leftHand")[0]).toBeGreaterThan(0.7);
    expect(atRest("rightHand")[0]).toBeCloseTo(-atRest("leftHand")[0], 3);
    expect(atRest("leftKnee")[1]).toBeCloseTo(-0.46, 6);
    expect(atRest("leftHeel")[2]).toBeLessThan(atRest("leftToe")[2]);
    // Toes go on from the ball, as the foot points.
    expect(atRest("leftToeTip")[2]).toBeGreaterThan(atRest("leftToe")[2] + 0.03);
    expect(atRest("leftToeTip")[0]).toBeCloseTo(atRest("leftToe")[0], 2);
    expect(atRest("leftHeel")[1]).toBeCloseTo(atRest("rightHeel")[1], 6);
  });

  it("are carried by the limb that ends there, or by the body as a whole", () => {
    const limb = (id: string) => character.rig.limbs[point(id).limb];
    expect(limb("leftToe")).toMatchObject({ side: "left", kind: "leg" });
    expect(limb("rightHand")).toMatchObject({ side: "right", kind: "arm" });
    for (const id of ["back", "seat", "head", "leftKnee", "rightElbow"]) expect(point(id).limb, id).toBe(-1);
    expect(["leftToe", "back", "rightElbow"].map(pointLabel)).toEqual(["Left toe", "Back", "Right elbow"]);
  });

  it("keep to what a body has: without arms there are no hands to set", () => {
    const armless = skatingBody().replace(/\n {6}JOINT LeftShoulder[\s\S]*?(?=\n {6}JOINT Neck)/, "");
    const text = armless.includes("LeftShoulder") ? null : armless;
    // Frames of fewer joints: the arms' four joints a side had three numbers each.
    if (!text) throw new Error("the arms are still there");
    const [head, frames] = text.split(/(?=Frame Time)/);
    const rows = frames.trim().split("\n");
    const cut = rows.slice(1).map((row) => {
      const v = row.split(" ");
      v.splice(v.length - 6 - 24, 24);
      return v.join(" ");
    });
    const { skeleton, clip } = readBvh(new TextEncoder().encode(`${head}${[rows[0], ...cut].join("\n")}\n`), { fileName: "armless.bvh" });
    const ids = characterOf(skeleton, clip).contactPoints.map((p) => p.id);
    expect(ids).toContain("leftToe");
    expect(ids.filter((id) => /Hand|Elbow/.test(id))).toEqual([]);
  });
});

describe("a character's volumes", () => {
  it("clothe the body: every one on a joint, none without size, both sides alike", () => {
    expect(character.volumes.length).toBeGreaterThan(12);
    for (const v of character.volumes) expect(v.joint).toBeGreaterThanOrEqual(0);
    const on = (name: string) => character.volumes.filter((v) => v.joint === stick.joint(name)).length;
    for (const name of ["UpLeg", "Leg", "Arm", "ForeArm"]) expect(on(`Left${name}`), name).toBe(on(`Right${name}`));
    const frame = new PoseFrame(stick.skeleton, stick.clip);
    frame.load(stick.clip, 0);
    expect(character.height).toBeGreaterThan(1.4);
    expect(character.height).toBeLessThan(1.8);
  });
});

describe("parts", () => {
  it("are named by role where the body knows them, else by joint, and found again by either", () => {
    for (const joint of stick.skeleton.names.keys()) {
      const ref = partOf(character, joint);
      expect(findPart(character, ref)).toBe(joint);
      expect(findPart(character, { joint: stick.skeleton.names[joint] })).toBe(joint);
      expect(partFromKey(partKey(ref))).toEqual(ref);
    }
    expect(partOf(character, stick.joint("LeftHand"))).toEqual({ role: "leftHand" });
    expect(findPart(character, { joint: "Wing" })).toBeUndefined();
    expect(findPart(character, { role: "leftThumb" })).toBeUndefined();
  });

  it("read as people say them", () => {
    expect([partName({ role: "leftUpperArm" }), partInWords({ role: "leftUpperArm" })]).toEqual(["Left upper arm", "left upper arm"]);
    expect([partName({ joint: "Lantern" }), partInWords({ joint: "Lantern" })]).toEqual(["Lantern", "Lantern"]);
  });

  it("are all listed, each once", () => {
    const all = allParts(character).map((ref) => findPart(character, ref));
    expect([...all].sort((a, b) => Number(a) - Number(b))).toEqual([...stick.skeleton.names.keys()]);
  });
});
