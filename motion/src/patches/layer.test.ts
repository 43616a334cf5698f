import { describe, expect, it } from "vitest";
import { findPart } from "../character/parts.ts";
import { isFiniteClip, rotationBetween } from "../clip/clip.ts";
import { angleCurves } from "../curves/angles.ts";
import { gaugeOf, type Measure, measuredCurve } from "../curves/measured.ts";
import { apart, at, differences, patch, stick, worldAt } from "../testing/patched.ts";

const key = (frame: number, value: number, tangent = "smooth") => ({ at: at(frame), value, tangent });
const layer = (channels: unknown[], settings: Record<string, unknown> = {}, rest = {}) => patch("layer", { channels, ...settings }, rest);
const run = (...patches: Parameters<typeof stick.work>) => stick.evaluator().evaluate(stick.work(...patches)).result.clip;
const { base } = stick.evaluator().evaluate(stick.work());
const curve = (clip: typeof stick.clip, m: Measure) =>
  measuredCurve(
    stick.skeleton,
    clip,
    gaugeOf(m, base.character.rig, base.ground, (part) => findPart(base.character, part) ?? -1),
  );

describe("a layer", () => {
  it("changes nothing while it is new, and nothing with keys of zero at both ends", () => {
    expect(run(layer([]))).toBe(stick.clip);
    const zero = layer([{ target: { drives: "turn", part: { joint: "LeftArm" }, axis: "x" }, keys: [key(0, 0), key(89, 0)] }]);
    expect(differences(stick.clip, run(zero)).frames).toEqual([]);
  });

  it("adds turns in the joint's own or its parent's axes, and takes its keyed weight", () => {
    const channels = [{ target: { drives: "turn", part: { joint: "LeftArm" }, axis: "y" }, keys: [key(20, 0), key(40, 30), key(60, 0)] }];
    const angle = (clip: typeof stick.clip, f: number) => {
      return (rotationBetween(clip, f, stick.clip, f, stick.joint("LeftArm")) * 180) / Math.PI;
    };
    const own = run(layer(channels));
    expect(angle(own, 40)).toBeCloseTo(30, 4);
    expect(differences(stick.clip, own).joints).toEqual([stick.joint("LeftArm")]);
    const parent = run(layer(channels, { composeIn: "parent" }));
    expect(angle(parent, 40)).toBeCloseTo(30, 4);
    expect(apart(worldAt(own, 40, stick.joint("LeftHand")).place, worldAt(parent, 40, stick.joint("LeftHand")).place)).toBeGreaterThan(0.02);
    const half = run(layer(channels, { weightKeys: [key(0, 0.5, "linear"), key(89, 0.5, "linear")] }, { weight: 0.5 }));
    expect(angle(half, 40)).toBeCloseTo(7.5, 4);
  });

  it("takes an angle curve over between its keys, fading outside, other axes as they were", () => {
    const chest = stick.joint("Chest");
    const was = angleCurves(stick.clip, chest);
    const clip = run(
      layer([{ target: { drives: "angle", part: { joint: "Chest" }, axis: "y" }, keys: [key(30, 3), key(50, 3)] }], { mode: "override", fadeIn: at(4) }),
    );
    const now = angleCurves(clip, chest);
    for (let f = 30; f <= 50; f++) {
      expect((now[f * 3 + 2] * 180) / Math.PI).toBeCloseTo(3, 4);
      expect(now[f * 3 + 1]).toBeCloseTo(was[f * 3 + 1], 5);
    }
    const { frames } = differences(stick.clip, clip);
    expect([frames[0], frames.at(-1)]).toEqual([27, 53]);
  });

  it("makes a toe's height what its curve says, by reach", () => {
    const height: Measure = { of: "height", part: { joint: "LeftToeBase" } };
    const was = curve(stick.clip, height);
    const f0 = was.findIndex((v, f) => f > 20 && v > 8);
    const flat = run(
      layer([{ target: { drives: "measure", measure: height }, keys: [key(f0 - 3, 2, "linear"), key(f0 + 3, 2, "linear")] }], { mode: "override" }),
    );
    const now = curve(flat, height);
    for (let f = f0 - 3; f <= f0 + 3; f++) expect(now[f]).toBeCloseTo(2, 2);
    expect(now[f0 + 20]).toBe(was[f0 + 20]);
  });

  it.each<[string, Measure, number]>([
    ["distance", { of: "distance", part: { joint: "LeftHand" }, to: { joint: "Hips" } }, -6],
    ["place beside the hips", { of: "position", part: { joint: "RightHand" }, axis: "z", space: "body" }, 7],
    ["place in the world", { of: "position", part: { joint: "LeftHand" }, axis: "y", space: "world" }, 9],
    ["lean", { of: "lean" }, 8],
    ["heading", { of: "heading" }, 20],
    ["sway", { of: "sway" }, 2],
  ])("drives the %s by as much as is asked, exactly at its key", (_, m, by) => {
    const was = curve(stick.clip, m);
    const now = curve(run(layer([{ target: { drives: "measure", measure: m }, keys: [key(30, 0), key(40, by), key(50, 0)] }])), m);
    expect(now[40] - was[40]).toBeCloseTo(by, 2);
    expect(now[29]).toBe(was[29]);
  });

  it("never runs past the clip: keys beyond its end neither lengthen nor break it", () => {
    const clip = run(layer([{ target: { drives: "turn", part: { joint: "Head" }, axis: "x" }, keys: [key(80, 0), key(200, 40)] }]));
    expect(clip.frameCount).toBe(stick.clip.frameCount);
    expect(isFiniteClip(clip)).toBe(true);
  });
});
