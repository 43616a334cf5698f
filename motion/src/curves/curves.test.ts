import fc from "fast-check";
import { Euler, Quaternion } from "three";
import { describe, expect, it } from "vitest";
import { ClipDraft, readRotation } from "../clip/clip.ts";
import { quatAngleFlat } from "../math/quat.ts";
import { apart, patch, stick, worldAt } from "../testing/patched.ts";
import { angleCurves, anglesToQuat } from "./angles.ts";
import { curveValue, hermite, type Key, slopeAfter } from "./keys.ts";
import { bridgeSamples, delaySamples, flattenSamples, scaleSamples, shiftSamples, smoothSamples, stretchSamples } from "./operations.ts";
import { degreesWithin, sampleSlopes, segmentFits, thinSamples } from "./thin.ts";

const key = (at: number, value: number, tangent: Key["tangent"] = "smooth", slopes: Partial<Key> = {}): Key => ({ at, value, tangent, ...slopes });

describe("keys", () => {
  it("are joined by the cubic spline of glTF 2.0, appendix C, with free slopes", () => {
    // p(t) = (2t³−3t²+1)v₀ + t_d(t³−2t²+t)b₀ + (−2t³+3t²)v₁ + t_d(t³−t²)a₁
    const keys = [key(10, 2, "free", { slopeIn: 0, slopeOut: 0.5 }), key(20, -3, "free", { slopeIn: -1, slopeOut: 0 })];
    for (const f of [12, 15, 18]) {
      const t = (f - 10) / 10;
      const p = (2 * t ** 3 - 3 * t ** 2 + 1) * 2 + 10 * (t ** 3 - 2 * t ** 2 + t) * 0.5 + (-2 * t ** 3 + 3 * t ** 2) * -3 + 10 * (t ** 3 - t ** 2) * -1;
      expect(curveValue(keys, f)).toBeCloseTo(p, 12);
    }
  });

  it("have the tangents of the textbook: parabola through the neighbours, level, straight, held", () => {
    const at = (tangent: Key["tangent"]) => [key(0, 0), key(10, 5, tangent), key(14, 8)];
    // Slope of the parabola through three uneven points: (s₀·d₁ + s₁·d₀)/(d₀ + d₁).
    expect(slopeAfter(at("smooth"), 1)).toBeCloseTo((0.5 * 4 + 0.75 * 10) / 14, 12);
    expect(slopeAfter(at("flat"), 1)).toBe(0);
    expect(curveValue(at("linear"), 12)).toBeLessThan(6.6);
    expect(curveValue([key(0, 1, "linear"), key(10, 3, "linear")], 5)).toBe(2);
    expect(curveValue([key(0, 1, "stepped"), key(10, 3)], 9)).toBe(1);
    expect(curveValue([key(5, 7)], 0)).toBe(7);
    expect(curveValue([], 3)).toBe(0);
  });

  it("never run past a neighbour when smooth (Fritsch & Carlson)", () => {
    const values = fc.array(fc.double({ min: -50, max: 50, noNaN: true }), { minLength: 3, maxLength: 9 });
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 9 }), (list, step) => {
        const keys = list.map((v, i) => key(i * step * 2, v));
        for (let i = 0; i + 1 < keys.length; i++) {
          const low = Math.min(list[i], list[i + 1]) - 1e-9;
          const high = Math.max(list[i], list[i + 1]) + 1e-9;
          for (let f = keys[i].at; f <= keys[i + 1].at; f++) {
            expect(curveValue(keys, f)).toBeGreaterThanOrEqual(low);
            expect(curveValue(keys, f)).toBeLessThanOrEqual(high);
          }
        }
      }),
    );
  });
});

/** Fewest keys by trying every choice of them. */
function exhaustive(samples: readonly number[], tolerance: number): number {
  const n = samples.length;
  const slopes = sampleSlopes(samples);
  let best = n;
  for (let choice = 0; choice < 1 << (n - 2); choice++) {
    const chosen = [0];
    for (let i = 1; i < n - 1; i++) if (choice & (1 << (i - 1))) chosen.push(i);
    chosen.push(n - 1);
    if (chosen.length >= best) continue;
    if (chosen.slice(1).every((j, i) => segmentFits(samples, slopes, chosen[i], j, tolerance))) best = chosen.length;
  }
  return best;
}

describe("thinning", () => {
  it("is never off by more than its tolerance, and uses as few keys as an exhaustive search on short curves", () => {
    const samples = fc.array(fc.double({ min: -10, max: 10, noNaN: true }), { minLength: 4, maxLength: 13 });
    fc.assert(
      fc.property(samples, fc.double({ min: 0.05, max: 5, noNaN: true }), (list, tolerance) => {
        const keys = thinSamples(list, 25, 100, tolerance);
        list.forEach((v, i) => {
          expect(Math.abs(curveValue(keys, (100 + i) / 25) - v)).toBeLessThanOrEqual(tolerance + 1e-9);
        });
        expect(keys.length).toBe(exhaustive(list, tolerance));
      }),
      { numRuns: 150 },
    );
  });

  it("thins a swinging joint's angles to a fraction of the frames, within half a degree", () => {
    const curve = angleCurves(stick.clip, stick.joint("LeftArm"));
    const samples = Array.from({ length: stick.clip.frameCount }, (_, f) => (curve[f * 3 + 1] * 180) / Math.PI);
    const keys = thinSamples(samples, 30, 0, 0.5);
    expect(keys.length).toBeLessThan(samples.length / 5);
    samples.forEach((v, f) => {
      expect(Math.abs(curveValue(keys, f / 30) - v)).toBeLessThanOrEqual(0.5 + 1e-9);
    });
  });
});

