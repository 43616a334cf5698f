import { describe, expect, it } from "vitest";
import { measure, totalsOf } from "../checkup/measures.ts";
import { copyClip } from "../clip/clip.ts";
import { Evaluator } from "../evaluate.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { around, differences, patch, stick } from "../testing/patched.ts";

const arm = stick.joint("LeftForeArm");
const at = (f: number) => (f * stick.clip.jointCount + arm) * 4;
const degrees = (a: ArrayLike<number>, b: ArrayLike<number>, f: number, g = f) =>
  (quatAngleFlat(a as Float32Array, at(f), b as Float32Array, at(g)) * 180) / Math.PI;

/** The stick figure with its forearm set anew on some frames. */
function broken(frames: readonly number[], q: readonly number[]) {
  const clip = copyClip(stick.clip);
  for (const f of frames) clip.rotations.set(q, at(f));
  return clip;
}
const mended = (clip: typeof stick.clip, settings: Record<string, unknown>, rest = {}) =>
  new Evaluator(stick.skeleton, clip).evaluate(stick.work(patch("repair", settings, { mask: ["LeftForeArm"], ...rest }))).result.clip;

describe("repair", () => {
  it("mends a half turn that comes and goes within a few frames, and leaves a turn that stays", () => {
    const flip = broken([40, 41, 42], [0, 1, 0, 0]);
    const result = mended(flip, { pops: false });
    for (const f of [40, 41, 42]) expect(degrees(result.rotations, stick.clip.rotations, f)).toBeLessThan(3);
    const stays = broken(
      Array.from({ length: 30 }, (_, i) => 40 + i),
      [0, 1, 0, 0],
    );
    expect(differences(stays, mended(stays, { pops: false })).frames).toEqual([]);
  });

  it("throws a broken stretch away and leads across it with the speeds of its ends", () => {
    const noise = broken([50, 52, 54], [0.6, 0, 0, 0.8]);
    const result = mended(noise, { bridge: true, pops: false, flips: false }, around(52, 3, 0));
    for (let f = 49; f <= 55; f++) {
      expect(degrees(result.rotations, stick.clip.rotations, f)).toBeLessThan(4);
      // No step between neighbours that the motion does not have itself.
      expect(degrees(result.rotations, result.rotations, f, f + 1)).toBeLessThan(3);
    }
    expect(differences(noise, result).frames.every((f) => f >= 49 && f <= 55)).toBe(true);
  });

  it("smooths only as far as it is asked, on the masked joint alone", () => {
    const rough = copyClip(stick.clip);
    for (let f = 0; f < rough.frameCount; f++) {
      const angle = (f % 2 === 0 ? 1 : -1) * 0.01;
      rough.rotations.set([Math.sin(angle), 0, 0, Math.cos(angle)], at(f));
    }
    const shake = (clip: typeof rough) => degrees(clip.rotations, clip.rotations, 40, 41);
    const half = mended(rough, { smooth: 0.5, pops: false, flips: false });
    const whole = mended(rough, { smooth: 1, pops: false, flips: false });
    expect(shake(half)).toBeLessThan(0.7 * shake(rough));
    expect(shake(whole)).toBeLessThan(0.5 * shake(half));
    expect(differences(rough, whole).joints).toEqual([arm]);
  });
});

describe("trim behind a plant", () => {
  it("keeps feet planted, also under an edit that comes after", () => {
    const trim = patch("trim", { keepFromFrame: 12, keepToFrame: 70 });
    const edit = patch(
      "touchUp",
      { frame: 30, edits: [{ op: "move", joints: ["Hips"], space: "world", centimetres: [3, -4, 0] }], holds: [] },
      { ...around(30, 4), id: "edit" },
    );
    const { result } = stick.evaluator().evaluate(stick.grounded(trim, edit));
    expect(result.clip.frameCount).toBe(59);
    expect(totalsOf(measure(result)).slideP95Cm).toBeLessThan(0.2);
  });
});
