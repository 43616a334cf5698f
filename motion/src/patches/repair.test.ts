import { describe, expect, it } from "vitest";
import { findingsOf } from "../checkup/findings.ts";
import { measure, totalsOf } from "../checkup/measures.ts";
import { type Clip, ClipDraft, flatTrack, rotationBetween } from "../clip/clip.ts";
import type { Patch } from "../documents/patch.ts";
import { around, at, differences, named, patch, stick, withRotation, withShift } from "../testing/patched.ts";
import { patchKind } from "./index.ts";

const arm = stick.joint("LeftForeArm");
const degrees = (a: Clip, b: Clip, f: number, g = f) => (rotationBetween(a, f, b, g, arm) * 180) / Math.PI;

/** The stick figure with its forearm set anew on some frames. */
const broken = (frames: readonly number[], q: readonly number[]) => withRotation(stick.clip, arm, frames, q);
const mended = (clip: typeof stick.clip, settings: Record<string, unknown>, rest = {}) =>
  stick.evaluator(clip).evaluate(stick.work(patch("repair", settings, { parts: named("LeftForeArm"), ...rest }))).result.clip;

describe("repair", () => {
  it("mends a half turn that comes and goes within a few frames, and leaves a turn that stays", () => {
    const flip = broken([40, 41, 42], [0, 1, 0, 0]);
    const result = mended(flip, { pops: false });
    for (const f of [40, 41, 42]) expect(degrees(result, stick.clip, f)).toBeLessThan(3);
    const stays = broken(
      Array.from({ length: 30 }, (_, i) => 40 + i),
      [0, 1, 0, 0],
    );
    expect(differences(stays, mended(stays, { pops: false })).frames).toEqual([]);
  });

  it("throws a broken stretch away and leads across it with the speeds of its ends", () => {
    const noise = broken([50, 52, 54], [0.6, 0, 0, 0.8]);
    const result = mended(noise, { bridge: true, pops: false, flips: false }, around(52, 3, 0));
    for (let f = 49; f <= 55; f++) {
      expect(degrees(result, stick.clip, f)).toBeLessThan(4);
      // No step between neighbours that the motion does not have itself.
      expect(degrees(result, result, f, f + 1)).toBeLessThan(3);
    }
    expect(differences(noise, result).frames.every((f) => f >= 49 && f <= 55)).toBe(true);
  });

  it("smooths only as far as it is asked, on the masked joint alone", () => {
    const draft = ClipDraft.of(stick.clip);
    for (let f = 0; f < stick.clip.frameCount; f++) {
      const angle = (f % 2 === 0 ? 1 : -1) * 0.01;
      draft.setRotation(arm, f, [Math.sin(angle), 0, 0, Math.cos(angle)]);
    }
    const rough = draft.done();
    const shake = (clip: typeof rough) => degrees(clip, clip, 40, 41);
    const half = mended(rough, { smooth: 0.5, pops: false, flips: false });
    const whole = mended(rough, { smooth: 1, pops: false, flips: false });
    expect(shake(half)).toBeLessThan(0.7 * shake(rough));
    expect(shake(whole)).toBeLessThan(0.5 * shake(half));
    expect(differences(rough, whole).joints).toEqual([arm]);
  });
});

describe("repair within its bounds", () => {
  it("mends a pop on either end of its range, and none beside it; only the frame that stands out", () => {
    const pop = broken([40, 60], [Math.sin(0.35), 0, 0, Math.cos(0.35)]);
    const at40 = mended(pop, { pops: true, flips: false, popDegrees: 5 }, { range: { start: at(40), end: at(50) } });
    expect(differences(pop, at40)).toEqual({ frames: [40], joints: [arm], moved: false });
    const upTo60 = mended(pop, { pops: true, flips: false, popDegrees: 5 }, { range: { start: at(50), end: at(60) } });
    expect(differences(pop, upTo60).frames).toEqual([60]);
    expect(degrees(upTo60, stick.clip, 60)).toBeLessThan(3);
    // Smaller than it is asked for, it is left.
    expect(differences(pop, mended(pop, { pops: true, flips: false, popDegrees: 85 })).frames).toEqual([]);
  });

  it("is proposed for a finding with its joint, its stretch and room around it, within the clip", () => {
    const kind = patchKind("repair");
    const { base } = stick.evaluator().evaluate(stick.work());
    const propose = (what: "pop" | "flip" | "jitter", startFrame: number, endFrame: number) =>
      kind?.treats?.propose({ kind: what, joint: arm, startFrame, endFrame, value: 31 }, base);
    expect(propose("pop", 40, 40)).toMatchObject({ range: { start: at(39), end: at(41) }, settings: { pops: true, flips: false, popDegrees: 10 } });
    expect(propose("flip", 4, 6)).toMatchObject({ range: { start: 0, end: at(14) }, settings: { flips: true, pops: false } });
    expect(propose("jitter", 80, 88)).toMatchObject({ range: { start: at(80), end: at(88) }, settings: { smooth: 1, pops: false, flips: false } });
    expect(propose("pop", 89, 89)?.range?.end).toBeCloseTo(at(89), 9);
  });
});

