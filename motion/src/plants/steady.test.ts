import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { conjugateQuatFlat, multiplyQuatFlat, quatAngleFlat } from "../math/quat.ts";
import { stick } from "../testing/patched.ts";
import { mendLegs, steadyLegs } from "./steady.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const N = base.clip.frameCount;
const all = new Float64Array(N).fill(1);
const [shin, arm, hips, spine] = ["LeftLeg", "LeftArm", "Hips", "Spine"].map(stick.joint);

/** A fixed sequence of deviates of one degree, so that runs agree. */
function noise(seed: number): (frame: number) => number {
  let state = seed;
  const values = Array.from({ length: N }, () => {
    let sum = 0;
    for (let k = 0; k < 12; k++) {
      state = (state * 1664525 + 1013904223) % 4294967296;
      sum += state / 4294967296;
    }
    return sum - 6;
  });
  return (frame) => values[frame];
}

/** The clip with joints turned about their x by degrees of the frame, behind their own rotation or (`before`) in front of it. */
function turned(clip: Clip, joint: number, degrees: (frame: number) => number, before = false): Clip {
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  for (let f = 0; f < N; f++) {
    const half = (degrees(f) * Math.PI) / 360;
    if (half === 0) continue;
    readRotation(clip, joint, f, q, 0);
    const turn = [Math.sin(half), 0, 0, Math.cos(half)];
    if (before) multiplyQuatFlat(q, 0, turn, 0, q, 0);
    else multiplyQuatFlat(q, 0, q, 0, turn, 0);
    draft.setRotation(joint, f, q);
  }
  return draft.done();
}
const motion = (clip: Clip) => ({ ...base, clip });
/** How far a joint is off another clip (the clean one) at a frame, degrees. */
function off(clip: Clip, joint: number, f: number, from: Clip = base.clip): number {
  const [a, b] = [new Float64Array(4), new Float64Array(4)];
  readRotation(from, joint, f, a, 0);
  readRotation(clip, joint, f, b, 0);
  return (quatAngleFlat(a, 0, b, 0) * 180) / Math.PI;
}

describe("legs that are mended", () => {
  const spiked = turned(base.clip, shin, (f) => (f === 45 ? 20 : 0));

  it("lose a spike of one frame, as far as they are asked to, and nothing else", () => {
    expect(off(spiked, shin, 45)).toBeCloseTo(20, 3);
    const whole = mendLegs(motion(spiked), 1, all).clip;
    expect(off(whole, shin, 45)).toBeLessThan(3);
    const half = mendLegs(motion(spiked), 0.5, all).clip;
    expect(off(half, shin, 45)).toBeGreaterThan(8);
    expect(off(half, shin, 45)).toBeLessThan(12);
    for (const f of [44, 46, 10]) expect(off(whole, shin, f)).toBe(0);
    expect(whole.rotations[arm]).toBe(spiked.rotations[arm]);
  });

  it("keep it where the plant has no weight, or is not to steady at all", () => {
    const early = all.map((_, f) => (f < 40 ? 1 : 0));
    expect(mendLegs(motion(spiked), 1, early).clip).toBe(spiked);
    const given = motion(spiked);
    expect(mendLegs(given, 0, all)).toBe(given);
    // Asked again with all of it, what was made of less is not taken for that.
    expect(off(mendLegs(motion(spiked), 1, all).clip, shin, 45)).toBeLessThan(3);
  });

  it("are the very same motion where nothing is wrong, and leave a spiked arm alone", () => {
    const clean = motion(base.clip);
    expect(mendLegs(clean, 1, all)).toBe(clean);
    const waved = motion(turned(base.clip, arm, (f) => (f === 45 ? 20 : 0)));
    expect(mendLegs(waved, 1, all)).toBe(waved);
  });
});

