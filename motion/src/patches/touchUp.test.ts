import { Quaternion, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { measure, totalsOf } from "../checkup/measures.ts";
import { quatAngleFlat } from "../math/quat.ts";
import type { Edit, Hold } from "../pose/edits.ts";
import { previewFrame } from "../preview.ts";
import { apart, around, at, differences, named, patch, stick, worldAt } from "../testing/patched.ts";
import { patchKind } from "./index.ts";

const turn = (joints: string[], degrees: [number, number, number], more: Partial<Extract<Edit, { op: "turn" }>> = {}): Edit => ({
  op: "turn",
  parts: named(...joints),
  space: "own",
  degrees,
  shared: false,
  pivot: null,
  ...more,
});
const move = (joint: string, centimetres: [number, number, number], space: "world" | "body" = "world"): Edit => ({
  op: "move",
  parts: named(joint),
  space,
  centimetres,
});
const hold = (joint: string, more: Partial<Hold> = {}): Hold => ({ part: { joint }, position: true, orientation: true, on: null, ...more });
const touchUp = (frame: number, edits: Edit[], holds: Hold[] = [], rest = around(frame)) => patch("touchUp", { at: at(frame), edits, holds }, rest);
const run = (...patches: Parameters<typeof stick.work>) => stick.evaluator().evaluate(stick.work(...patches)).result.clip;

describe("a touch-up", () => {
  it("changes its window and nothing else, bit for bit; on the masked parts alone", () => {
    const result = run(touchUp(40, [turn(["LeftForeArm"], [0, 30, 0]), turn(["Spine"], [10, 0, 0])], [], { ...around(40, 3), parts: named("LeftForeArm") }));
    const changed = differences(stick.clip, result);
    expect(changed.joints).toEqual([stick.joint("LeftForeArm")]);
    expect(changed.frames[0]).toBe(32);
    expect(changed.frames.at(-1)).toBe(48);
    expect(changed.moved).toBe(false);
  });

  it("keeps every frame outside its window also under plants that are solved last", () => {
    const evaluator = stick.evaluator();
    const plain = evaluator.evaluate(stick.grounded()).result.clip;
    const window = touchUp(40, [move("Hips", [0, -6, 3]), turn(["Spine"], [0, 12, 0])]);
    const { result } = evaluator.evaluate(stick.grounded(window));
    const { frames } = differences(plain, result.clip);
    expect(frames[0]).toBeGreaterThanOrEqual(35);
    expect(frames.at(-1)).toBeLessThanOrEqual(45);
    expect(totalsOf(measure(result)).slideP95Cm).toBeLessThan(0.2);
    // An edit of an arm leaves planted legs alone.
    const arm = evaluator.evaluate(stick.grounded(touchUp(40, [turn(["LeftArm"], [0, 0, 20])]))).result.clip;
    expect(differences(plain, arm).joints).toEqual([stick.joint("LeftArm")]);
  });

  it("changes nothing while nothing is moved, whatever is held or turned about", () => {
    const pivot = { parts: named("LeftToeBase"), point: null };
    const held = [hold("LeftHand"), hold("Chest", { on: { joint: "Hips" } })];
    expect(run(touchUp(40, [], held))).toBe(stick.clip);
    expect(differences(stick.clip, run(touchUp(40, [turn(["Hips"], [0, 0, 0], { pivot }), move("LeftHand", [0, 0, 0])], held))).frames).toEqual([]);
  });

  it("turns in own, parent, body and world axes as three.js composes them", () => {
    const rotationOf = (space: "own" | "parent" | "world") => {
      const clip = run(touchUp(40, [turn(["LeftArm"], [20, -35, 10], { space })]));
      const { turn: q } = worldAt(clip, 40, stick.joint("LeftArm"));
      return new Quaternion(q[0], q[1], q[2], q[3]);
    };
    const was = worldAt(stick.clip, 40, stick.joint("LeftArm")).turn;
    const parent = worldAt(stick.clip, 40, stick.joint("LeftShoulder")).turn;
    const own = new Quaternion(was[0], was[1], was[2], was[3]);
    const above = new Quaternion(parent[0], parent[1], parent[2], parent[3]);
    const axis = new Vector3(20, -35, 10);
    const by = new Quaternion().setFromAxisAngle(axis.clone().normalize(), (axis.length() * Math.PI) / 180);
    expect(rotationOf("own").angleTo(own.clone().multiply(by))).toBeLessThan(1e-6);
    expect(rotationOf("world").angleTo(by.clone().multiply(own))).toBeLessThan(1e-6);
    expect(rotationOf("parent").angleTo(above.clone().multiply(by).multiply(above.clone().invert()).multiply(own))).toBeLessThan(1e-6);
  });

  it("shares a turn out along a chain", () => {
    const clip = run(touchUp(40, [turn(["Spine", "Chest", "Neck"], [0, 30, 0], { space: "world", shared: true })]));
    const angle = (name: string) =>
      (quatAngleFlat(worldAt(stick.clip, 40, stick.joint(name)).turn, 0, worldAt(clip, 40, stick.joint(name)).turn, 0) * 180) / Math.PI;
    expect(angle("Spine")).toBeCloseTo(10, 4);
    expect(angle("Chest")).toBeCloseTo(20, 4);
    expect(angle("Neck")).toBeCloseTo(30, 4);
  });

  it("moves a hand by reach to the millimetre's tenth at its frame, and by its ramp around it", () => {
    const hand = stick.joint("RightHand");
    const clip = run(touchUp(40, [move("RightHand", [5, 8, 4])]));
    const off = (f: number) => worldAt(clip, f, hand).place.map((v, c) => v - worldAt(stick.clip, f, hand).place[c]);
    off(40).forEach((v, c) => {
      expect(v).toBeCloseTo([0.05, 0.08, 0.04][c], 5);
    });
    // Half way up the ramp a quintic step is a half.
    off(37).forEach((v, c) => {
      expect(v).toBeCloseTo([0.025, 0.04, 0.02][c], 5);
    });
  });

  it("holds a part on its own moving course, in the world and on another part", () => {
    const hand = stick.joint("LeftHand");
    const free = run(touchUp(40, [turn(["LeftShoulder"], [0, 0, 12])], [], around(40, 8)));
    expect(apart(worldAt(free, 40, hand).place, worldAt(stick.clip, 40, hand).place)).toBeGreaterThan(0.05);
    const held = run(touchUp(40, [turn(["LeftShoulder"], [0, 0, 12])], [hold("LeftHand")], around(40, 8)));
    for (const f of [33, 36, 40, 45, 50]) {
      expect(apart(worldAt(held, f, hand).place, worldAt(stick.clip, f, hand).place), `frame ${f}`).toBeLessThan(1e-6);
      expect(quatAngleFlat(worldAt(held, f, hand).turn, 0, worldAt(stick.clip, f, hand).turn, 0)).toBeLessThan(1e-5);
    }
    // On the chest, which is turned: the hand keeps its place as the chest sees it.
    const chest = stick.joint("Chest");
    const riding = run(touchUp(40, [turn(["Spine"], [0, 25, 0]), turn(["LeftArm"], [0, 0, 15])], [hold("LeftHand", { on: { joint: "Chest" } })]));
    const seen = (clip: typeof stick.clip) => {
      const { place, turn: q } = worldAt(clip, 40, chest);
      return new Vector3(...worldAt(clip, 40, hand).place).sub(new Vector3(...place)).applyQuaternion(new Quaternion(q[0], q[1], q[2], q[3]).invert());
    };
    expect(seen(riding).distanceTo(seen(stick.clip))).toBeLessThan(1e-5);
  });

  it("turns the body about a toe, about a free point, and one side of a joint about it", () => {
    const toe = stick.joint("LeftToeBase");
    const pivot = { parts: named("LeftToeBase"), point: null };
    const about = run(touchUp(40, [turn(["Hips"], [0, 0, 15], { space: "world", pivot })]));
    expect(apart(worldAt(about, 40, toe).place, worldAt(stick.clip, 40, toe).place)).toBeLessThan(1e-6);
    expect((quatAngleFlat(worldAt(about, 40, toe).turn, 0, worldAt(stick.clip, 40, toe).turn, 0) * 180) / Math.PI).toBeCloseTo(15, 4);

    const point: [number, number, number] = [1, 0.5, 0];
    const round = run(touchUp(40, [turn(["Hips"], [0, 90, 0], { space: "world", pivot: { parts: [], point } })]));
    const from = worldAt(stick.clip, 40, 0).place;
    expect(apart(worldAt(round, 40, 0).place, [1 + (from[2] - 0), from[1], -(from[0] - 1)])).toBeLessThan(1e-5);

    // From the chest on: the chest and all above it stay, the hips swing about the spine's joint.
    const nested = run(touchUp(40, [turn(["Spine"], [15, 0, 0], { pivot: { parts: named("Chest"), point: null } })]));
    for (const name of ["Spine", "Chest", "LeftHand", "Head"])
      expect(apart(worldAt(nested, 40, stick.joint(name)).place, worldAt(stick.clip, 40, stick.joint(name)).place), name).toBeLessThan(1e-6);
    expect(apart(worldAt(nested, 40, 0).place, from)).toBeGreaterThan(0.02);
  });

  it("says which part a body lacks", () => {
    expect(() => run(touchUp(40, [turn(["Wing"], [0, 0, 5])]))).toThrow(/touchUp: edits: .*no joint called "Wing"/);
  });

  it("previews one frame as the whole evaluation then shows it", () => {
    const evaluator = stick.evaluator();
    const others = [patch("layer", layerOf("Spine"), { id: "l" }), patch("repair", { smooth: 0.5 }, { id: "r", parts: named("LeftArm") })];
    const first = evaluator.evaluate(stick.grounded(touchUp(40, [turn(["Chest"], [0, 5, 0])]), ...others));
    const work = stick.grounded(touchUp(40, [turn(["Chest"], [0, 25, 4]), move("RightHand", [4, 0, 6])]), ...others);
    const piece = previewFrame(first, work, 41);
    const whole = evaluator.evaluate(work).result.clip;
    if (!piece) throw new Error("nothing was previewed");
    for (const joint of stick.skeleton.names.keys()) {
      const shown = worldAt(piece.clip, 0, joint);
      expect(apart(shown.place, worldAt(whole, 41, joint).place), stick.skeleton.names[joint]).toBeLessThan(0.002);
    }
    expect(previewFrame(first, { ...work, livePlant: false }, 41)).toBeNull();
  });
});

function layerOf(joint: string) {
  const key = (frame: number, value: number) => ({ at: at(frame), value, tangent: "smooth" });
  return { channels: [{ target: { drives: "turn", part: { joint }, axis: "x" }, keys: [key(10, 0), key(30, 8), key(60, 0)] }] };
}

describe("a touch-up that is posed into", () => {
  const kind = patchKind("touchUp");
  const settings = { at: 1, edits: [], holds: [hold("LeftHand")] };
  const write = (own: Record<string, unknown>, edit: Edit, weight = 1, isNew = false) =>
    kind?.posing?.write(own, edit, { moment: 1, weight, isNew, view: {} as never }) as { edits: Edit[]; holds: Hold[] };

  it("begins at a moment as a window with ramps, named by its frame", () => {
    expect(kind?.begin?.(at(40), 30)).toEqual({
      name: "Touch-up f40",
      settings: { at: at(40), edits: [], holds: [] },
      range: { start: at(40), end: at(40) },
      rampIn: 0.2,
      rampOut: 0.2,
    });
  });

  it("takes edits wherever it has weight, and writes them so that they are whole at that weight", () => {
    expect(kind?.posing?.takes(0)).toBe(false);
    expect(kind?.posing?.takes(1)).toBe(true);
    const half = write(settings, turn(["LeftArm"], [10, 0, 0]), 0.5);
    expect(half.edits).toMatchObject([{ op: "turn", degrees: [20, 0, 0] }]);
    // The same parts turned on go into the same edit, others into one of their own.
    const again = write(half, turn(["LeftArm"], [5, 0, 0]));
    expect(again.edits).toHaveLength(1);
    const other = write(again, turn(["Spine"], [5, 0, 0]));
    expect(other.edits).toHaveLength(2);
    expect(kind?.posing?.edits?.(other).without(0).edits).toEqual([other.edits[1]]);
    expect(kind?.posing?.moments(other)).toEqual([1]);
  });

  it("lets go of what waits to be held when it is begun by a pose, and only then", () => {
    const pose: Edit = { op: "pose", label: "A", rotations: { "=Head": [0, 0, 0, 1] }, additive: true, amount: 1, moved: null };
    expect(write(settings, pose, 1, true).holds).toEqual([]);
    expect(write(settings, pose).holds).toHaveLength(1);
    expect(write(settings, turn(["Head"], [1, 0, 0]), 1, true).holds).toHaveLength(1);
  });
});