describe("trim behind a plant", () => {
  it("keeps feet planted, also under an edit that comes after", () => {
    const trim = patch("trim", { from: at(12), to: at(70) });
    const edit = patch(
      "touchUp",
      { at: at(30), edits: [{ op: "move", parts: named("Hips"), space: "world", centimetres: [3, -4, 0] }], holds: [] },
      { ...around(30, 4), id: "edit" },
    );
    const { result } = stick.evaluator().evaluate(stick.grounded(trim, edit));
    expect(result.clip.frameCount).toBe(59);
    expect(totalsOf(measure(result)).slideP95Cm).toBeLessThan(0.2);
  });
});

describe("repair of places that jump", () => {
  const jumped = (frames: readonly number[]) => withShift(stick.clip, 0, frames, [0, 0.12, 0.1]);
  const open = (clip: Clip) => stick.evaluator(clip).evaluate(stick.work()).base;

  it("is what the checkup proposes for one, and mends it: nothing jumps, other frames and turns stay", () => {
    const broken = jumped([40]);
    const base = open(broken);
    const [finding] = findingsOf(base, measure(base)).filter((f) => f.kind === "jump");
    expect(finding).toMatchObject({ startFrame: 40, joint: 0 });
    const proposed = finding.treat;
    expect(proposed).toMatchObject({ kind: "repair", settings: { pops: false, flips: false, jumps: true }, parts: [{ role: "hips" }] });
    const result = stick.evaluator(broken).evaluate(stick.work({ ...(proposed as Patch), id: "r" })).result;
    expect(measure(result).jumps).toEqual([]);
    expect(differences(broken, result.clip)).toMatchObject({ frames: [40], joints: [], moved: true });
    expect(Math.abs(flatTrack(result.clip.positions[0], 3)[40 * 3 + 1] - flatTrack(stick.clip.positions[0], 3)[40 * 3 + 1])).toBeLessThan(1e-3);
  });

  it("leads over a step that stays within its range, by its weight; off its mask, or without being asked, it leaves all bits", () => {
    const from = Array.from({ length: stick.clip.frameCount - 40 }, (_, i) => 40 + i);
    const broken = jumped(from);
    const run = (settings: Record<string, unknown>, rest: Partial<Patch> = {}) =>
      stick.evaluator(broken).evaluate(stick.work(patch("repair", { pops: false, flips: false, ...settings }, { parts: named("Hips"), ...rest }))).result;
    const whole = run({ jumps: true });
    expect(measure(whole).jumps).toEqual([]);
    expect(differences(broken, whole.clip).frames).toEqual(Array.from({ length: 16 }, (_, i) => 32 + i));
    expect(differences(broken, run({ jumps: false }).clip).moved).toBe(false);
    expect(differences(broken, run({ jumps: true }, { parts: named("LeftForeArm") }).clip).moved).toBe(false);
    const half = run({ jumps: true }, { weight: 0.5 });
    const at = (clip: Clip) => flatTrack(clip.positions[0], 3)[40 * 3 + 1];
    expect(at(half.clip)).toBeCloseTo((at(broken) + at(whole.clip)) / 2, 6);
    // Unasked they are left alone, as they were before they could be mended.
    expect(differences(broken, run({}).clip).moved).toBe(false);
  });
});
