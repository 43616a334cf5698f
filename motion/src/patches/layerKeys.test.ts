import { describe, expect, it } from "vitest";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { rotationOf } from "../math/rotationVectors.ts";
import type { Edit } from "../pose/edits.ts";
import type { EditView } from "../pose/editView.ts";
import { at, patch, stick, worldAt } from "../testing/patched.ts";
import { patchKind } from "./index.ts";
import type { LayerSettings } from "./layer.ts";
import { channelKeys, keyEdit, sameTarget, withChannel } from "./layerKeys.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const frame = new PoseFrame(stick.skeleton, stick.clip);
frame.load(stick.clip, 40);
const view: EditView = { skeleton: stick.skeleton, body: base.character.body, rotations: frame.worldRotations, heading: 0.4 };
const EMPTY = patchKind("layer")?.defaults as unknown as LayerSettings;
const arm = { joint: "LeftArm" };
const turn = (degrees: [number, number, number], rest: Partial<Edit> = {}): Edit =>
  ({ op: "turn", parts: [arm], space: "own", degrees, shared: false, pivot: null, ...rest }) as Edit;
const values = (settings: LayerSettings, drives: "turn" | "angle", part = arm) =>
  (["x", "y", "z"] as const).map((axis) => channelKeys(settings.channels, { drives, part, axis } as LayerSettings["channels"][number]["target"])[0]?.value);

describe("channels of a layer", () => {
  const target = (axis: "x" | "y") => ({ drives: "turn", part: arm, axis }) as const;
  const key = (value: number) => ({ at: 1, value, tangent: "smooth" as const });

  it("are told apart by what they drive", () => {
    expect(sameTarget(target("x"), { drives: "turn", part: { joint: "LeftArm" }, axis: "x" })).toBe(true);
    expect(sameTarget(target("x"), target("y"))).toBe(false);
  });

  it("keep their order when one is replaced, and go when they have no keys left", () => {
    const two = withChannel(withChannel([], target("x"), [key(1)]), target("y"), [key(2)]);
    const changed = withChannel(two, target("x"), [key(3)]);
    expect(changed.map((c) => [c.target, c.keys[0].value])).toEqual([
      [target("x"), 3],
      [target("y"), 2],
    ]);
    expect(withChannel(changed, target("x"), [])).toEqual([changed[1]]);
    expect(channelKeys(changed, { drives: "turn", part: { joint: "Head" }, axis: "x" })).toEqual([]);
  });
});

describe("a pose written as keys", () => {
  it("is a key on each axis at its moment, for the strength that the layer has there", () => {
    const once = keyEdit(EMPTY, turn([10, 0, 0]), 1, 0.5, view);
    expect(values(once, "turn")[0]).toBeCloseTo(20, 6);
    // The same moment again adds to it; another one is another key.
    const twice = keyEdit(once, turn([10, 0, 0]), 1, 1, view);
    expect(values(twice, "turn")[0]).toBeCloseTo(30, 6);
    const later = keyEdit(twice, turn([5, 0, 0]), 2, 1, view);
    const keys = channelKeys(later.channels, { drives: "turn", part: arm, axis: "x" });
    expect(keys.map((k) => [k.at, Math.round(k.value * 1e4) / 1e4])).toEqual([
      [1, 30],
      [2, 35],
    ]);
    expect(keys[0].tangent).toBe("smooth");
  });

  it("is shared out along parts, or given to each whole", () => {
    const parts = [arm, { joint: "RightArm" }];
    const shared = keyEdit(EMPTY, turn([12, 0, 0], { parts, shared: true } as Partial<Edit>), 1, 1, view);
    expect(values(shared, "turn")[0]).toBeCloseTo(6, 6);
    const whole = keyEdit(EMPTY, turn([12, 0, 0], { parts } as Partial<Edit>), 1, 1, view);
    expect(values(whole, "turn", { joint: "RightArm" })[0]).toBeCloseTo(12, 6);
  });

  it("moves along the world's axes, or the body's where it is meant so", () => {
    const move = (space: "world" | "body") => ({ op: "move", parts: [{ joint: "LeftHand" }], space, centimetres: [0, 4, 0] }) as unknown as Edit;
    for (const space of ["world", "body"] as const) {
      const made = keyEdit(EMPTY, move(space), 1, 0.5, view);
      const up = channelKeys(made.channels, { drives: "move", part: { joint: "LeftHand" }, axis: "y", space });
      expect(up[0]?.value).toBeCloseTo(8, 6);
      expect(made.channels.every((c) => c.target.drives === "move" && c.target.space === space)).toBe(true);
    }
  });

  it.each(["additive", "override"] as const)("makes the joint turn in the clip by just what was asked at its moment: %s", (mode) => {
    const settings = { ...EMPTY, mode } as LayerSettings;
    const made = keyEdit(settings, turn([0, 25, 0]), at(40), 1, view);
    const { clip } = stick.evaluator().evaluate(stick.work(patch("layer", made as unknown as Record<string, unknown>))).result;
    const [a, b] = [stick.clip, clip].map((c) => worldAt(c, 40, stick.joint("LeftArm")).turn);
    expect((quatAngleFlat(a, 0, b, 0) * 180) / Math.PI).toBeCloseTo(25, 2);
    expect(values(made, mode === "additive" ? "turn" : "angle").every((v) => v !== undefined)).toBe(true);
  });

  it("that is put on as a whole turns every joint that it names, by its amount", () => {
    const q = rotationOf([0, 0, 30]) as [number, number, number, number];
    const edit: Edit = { op: "pose", label: "A", rotations: { "=LeftArm": q, "=Head": q }, additive: true, amount: 0.5, moved: null };
    const made = keyEdit(EMPTY, edit, 1, 1, view);
    expect(values(made, "turn")[2]).toBeCloseTo(15, 5);
    expect(values(made, "turn", { joint: "Head" })[2]).toBeCloseTo(15, 5);
  });
});
