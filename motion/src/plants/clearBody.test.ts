import { describe, expect, it } from "vitest";
import { clipWorld } from "../kinematics/forward.ts";
import type { Motion } from "../motion.ts";
import { stick, worldAt } from "../testing/patched.ts";
import { cleared, depthAt, onGround, posedClip, restPlace, skinOf, tube } from "../testing/skinned.ts";

const hips = restPlace("Hips");
/** A seat of 10 cm about the hips, and thighs of 6 cm. */
const RADIUS = 0.1;
const ball = Array.from({ length: 200 }, (_, i) => {
  const [up, round] = [1 - (2 * i + 1) / 200, i * 2.4];
  const wide = Math.sqrt(1 - up * up);
  return { joint: "Hips", at: [hips[0] + RADIUS * wide * Math.cos(round), hips[1] + RADIUS * up, hips[2] + RADIUS * wide * Math.sin(round)] };
});
const skin = skinOf([...ball, ...tube("LeftUpLeg", "LeftLeg", 0.06, 0.06)]);
/** Thighs level, shins level on from them: it sits on the ground with its legs out. */
const SITS = { LeftUpLeg: [-Math.PI / 2, 0, 0], RightUpLeg: [-Math.PI / 2, 0, 0] };
const hipsAt = ({ clip }: Motion, frame: number) => worldAt(clip, frame, stick.joint("Hips")).place[1];

describe("a trunk on the ground", () => {
  it("that sits in it comes up as far as its skin asks, its pose as it was", () => {
    const motion = onGround(posedClip(Array(9).fill({ turns: SITS })), skin, hips[1] - RADIUS + 0.04);
    expect(depthAt(motion, 4)).toBeGreaterThan(0.035);
    const made = cleared(motion);
    expect(depthAt(made, 4)).toBeLessThan(0.002);
    expect(hipsAt(made, 4) - hipsAt(motion, 4)).toBeGreaterThan(0.035);
    expect(hipsAt(made, 4) - hipsAt(motion, 4)).toBeLessThan(0.042);
    const [a, b] = [motion, made].map(({ clip }) => clipWorld(stick.skeleton, clip).rotations);
    for (let i = 0; i < a.length; i++) expect(Math.abs(a[i] - b[i])).toBeLessThan(1e-6);
  });

  it("comes up and goes down evenly as it sits down and rises again", () => {
    const course = Array.from({ length: 120 }, (_, f) => ({ turns: SITS, up: 0.05 * Math.cos((2 * Math.PI * f) / 119) }));
    const motion = onGround(posedClip(course), skin, hips[1] - RADIUS);
    const made = cleared(motion);
    const lift = course.map((_, f) => hipsAt(made, f) - hipsAt(motion, f));
    for (let f = 0; f < 120; f++) expect(depthAt(made, f), `frame ${f}`).toBeLessThan(0.002);
    expect(lift[0]).toBe(0);
    expect(lift[119]).toBe(0);
    for (let f = 2; f < 120; f++) expect(Math.abs(lift[f] - 2 * lift[f - 1] + lift[f - 2])).toBeLessThan(0.003);
  });

  it("is left where it stands over the ground, where nobody asks, and inside something", () => {
    const sits = posedClip(Array(9).fill({ turns: SITS }));
    for (const [height, asked] of [
      [hips[1] - RADIUS - 0.005, true],
      [hips[1] - RADIUS + 0.04, false],
      [hips[1] + 0.4, true],
    ] as const) {
      const motion = onGround(sits, skin, height);
      expect(cleared(motion, asked).clip).toBe(motion.clip);
    }
  });
});