describe("thinning within centimetres", () => {
  it("leaves no joint or tip below farther off than was allowed", () => {
    const arm = stick.joint("LeftArm");
    const tolerance = 0.5;
    const degrees = degreesWithin(stick.skeleton, arm, tolerance);
    const curve = angleCurves(stick.clip, arm);
    const samples = Array.from({ length: stick.clip.frameCount }, (_, f) => (curve[f * 3 + 1] * 180) / Math.PI);
    const keys = thinSamples(samples, 30, 0, degrees);
    expect(keys.length).toBeLessThan(samples.length / 3);
    const channel = { target: { drives: "angle", part: { joint: "LeftArm" }, axis: "x" }, keys };
    const { result } = stick.evaluator().evaluate(stick.work(patch("layer", { mode: "override", channels: [channel] })));
    for (let f = 0; f < stick.clip.frameCount; f++)
      for (const name of ["LeftForeArm", "LeftHand"]) {
        expect(apart(worldAt(result.clip, f, stick.joint(name)).place, worldAt(stick.clip, f, stick.joint(name)).place) * 100).toBeLessThanOrEqual(tolerance);
      }
  });
});

describe("angle curves", () => {
  it("are unrolled, and give the same rotations back (three.js's Euler order ZXY as the reference)", () => {
    const draft = ClipDraft.of(stick.clip);
    const { clip } = draft;
    const arm = stick.joint("LeftArm");
    // Three whole turns, and through the lock.
    for (let f = 0; f < clip.frameCount; f++) {
      const q = new Quaternion().setFromEuler(new Euler(1.7 * Math.sin(f / 9), 0.3 * Math.cos(f / 5), (f / clip.frameCount) * 6 * Math.PI, "ZXY"));
      draft.setRotation(arm, f, [q.x, q.y, q.z, q.w]);
    }
    const curve = angleCurves(clip, arm);
    for (let f = 0; f < clip.frameCount; f++) {
      const q = anglesToQuat(new Float64Array(4), curve, f * 3);
      const own = new Float64Array(4);
      readRotation(clip, arm, f, own, 0);
      expect(quatAngleFlat(q, 0, own, 0)).toBeLessThan(1e-6);
      const three = new Quaternion().setFromEuler(new Euler(curve[f * 3 + 1], curve[f * 3 + 2], curve[f * 3], "ZXY"));
      expect(quatAngleFlat([three.x, three.y, three.z, three.w], 0, q, 0)).toBeLessThan(1e-6);
      if (f > 0) for (let i = 0; i < 3; i++) expect(Math.abs(curve[f * 3 + i] - curve[f * 3 - 3 + i])).toBeLessThan(Math.PI);
    }
  });
});

describe("operations on a stretch", () => {
  const samples = Array.from({ length: 40 }, (_, i) => Math.sin(i / 4) * 10 + (i % 2) * 0.5);
  const stretch = { start: 10, end: 30 };

  it("shift, scale about average, default or a value", () => {
    expect(shiftSamples(samples, stretch, 2)[5]).toBe(samples[15] + 2);
    const half = scaleSamples(samples, stretch, 0.5, "average");
    const mean = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => a + b, 0) / list.length;
    expect(mean(half)).toBeCloseTo(mean(samples.slice(10, 31)), 9);
    expect(scaleSamples(samples, stretch, 0, 7)[3]).toBe(7);
    expect(scaleSamples(samples, stretch, 2, "default")[3]).toBe(samples[13] * 2);
  });

  it("smooth by the published weights (Savitzky & Golay 1964: −3, 12, 17, 12, −3 over 35), meeting the curve at both ends", () => {
    const smooth = smoothSamples(samples, stretch, 2);
    const expected = [-3, 12, 17, 12, -3].reduce((sum, w, i) => sum + (w / 35) * samples[18 + i], 0);
    expect(smooth[10]).toBeCloseTo(expected, 12);
    expect(smooth[0]).toBe(samples[10]);
    expect(smooth.at(-1)).toBe(samples[30]);
  });

  it("bridge with the slopes outside, make level with ramps, delay and stretch in time", () => {
    const bridge = bridgeSamples(samples, stretch);
    expect([bridge[0], bridge.at(-1)]).toEqual([samples[10], samples[30]]);
    expect(bridge[10]).toBeCloseTo(hermite(samples[10], samples[10] - samples[9], samples[30], samples[31] - samples[30], 20, 0.5), 12);
    const flat = flattenSamples(samples, stretch, 3, 4);
    expect([flat[0], flat[4], flat[16], flat[20]]).toEqual([samples[10], 3, 3, samples[30]]);
    expect(delaySamples(samples, stretch, 5)[10]).toBe(samples[15]);
    const slow = stretchSamples(samples, stretch, 2, 20);
    expect(slow[10]).toBe(samples[20]);
    expect(slow[14]).toBe(samples[22]);
  });
});
