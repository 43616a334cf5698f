import { describe, expect, it } from "vitest";
import { skinnedVertices } from "../character/skin.ts";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { planeGround } from "../ground/ground.ts";
import { clipWorld } from "../kinematics/forward.ts";
import type { Motion } from "../motion.ts";
import { oneSource } from "../sources.ts";
import { stick } from "../testing/patched.ts";
import { restPlace, skinOf } from "../testing/skinned.ts";
import { toesOver } from "./toesOver.ts";

const { skeleton } = stick;
const [FOOT, TOE] = [stick.joint("LeftFoot"), stick.joint("LeftToeBase")];
const toe = restPlace("LeftToeBase");
/** How far the sole lies under the toe's joint, and how far it goes on in front of it, metres. */
const [THICK, LONG] = [0.015, 0.07];
const skin = skinOf(
  Array.from({ length: 48 }, (_, i) => ({
    joint: i < 8 ? "LeftFoot" : "LeftToeBase",
    at: [toe[0] + 0.06 * ((i % 4) / 3 - 0.5), toe[1] - (i % 8 < 4 ? THICK : -0.02), toe[2] + (i < 8 ? -0.1 : (LONG * (Math.floor(i / 8) - 0.5)) / 4.5)],
  })),
);

/** Feet that are pitched by so many radians a frame, toes down, at rest otherwise. */
function pitched(angles: readonly number[]): Clip {
  const draft = ClipDraft.make("pitched", 30, angles.length, skeleton.names.length, Int16Array.of(0));
  angles.forEach((angle, f) => {
    skeleton.names.forEach((_, j) => draft.setRotation(j, f, [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)]));
    draft.setRotation(FOOT, f, [Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)]);
    draft.setPosition(0, f, [0, 0, 0]);
  });
  return draft.done();
}

/** The ball stands on the ground. */
function standing(clip: Clip, details = { skin }): Motion {
  const motion = new Evaluator(oneSource(skeleton, clip, details)).unsearched(emptyWork());
  const { positions } = clipWorld(skeleton, clip);
  return { ...motion, ground: planeGround(positions[TOE * 3 + 1] - THICK, 0, 0) };
}

function lowest({ clip, ground }: Motion, frame: number): number {
  const { positions, rotations, jointCount: n } = clipWorld(skeleton, clip);
  const places = skinnedVertices(
    skin,
    skin.parts[0],
    positions.subarray(frame * n * 3, (frame + 1) * n * 3),
    rotations.subarray(frame * n * 4, (frame + 1) * n * 4),
  );
  // Those of the toe in front of what lies below its joint.
  return Math.min(...Array.from({ length: 48 }, (_, v) => (v < 16 ? 1 : places[v * 3 + 1]))) - ground.height;
}

describe("toes over the ground", () => {
  it.each([5, 20, 45, 60])("a foot that rolls %d° over its ball leaves its toes lying flat", (degrees) => {
    const angle = (degrees * Math.PI) / 180;
    const motion = standing(pitched([angle, angle, angle]));
    expect(lowest(motion, 1)).toBeLessThan(-0.5 * LONG * Math.sin(angle));
    const made = toesOver(motion);
    expect(Math.abs(lowest(made, 1))).toBeLessThan(1e-4);
    // Lying flat it is turned back by just as much as the foot is pitched.
    const { rotations, jointCount } = clipWorld(skeleton, made.clip);
    const o = (jointCount + TOE) * 4;
    expect((2 * Math.acos(Math.min(1, Math.abs(rotations[o + 3]))) * 180) / Math.PI).toBeLessThan(0.2);
    const places = [motion, made].map(({ clip }) => clipWorld(skeleton, clip).positions);
    expect(places[1]).toEqual(places[0]);
  });

  it("bends no more than toes do, evenly over a few frames, and keeps the bits of what needs none", () => {
    const steep = standing(pitched([1.4, 1.4, 1.4]));
    const made = toesOver(steep);
    const { rotations, jointCount } = clipWorld(skeleton, made.clip);
    const left = 2 * Math.asin(Math.abs(rotations[(jointCount + TOE) * 4]));
    expect(left).toBeCloseTo(1.4 - (65 * Math.PI) / 180, 2);
    const flat = standing(pitched([0, 0, -0.2]));
    expect(toesOver(flat)).toBe(flat);
    const bare = standing(pitched([0.5, 0.5, 0.5]), { skin: null as never });
    expect(toesOver(bare)).toBe(bare);
    // A jump in what is needed is met by a bend that grows.
    const sudden = standing(pitched([...Array(10).fill(0), ...Array(10).fill(0.6)]));
    const course = Array.from({ length: 20 }, (_, f) => Math.asin(toesOver(sudden).clip.rotations[TOE][0][f * 4]) * -2);
    expect(Math.abs(course[0])).toBe(0);
    expect(course[10]).toBeGreaterThan(0.59);
    for (let f = 1; f < 20; f++) expect(Math.abs(course[f] - course[f - 1])).toBeLessThan(0.35);
  });
});
