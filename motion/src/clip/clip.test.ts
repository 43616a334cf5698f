import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { around, at, named, patch, stick } from "../testing/patched.ts";
import { changedFrames } from "./changes.ts";
import { CHUNK_FRAMES, ClipDraft, cropClip, flatTrack, readPose, readRotation } from "./clip.ts";

const { clip } = stick;
const last = clip.frameCount - 1;

describe("a clip's tracks", () => {
  it("are shared until they are written: one joint on one frame costs one chunk", () => {
    const draft = ClipDraft.of(clip);
    draft.setRotation(5, 70, [0, 0, 0, 1]);
    const made = draft.done();
    made.rotations.forEach((track, joint) => {
      track.forEach((chunk, c) => {
        const own = joint === 5 && c === Math.floor(70 / CHUNK_FRAMES);
        expect(chunk === clip.rotations[joint][c], `joint ${joint}, chunk ${c}`).toBe(!own);
      });
    });
    expect(made.positions[0]).toBe(clip.positions[0]);
  });

  it("of a patch on one arm are its input's own everywhere else, track by track", () => {
    const edit = { op: "turn", parts: named("LeftArm"), space: "own", degrees: [20, 0, 0], shared: false, pivot: null };
    const touchUp = patch("touchUp", { at: at(40), edits: [edit], holds: [] }, around(40));
    const { base, result } = stick.evaluator().evaluate(stick.work(touchUp));
    const arm = stick.joint("LeftArm");
    base.clip.rotations.forEach((track, joint) => {
      expect(result.clip.rotations[joint] === track, stick.skeleton.names[joint]).toBe(joint !== arm);
    });
    expect(result.clip.positions[0]).toBe(base.clip.positions[0]);
    expect([...changedFrames(base.clip, result.clip, [arm])].flatMap((v, f) => (v ? [f] : [])).every((f) => f > 34 && f < 46)).toBe(true);
    expect([...changedFrames(base.clip, result.clip, [arm + 1])].every((v) => v === 0)).toBe(true);
  });

  it("read back what was written, and leave the clip they came from alone (property)", () => {
    const before = clip.rotations.map((t) => flatTrack(t, 4));
    const write = fc.record({
      joint: fc.integer({ min: 0, max: clip.jointCount - 1 }),
      frame: fc.integer({ min: 0, max: last }),
      q: fc.tuple(...Array.from({ length: 4 }, () => fc.double({ min: -1, max: 1, noNaN: true }))),
    });
    fc.assert(
      fc.property(fc.array(write, { maxLength: 30 }), (writes) => {
        const draft = ClipDraft.of(clip);
        const truth = new Map<string, readonly number[]>();
        for (const { joint, frame, q } of writes) {
          draft.setRotation(joint, frame, q);
          truth.set(`${joint}@${frame}`, q.map(Math.fround));
        }
        const made = draft.done();
        const q = [0, 0, 0, 0];
        for (const [at, wanted] of truth) {
          const [joint, frame] = at.split("@").map(Number);
          readRotation(made, joint, frame, q, 0);
          expect(q).toEqual(wanted);
        }
      }),
    );
    clip.rotations.forEach((t, j) => {
      expect(flatTrack(t, 4)).toEqual(before[j]);
    });
  });

  it("are cut to a stretch with every bit, wherever chunks begin", () => {
    const pose = (of: typeof clip, frame: number) => {
      const rotations = new Float64Array(of.jointCount * 4);
      const positions = new Float64Array(3);
      readPose(of, frame, rotations, positions);
      return [...rotations, ...positions];
    };
    for (const [from, to] of [
      [0, last],
      [3, 71],
      [63, 64],
      [64, 89],
      [70, 70],
    ]) {
      const cut = cropClip(clip, from, to);
      expect(cut.frameCount).toBe(to - from + 1);
      for (const f of [from, Math.floor((from + to) / 2), to]) expect(pose(cut, f - from)).toEqual(pose(clip, f));
    }
  });
});