describe("legs that tremble", () => {
  const wild = noise(3);
  /** The figure standing as it is on frame 10, all the time. */
  const still = (() => {
    const draft = ClipDraft.of(base.clip);
    const q = new Float64Array(4);
    for (let j = 0; j < base.clip.jointCount; j++) {
      readRotation(base.clip, j, 10, q, 0);
      for (let f = 0; f < N; f++) draft.setRotation(j, f, q);
    }
    for (let f = 0; f < N; f++) draft.setPosition(0, f, [0, 0.96, 0]);
    return draft.done();
  })();
  const shaky = turned(still, shin, (f) => wild(f));
  const rms = (clip: Clip, joint: number) => Math.sqrt(Array.from({ length: N }, (_, f) => off(clip, joint, f, still) ** 2).reduce((a, b) => a + b, 0) / N);

  it("are smoothed as far as they are asked to be, nearer to what they were without it", () => {
    const whole = steadyLegs(motion(shaky), 1, all).clip;
    expect(rms(shaky, shin)).toBeGreaterThan(0.7);
    expect(rms(whole, shin)).toBeLessThan(0.7 * rms(shaky, shin));
    const half = rms(steadyLegs(motion(shaky), 0.5, all).clip, shin);
    expect(half).toBeGreaterThan(rms(whole, shin));
    expect(half).toBeLessThan(rms(shaky, shin));
    expect(whole.rotations[arm]).toBe(shaky.rotations[arm]);
    // Only where the plant has weight.
    const early = all.map((_, f) => (f < 40 ? 1 : 0));
    const part = steadyLegs(motion(shaky), 1, early).clip;
    expect(off(part, shin, 60, shaky)).toBe(0);
    expect(off(part, shin, 20, whole)).toBe(0);
  });

  it("are the very same where they do not, and so is a trembling arm", () => {
    const quiet = motion(still);
    expect(steadyLegs(quiet, 1, all)).toBe(quiet);
    const arms = motion(turned(still, arm, (f) => wild(f)));
    expect(steadyLegs(arms, 1, all)).toBe(arms);
    const given = motion(shaky);
    expect(steadyLegs(given, 0, all)).toBe(given);
  });

  it("are left as they are where the trunk takes the tremble back: smoothing them would shake it", () => {
    // The hips tremble by a degree, and the spine turns back by as much: the chest is still.
    const trembling = turned(still, hips, (f) => wild(f), true);
    const draft = ClipDraft.of(trembling);
    const [q, was, own, back] = [0, 1, 2, 3].map(() => new Float64Array(4));
    for (let f = 0; f < N; f++) {
      readRotation(still, hips, f, was, 0);
      readRotation(trembling, hips, f, q, 0);
      readRotation(still, spine, f, own, 0);
      conjugateQuatFlat(back, 0, q, 0);
      multiplyQuatFlat(back, 0, back, 0, was, 0);
      multiplyQuatFlat(back, 0, back, 0, own, 0);
      draft.setRotation(spine, f, back);
    }
    const taken = motion(draft.done());
    expect(steadyLegs(taken, 1, all)).toBe(taken);
    // Without the spine's answer the same hips are smoothed.
    expect(steadyLegs(motion(trembling), 1, all).clip).not.toBe(trembling);
  });

  it("are left as they are where a thigh takes back what a shin trembles, and that leg alone", () => {
    // The shins tremble by 0.3°; the left thigh turns back by not half as much, too little to be smoothed itself: the left foot all but stays.
    const [thigh, foot, otherShin] = ["LeftUpLeg", "LeftFoot", "RightLeg"].map(stick.joint);
    const small = (share: number) => (f: number) => share * wild(f);
    const left = turned(turned(still, shin, small(0.3)), thigh, small(-0.14));
    const both = motion(turned(left, otherShin, small(0.3)));
    const whole = steadyLegs(both, 1, all).clip;
    expect(whole.rotations[shin]).toBe(both.clip.rotations[shin]);
    expect(whole.rotations[foot]).toBe(both.clip.rotations[foot]);
    expect(rms(whole, otherShin)).toBeLessThan(0.7 * rms(both.clip, otherShin));
    // Without the thigh's answer that shin is smoothed too.
    const alone = steadyLegs(motion(turned(still, shin, small(0.3))), 1, all).clip;
    expect(rms(alone, shin)).toBeLessThan(0.7 * rms(both.clip, shin));
  });
});
