import { describe, expect, it } from "vitest";
import { quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { stick, worldAt } from "../testing/patched.ts";
import { cleared, depthAt, onGround, posedClip, restPlace, skinOf } from "../testing/skinned.ts";

const HAND = stick.joint("LeftHand");
const hand = restPlace("LeftHand");
/** How far the palm is below the hand's joint while the arm is held out, and how long the hand is, metres. */
const [THICK, LONG] = [0.02, 0.14];
const skin = skinOf(
  Array.from({ length: 90 }, (_, i) => ({
    joint: "LeftHand",
    at: [hand[0] + LONG * ((i % 9) / 8), hand[1] + (i < 45 ? -THICK : 0.01), hand[2] + 0.08 * ((Math.floor(i / 9) % 5) / 4 - 0.5)],
  })),
);
/** The arm held out, the hand turned at the wrist about the body's forward axis: fingers down by so many degrees, palm still facing down or in. */
const bent = (degrees: readonly number[]) => posedClip(degrees.map((by) => ({ turns: { LeftHand: [0, 0, (-by * Math.PI) / 180] } })));
/** The palm is on the ground. */
function leaning(degrees: readonly number[]): Motion {
  const motion = onGround(bent(degrees), skin, 0);
  return { ...motion, ground: { ...motion.ground, height: palmOf(motion, Math.floor(degrees.length / 2))[1] } };
}

function palmOf({ points, clip }: Motion, frame: number): number[] {
  const point = points.find((p) => p.id === "leftHand");
  if (!point) throw new Error("no palm");
  const { place, turn } = worldAt(clip, frame, HAND);
  return Array.from(rotateVecFlat(new Float64Array(3), 0, turn, 0, [...point.local], 0), (v, c) => v + place[c]);
}

const turned = (a: Motion, b: Motion, frame: number) =>
  (quatAngleFlat(worldAt(a.clip, frame, HAND).turn, 0, worldAt(b.clip, frame, HAND).turn, 0) * 180) / Math.PI;

describe("a hand on the ground", () => {
  it.each([10, 35, 60])("whose fingers point %d° into it is turned about its palm until they lie on it, and no further", (degrees) => {
    const motion = leaning(Array(9).fill(degrees));
    expect(depthAt(motion, 4)).toBeGreaterThan(0.4 * LONG * Math.sin((degrees * Math.PI) / 180));
    const made = cleared(motion);
    expect(depthAt(made, 4)).toBeLessThan(0.0015);
    expect(turned(motion, made, 4)).toBeGreaterThan(0.85 * degrees);
    expect(turned(motion, made, 4)).toBeLessThan(degrees + 0.5);
    palmOf(made, 4).forEach((v, c) => {
      expect(Math.abs(v - palmOf(motion, 4)[c])).toBeLessThan(c === 1 ? 0.003 : 1e-4);
    });
    // The arm reaches there: no bone is longer than it is.
    const span = ({ clip }: Motion, a: string, b: string) =>
      Math.hypot(...worldAt(clip, 4, stick.joint(a)).place.map((v, c) => v - worldAt(clip, 4, stick.joint(b)).place[c]));
    expect(span(made, "LeftArm", "LeftForeArm")).toBeCloseTo(span(motion, "LeftArm", "LeftForeArm"), 5);
    expect(span(made, "LeftForeArm", "LeftHand")).toBeCloseTo(span(motion, "LeftForeArm", "LeftHand"), 5);
  });

  it("that lies on its back is raised, not turned over", () => {
    const over = posedClip(Array(9).fill({ turns: { LeftHand: [Math.PI, 0, 0] } }));
    const motion = onGround(over, skin, 0);
    const sunk = { ...motion, ground: { ...motion.ground, height: worldAt(over, 4, HAND).place[1] + 0.01 } };
    const made = cleared(sunk);
    expect(depthAt(sunk, 4)).toBeGreaterThan(0.015);
    expect(depthAt(made, 4)).toBeLessThan(0.0015);
    expect(turned(sunk, made, 4)).toBeLessThan(0.1);
  });

  it("is left where its skin is out of the ground, where nobody asks, and deep inside something", () => {
    const flat = leaning(Array(9).fill(0));
    expect(cleared(flat).clip).toBe(flat.clip);
    const motion = leaning(Array(9).fill(40));
    expect(cleared(motion, false).clip).toBe(motion.clip);
    const inside = { ...motion, ground: { ...motion.ground, height: motion.ground.height + 0.5 } };
    expect(cleared(inside).clip).toBe(inside.clip);
  });

  it("comes and goes evenly as it dips in, also where it leaves at once", () => {
    const course = Array.from({ length: 40 }, (_, f) => (f < 20 ? 2 * f : 0));
    const motion = leaning(course);
    const made = cleared(motion);
    for (let f = 0; f < 40; f++) expect(depthAt(made, f), `frame ${f}`).toBeLessThan(0.0015);
    const by = Array.from({ length: 40 }, (_, f) => turned(motion, made, f));
    for (let f = 2; f < 40; f++) expect(Math.abs(by[f] - 2 * by[f - 1] + by[f - 2]), `frame ${f}`).toBeLessThan(12);
    expect(by[39]).toBeLessThan(0.01);
  });
});
