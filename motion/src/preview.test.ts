import { describe, expect, it } from "vitest";
import { readPose } from "./clip/clip.ts";
import type { Patch } from "./documents/patch.ts";
import type { Work } from "./documents/work.ts";
import type { Motion } from "./motion.ts";
import { previewFrame } from "./preview.ts";
import { at, patch, stick } from "./testing/patched.ts";
import { carriedAlong } from "./time/carriedAlong.ts";

const retime = (to: number): Patch => patch("retime", { beats: [0, 30, 60, 89].map((f) => ({ from: at(f), to: at(f === 30 ? to : f) })), between: "eased" });
const over: Patch = patch("repair", { smooth: 0.5 }, { id: "over", range: { start: at(45), end: at(50) }, rampIn: at(4) });
const SOURCE = { seconds: at(89), fps: 30 };

function pose(motion: Motion, frame: number): number[] {
  const rotations = new Float64Array(motion.clip.jointCount * 4);
  const positions = new Float64Array(motion.clip.positionJoints.length * 3);
  readPose(motion.clip, frame, rotations, positions);
  return [...rotations, ...positions];
}

describe("the frame under the playhead while a beat is dragged", () => {
  const before: Work = stick.grounded(retime(30), over);
  const evaluation = stick.evaluator().evaluate(before);

  it("shows its moment as it was: only when it is shown is changed", () => {
    const after = carriedAlong(before, stick.grounded(retime(40), over), SOURCE);
    expect(after.patches.at(-1)?.range).not.toEqual(over.range);
    const shown = previewFrame(evaluation, after, 47);
    expect(shown?.clip.frameCount).toBe(1);
    expect(pose(shown as Motion, 0)).toEqual(pose(evaluation.result, 47));
  });

  it("is not told so where more than time was changed", () => {
    const after = carriedAlong(before, stick.grounded(retime(40), { ...over, settings: { smooth: 0.9 } }), SOURCE);
    expect(previewFrame(evaluation, after, 47)).toBeNull();
    const masked = stick.grounded({ ...retime(40), parts: [{ joint: "LeftArm" }] }, over);
    expect(previewFrame(evaluation, masked, 47)).toBeNull();
  });
});
