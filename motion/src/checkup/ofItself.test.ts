import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { multiplyQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { foundContact } from "../testing/contacts.ts";
import { stick } from "../testing/patched.ts";
import { measure } from "./measures.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const { frameCount } = base.clip;

/** The clip with joints turned about their own x by so many degrees of the frame. */
function turned(...by: readonly (readonly [string, (frame: number) => number])[]): Clip {
  const draft = ClipDraft.of(base.clip);
  const q = new Float64Array(4);
  for (const [name, degrees] of by)
    for (let f = 0; f < frameCount; f++) {
      const half = (degrees(f) * Math.PI) / 360;
      if (half === 0) continue;
      readRotation(base.clip, stick.joint(name), f, q, 0);
      multiplyQuatFlat(q, 0, q, 0, [Math.sin(half), 0, 0, Math.cos(half)], 0);
      draft.setRotation(stick.joint(name), f, q);
    }
  return draft.done();
}
const on = (frames: readonly number[], degrees: number) => (f: number) => (frames.includes(f) ? degrees : 0);
const told = (clip: Clip, motion: Motion = base) => measure({ ...motion, clip });
const popsOf = (clip: Clip, name: string, motion?: Motion) => told(clip, motion).pops.flatMap((e) => (e.joint === stick.joint(name) ? [e.start] : []));

describe("a pop of a leg", () => {
  it("is a knee that leaps alone, and takes the foot with it", () => {
    expect(popsOf(turned(["LeftLeg", on([40], 10)]), "LeftLeg")).toEqual([40]);
  });

  it("is none where hip and ankle go along and keep the foot on its course", () => {
    const clip = turned(["LeftUpLeg", on([40], -5)], ["LeftLeg", on([40], 10)], ["LeftFoot", on([40], -5)]);
    expect(popsOf(clip, "LeftLeg")).toEqual([]);
  });

  it("of an arm that does the same stays one: it has nothing to stand on", () => {
    const clip = turned(["LeftArm", on([40], -5)], ["LeftForeArm", on([40], 10)]);
    expect(popsOf(clip, "LeftForeArm")).toEqual([40]);
  });
});

describe("a foot that whips round", () => {
  // The stick walks in strides of 32 frames.
  const stride = 32;
  const leaves = { ...base, contacts: [foundContact("leftToe", 20, 28), foundContact("leftToe", 20 + stride, 28 + stride)] };

  it("as it leaves the ground in each stride does so of itself", () => {
    const clip = turned(["LeftFoot", on([29, 29 + stride], 24)]);
    expect(popsOf(clip, "LeftFoot", leaves)).toEqual([]);
  });

  it("once, or in the middle of its swing, is a pop", () => {
    expect(popsOf(turned(["LeftFoot", on([29], 24)]), "LeftFoot", leaves)).toEqual([29]);
    expect(popsOf(turned(["LeftFoot", on([36, 36 + stride], 24)]), "LeftFoot", leaves)).toEqual([36, 36 + stride]);
  });

  it("the one way in one stride, and the other way in the next, is two pops", () => {
    const clip = turned(["LeftFoot", (f) => on([29], 24)(f) + on([29 + stride], -24)(f)]);
    expect(popsOf(clip, "LeftFoot", leaves)).toEqual([29, 29 + stride]);
  });
});

describe("trembling of a foot", () => {
  const back =
    (from: number, to: number, by = 1.6) =>
    (f: number) =>
      f >= from && f <= to ? (f % 2 === 0 ? by : -by) : 0;
  const stretches = (clip: Clip, motion: Motion) => told(clip, motion).jitter.filter((e) => e.joint === stick.joint("LeftFoot"));
  const short = turned(["LeftFoot", back(34, 38)]);
  // A landing and a leaving so near to each other that all of it is by one of them.
  const lands = { ...base, contacts: [foundContact("leftToe", 31, 37)] };

  it("is none while it lands and leaves alone", () => {
    expect(stretches(short, { ...base, contacts: [] })).toHaveLength(1);
    expect(stretches(short, { ...base, contacts: [foundContact("rightToe", 31, 37)] })).toHaveLength(1);
    expect(stretches(short, lands)).toEqual([]);
  });

  it("is some where it goes on, or is far more than landing takes", () => {
    expect(stretches(turned(["LeftFoot", back(34, 38, 4)]), lands)).toHaveLength(1);
    expect(stretches(turned(["LeftFoot", back(20, 56)]), lands)).toHaveLength(1);
  });
});
