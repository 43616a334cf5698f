import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { readBvh } from "../formats/bvh/read.ts";
import { clipWorld } from "../kinematics/forward.ts";
import { multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { oneSource } from "../sources.ts";
import { stick } from "../testing/patched.ts";
import { skatingBody } from "../testing/skatingBody.ts";
import { acceptanceOf } from "./acceptance.ts";
import { bakedOnto, bodyOf } from "./bake.ts";
import { carriedOnto } from "./onto.ts";

const FEET = ["LeftFoot", "RightFoot"].map(stick.joint);

/** A body whose legs are longer, at rest. */
function other(): Motion {
  const text = skatingBody(1)
    .replaceAll(/OFFSET 0 (-4\d)/g, (_, y: string) => `OFFSET 0 ${Number(y) * 1.2}`)
    .split("\n");
  const { skeleton } = readBvh(new TextEncoder().encode(text.join("\n")), { fileName: "other.bvh" });
  const draft = ClipDraft.make("other", 30, 1, skeleton.names.length, Int16Array.of(0));
  skeleton.names.forEach((_, j) => draft.setRotation(j, 0, [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)]));
  draft.setPosition(0, 0, [0, 1.122, 0]);
  return bodyOf(new Evaluator(oneSource(skeleton, draft.done())).evaluate(emptyWork()).base);
}

/** The walk with feet that were built at a slant: turned by so much in their own frame, all through. */
function slanted(roll: number, pitch: number): Clip {
  const draft = ClipDraft.of(stick.clip);
  const turn = new Float64Array(4);
  multiplyQuatFlat(turn, 0, [0, 0, Math.sin(roll / 2), Math.cos(roll / 2)], 0, [Math.sin(pitch / 2), 0, 0, Math.cos(pitch / 2)], 0);
  const q = new Float64Array(4);
  for (const foot of FEET)
    for (let f = 0; f < stick.clip.frameCount; f++) {
      readRotation(stick.clip, foot, f, q, 0);
      draft.setRotation(foot, f, multiplyQuatFlat(q, 0, q, 0, turn, 0));
    }
  return draft.done();
}

/** How far off the vertical soles stand while heel and toe rest, degrees, in the mean. */
function offFlat({ character: { skeleton, rig }, clip, contacts }: Motion): number {
  const { rotations, jointCount } = clipWorld(skeleton, clip);
  const up = new Float64Array(3);
  const all: number[] = [];
  for (const [i, side] of ["left", "right"].entries()) {
    const down = (id: string, f: number) => contacts.some((c) => c.point === `${side}${id}` && c.start <= f && c.end >= f);
    const foot = skeleton.names.indexOf(["LeftFoot", "RightFoot"][i]);
    for (let f = 0; f < clip.frameCount; f++) {
      if (!down("Heel", f) || !down("Toe", f)) continue;
      rotateVecFlat(up, 0, rotations, (f * jointCount + foot) * 4, [...rig.up], 0);
      all.push((Math.acos(Math.min(1, up[1])) * 180) / Math.PI);
    }
  }
  expect(all.length).toBeGreaterThan(20);
  return all.reduce((sum, v) => sum + v, 0) / all.length;
}

describe("feet that stand flat", () => {
  it.each([
    [0, 0],
    [0.17, 0],
    [-0.1, 0.14],
  ])("stand flat on the other body, though their own are built at a slant (rolled %f, pitched %f)", (roll, pitch) => {
    const source = new Evaluator(oneSource(stick.skeleton, slanted(roll, pitch))).evaluate(emptyWork()).base;
    const like = other();
    const carried = carriedOnto(source, { ...like, clip: { ...like.clip, fps: source.clip.fps } }).motion;
    // As built, the source's own foot is off by its slant.
    if (roll !== 0) expect(offFlat(source)).toBeGreaterThan(5);
    expect(offFlat(carried)).toBeLessThan(1.5);
    const made = bakedOnto(source, like).motion;
    expect(offFlat(made)).toBeLessThan(1.5);
    // The acceptance knows that they are meant so.
    const feet = acceptanceOf(source, made).angles.filter((a) => /Foot$/.test(a.role));
    expect(feet.length).toBe(2);
    for (const { meanDegrees } of feet) expect(meanDegrees).toBeLessThan(3);
  });
});
