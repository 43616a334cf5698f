import { describe, expect, it } from "vitest";
import { clipSeconds, readPosition, readRotation, rotationBetween } from "../clip/clip.ts";
import type { Motion } from "../motion.ts";
import { at, patch, stick } from "../testing/patched.ts";
import { figureClip } from "../travel/figureClip.ts";

const loop = (settings: Record<string, unknown>) => patch("loop", { from: at(20), to: at(60), ...settings });
const evaluate = (...patches: Parameters<typeof stick.work>) => stick.evaluator().evaluate(stick.work(...patches)).result;
const place = (motion: Pick<Motion, "clip">, f: number) => {
  const p = [0, 0, 0];
  readPosition(motion.clip, 0, f, p, 0);
  return p;
};
const degrees = (a: Motion, f: number, b: Motion, g: number, joint: string) => (rotationBetween(a.clip, f, b.clip, g, stick.joint(joint)) * 180) / Math.PI;

describe("a loop", () => {
  it("lasts as often as its stretch, to the end where none is told", () => {
    expect(evaluate(loop({ repeats: 3 })).clip.frameCount).toBe(121);
    expect(clipSeconds(evaluate(loop({ repeats: 2, to: null })).clip)).toBeCloseTo(2 * at(69), 6);
    expect(clipSeconds(evaluate(loop({ from: null })).clip)).toBeCloseTo(at(60), 6);
  });

  it("is refused where too little is left of it, or it would never end, with the field", () => {
    expect(() => evaluate(loop({ to: at(22) }))).toThrow(/to: frames 20–22 are too few for a cycle/);
    expect(evaluate(loop({ to: at(24) })).clip.frameCount).toBe(5);
    expect(() => evaluate(loop({ from: at(30), to: at(10) }))).toThrow(/too few/);
    const slow = patch("retime", { speed: 0.01 });
    expect(() => evaluate(slow, patch("loop", { from: 0, to: 290, repeats: 500 }))).toThrow(/repeats: 500 repeats come to more than an hour/);
  });

  it("shows the same frame in each repeat, travelled", () => {
    const motion = evaluate(loop({ repeats: 3 }));
    const once = place(motion, 40).map((v, i) => v - place(motion, 0)[i]);
    for (const f of [0, 13, 40]) {
      for (const joint of ["Hips", "LeftArm", "RightUpLeg"]) expect(degrees(motion, f, motion, f + 80, joint)).toBeLessThan(1e-3);
      for (const i of [0, 2]) expect(place(motion, f + 80)[i] - place(motion, f)[i]).toBeCloseTo(2 * once[i], 5);
    }
  });

  it("that is closed close to its seam leaves the middle of the stretch as it was", () => {
    const source = evaluate();
    const near = evaluate(loop({ closeOver: at(8) }));
    const whole = evaluate(loop({}));
    // The joint that has most to close.
    const gap = (joint: string) => degrees(source, 20, source, 60, joint);
    const [joint] = [...stick.skeleton.names].slice(1).sort((a, b) => gap(b) - gap(a));
    expect(gap(joint)).toBeGreaterThan(2);
    const off = (motion: Motion) => degrees(motion, 10, source, 30, joint);
    expect(off(near)).toBeLessThan(0.05);
    expect(off(whole)).toBeGreaterThan(gap(joint) / 8);
    // Both meet at the seam all the same.
    for (const motion of [near, whole]) expect(degrees(motion, 0, motion, 40, joint)).toBeLessThan(1e-3);
  });

  it("carries contacts into every repeat, as one across a seam unless it starts anew", () => {
    const source = stick.evaluator().evaluate(stick.work()).base;
    const inside = source.contacts.filter((c) => c.start > 22 && c.end < 58);
    const motion = evaluate(loop({ repeats: 2 }));
    for (const c of inside)
      for (const n of [0, 1])
        expect(motion.contacts.some((k) => k.point === c.point && k.start === c.start - 20 + 40 * n && k.end === c.end - 20 + 40 * n)).toBe(true);
    const across = motion.contacts.filter((c) => c.start < 40 && c.end > 40);
    const anew = evaluate(loop({ repeats: 2, travel: "return" })).contacts.filter((c) => c.start < 40 && c.end > 40);
    expect(source.contacts.some((c) => c.start < 60 && c.end > 60)).toBe(true);
    expect(across.length).toBeGreaterThan(0);
    expect(anew).toEqual([]);
    // No two contacts of one point lie over each other.
    for (const a of motion.contacts) for (const b of motion.contacts) if (a !== b && a.point === b.point) expect(a.end < b.start || b.end < a.start).toBe(true);
  });

  it("on the spot leaves the travel to the ground, over what the ground does already", () => {
    const carried = evaluate(loop({ repeats: 2 }));
    const spot = evaluate(loop({ repeats: 2, travel: "spot" }));
    expect(place(spot, 80)).toEqual(place(carried, 80));
    const figure = { clip: figureClip(spot) };
    for (const i of [0, 2]) expect(place(figure, 80)[i]).toBeCloseTo(place(figure, 0)[i], 5);
    // With half of the travel the ground's beneath it, what goes on is that half again with each repeat.
    const half = evaluate(patch("travel", { groundShare: 0.5 }, { id: "t" }), loop({ repeats: 2 }));
    const ground = half.groundTravel;
    if (!ground) throw new Error("the ground lies still");
    const travelled = place(half, 80)[2] - place(half, 0)[2];
    expect((ground.z[80] - ground.z[0]) / travelled).toBeCloseTo(-0.5, 1);
    expect(ground.z[80] - ground.z[40]).toBeCloseTo(ground.z[40] - ground.z[0], 2);
  });

  it("keeps the clip finite and of unit turns", () => {
    const { clip } = evaluate(loop({ repeats: 2, half: "second", closeOver: at(10) }));
    const q = new Float64Array(4);
    for (let f = 0; f < clip.frameCount; f += 7)
      for (let j = 0; j < clip.jointCount; j++) {
        readRotation(clip, j, f, q, 0);
        expect(Math.hypot(...q)).toBeCloseTo(1, 5);
      }
  });
});
