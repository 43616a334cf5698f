import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { clipSeconds, cropClip, isFiniteClip } from "../clip/clip.ts";
import type { Patch } from "../documents/patch.ts";
import { PatchError } from "../formats/errors.ts";
import { previewFrame } from "../preview.ts";
import { around, at, named, patch, stick } from "../testing/patched.ts";

const key = (frame: number, value: number) => ({ at: at(frame), value, tangent: "smooth" });
const turn = (joint: string, keys: readonly object[]) => ({ target: { drives: "turn", part: { joint }, axis: "x" }, keys });
const toeHeight = (keys: readonly object[]) => ({ target: { drives: "measure", measure: { of: "height", part: { joint: "LeftToeBase" } } }, keys });

/** A patch of any kind with settings that its schema takes. */
const anyPatch: fc.Arbitrary<Patch> = fc
  .record({
    pick: fc.integer({ min: 0, max: 8 }),
    frame: fc.integer({ min: 0, max: 30 }),
    degrees: fc.double({ min: -170, max: 170, noNaN: true }),
    share: fc.double({ min: 0, max: 1, noNaN: true }),
    wide: fc.integer({ min: 0, max: 20 }),
  })
  .map(({ pick, frame, degrees, share, wide }): Patch => {
    const placed = around(frame, wide, wide);
    const edits = [{ op: "turn", parts: named("LeftArm", "Spine"), space: "world", degrees: [degrees, 0, -degrees], shared: true, pivot: null }];
    switch (pick) {
      case 0:
        return patch("floor", { height: "set", heightCm: degrees }, placed);
      case 1:
        return patch("plant", { travelStrength: share, travelAfter: share > 0.5 ? "carry" : "spread" }, placed);
      case 2:
        return patch("touchUp", { at: at(frame), edits, holds: [{ part: { joint: "LeftHand" }, position: true, orientation: true, on: null }] }, placed);
      case 3:
        // Keys may stand at one moment, in any order.
        return patch("layer", {
          channels: [turn("Head", [key(frame, degrees), key(frame, -degrees), key(0, 3)])],
          weightKeys: [key(frame, share), key(frame, 0)],
        });
      case 4:
        return patch("layer", { mode: "override", channels: [toeHeight([key(frame, 9), key(frame + 1, 9)])] }, placed);
      case 5:
        return patch("amplitude", { percent: 200 * share, about: "trend", sway: true, bob: true, swivel: true, tilt: true, parts: named("LeftArm") }, placed);
      case 6:
        return patch("repair", { smooth: share, smoothOver: at(wide), bridge: share > 0.5 }, { ...placed, parts: named("LeftArm", "Hips") });
      case 7:
        return patch("repair", { bridge: true });
      default:
        return patch("trim", { from: at(Math.min(frame, 2)), to: null });
    }
  });

const whole = stick.clip;

describe("nothing finite becomes anything else", () => {
  it("in any stack over a clip of any length (property)", () => {
    fc.assert(
      fc.property(fc.constantFrom(1, 2, 3, 7, 31), fc.array(anyPatch, { minLength: 1, maxLength: 4 }), (frames, patches) => {
        const clip = cropClip(whole, 20, 19 + frames);
        const work = stick.work(...patches.map((p, i) => ({ ...p, id: `p${i}` })));
        try {
          expect(isFiniteClip(stick.evaluator(clip).evaluate(work).result.clip)).toBe(true);
        } catch (error) {
          // A range behind the end, say: told, with the patch and the field.
          if (!(error instanceof PatchError)) throw error;
          expect(error.message).toMatch(/: /);
        }
      }),
      { numRuns: 120 },
    );
  });

  it("bridges a clip of one frame to itself", () => {
    const { result } = stick.evaluator(cropClip(whole, 20, 20)).evaluate(stick.work(patch("repair", { bridge: true })));
    expect(isFiniteClip(result.clip)).toBe(true);
    expect(clipSeconds(result.clip)).toBe(0);
  });

  it("takes the last of two keys at one moment", () => {
    const { result } = stick.evaluator().evaluate(stick.work(patch("layer", { channels: [turn("Head", [key(0, 0), key(30, 40), key(30, 10), key(60, 0)])] })));
    expect(isFiniteClip(result.clip)).toBe(true);
  });

  it("previews a touch-up under a layer that takes over", () => {
    const layer = patch("layer", {
      mode: "override",
      channels: [{ target: { drives: "angle", part: { joint: "Head" }, axis: "x" }, keys: [key(30, 5), key(40, 5)] }],
    });
    const touchUp = (degrees: number) =>
      patch("touchUp", {
        at: at(35),
        edits: [{ op: "turn", parts: named("Head"), space: "own", degrees: [degrees, 0, 0], shared: false, pivot: null }],
        holds: [],
      });
    const evaluator = stick.evaluator();
    const before = evaluator.evaluate(stick.work({ ...touchUp(5), ...around(35) }, layer));
    const work = stick.work({ ...touchUp(25), ...around(35) }, layer);
    const seen = previewFrame(before, work, 35);
    if (!seen) throw new Error("both see few frames: a preview was to be had");
    expect(isFiniteClip(seen.clip)).toBe(true);
  });
});
