import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { repeatsOf, withoutRepeats } from "./repeats.ts";

const N = 80;
/** Two joints and a body on their way, at each frame as they are on the one it shows. */
function showing(shown: (frame: number) => number, turns = true): Clip {
  const draft = ClipDraft.make("walk", 30, N, 2, Int16Array.of(0));
  for (let f = 0; f < N; f++) {
    const at = shown(f);
    draft.setPosition(0, f, [0.1 * Math.sin(at / 8), 0.9, 0.05 * at]);
    draft.setRotation(0, f, [0, Math.sin(at / 40), 0, Math.cos(at / 40)]);
    const half = turns ? 0.3 * Math.sin(f === at ? f / 7 : at / 7) : 0;
    draft.setRotation(1, f, [Math.sin(half), 0, 0, Math.cos(half)]);
  }
  return draft.done();
}
const late =
  (...frames: number[]) =>
  (f: number) =>
    frames.includes(f) ? f - 1 : f;

describe("a frame that shows the one before again", () => {
  it("is found wherever it lies, and every joint is put where it belongs on it: other frames are as they came", () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: N - 15 }), fc.integer({ min: 10, max: 12 }), (at, further) => {
        const [clip, whole] = [showing(late(at, at + further)), showing((f) => f)];
        expect(repeatsOf(clip)).toEqual([at, at + further]);
        const mended = withoutRepeats(clip);
        const [p, q, was] = [new Float64Array(3), new Float64Array(4), new Float64Array(4)];
        for (let f = 0; f < N; f++) {
          readPosition(mended, 0, f, p, 0);
          readPosition(whole, 0, f, was, 0);
          for (let i = 0; i < 3; i++) expect(Math.abs(p[i] - was[i])).toBeLessThan(1e-4);
          for (const joint of [0, 1]) {
            readRotation(mended, joint, f, q, 0);
            readRotation(whole, joint, f, was, 0);
            for (let i = 0; i < 4; i++) expect(Math.abs(q[i] - was[i])).toBeLessThan(2e-4);
          }
        }
      }),
    );
  });

  it("is none where one joint goes on, where all is drawn by steps, or where the body rests", () => {
    const halting = ClipDraft.of(showing(late(30)));
    halting.setRotation(1, 30, [0.5, 0, 0, Math.sqrt(0.75)]);
    for (const clip of [
      halting.done(),
      showing((f) => f - (f % 2)),
      showing((f) => f - Math.floor(f / 5)),
      showing((f) => Math.min(f, 40)),
      showing((f) => f),
      showing(late(1, N - 2)),
    ])
      expect(withoutRepeats(clip)).toBe(clip);
  });

  it("is left where it is not asked for", () => {
    const clip = showing(late(20, 50));
    const mended = withoutRepeats(clip, (f) => (f < 40 ? 1 : 0));
    const [p, was] = [new Float64Array(3), new Float64Array(3)];
    readPosition(mended, 0, 20, p, 0);
    expect(p[2]).toBeCloseTo(1, 5);
    readPosition(mended, 0, 50, p, 0);
    readPosition(clip, 0, 50, was, 0);
    expect(p).toEqual(was);
    expect(withoutRepeats(clip, () => 0)).toBe(clip);
  });
});
