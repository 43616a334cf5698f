import fc from "fast-check";
import { Quaternion, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { keptPlaces, keptRotations } from "./thin.ts";

/** A smooth or jumpy course of rotations, of unit length and the short way round. */
const courses = fc.record({
  frames: fc.integer({ min: 1, max: 80 }),
  waves: fc.array(fc.tuple(fc.double({ min: -2, max: 2, noNaN: true }), fc.double({ min: 0, max: 0.6, noNaN: true })), { minLength: 3, maxLength: 3 }),
  jump: fc.integer({ min: 0, max: 80 }),
});
function rotations({ frames, waves, jump }: { frames: number; waves: [number, number][]; jump: number }): Float32Array {
  const out = new Float32Array(frames * 4);
  const last = new Quaternion();
  for (let f = 0; f < frames; f++) {
    const v = waves.map(([size, speed]) => size * Math.sin(speed * f) + (f >= jump ? 0.7 : 0));
    const q = new Quaternion().setFromAxisAngle(new Vector3(...v).normalize(), Math.hypot(...v));
    if (f > 0 && q.dot(last) < 0) q.set(-q.x, -q.y, -q.z, -q.w);
    last.copy(q);
    out.set([q.x, q.y, q.z, q.w], f * 4);
  }
  return out;
}
const at = (values: Float32Array, f: number) => new Quaternion(...values.subarray(f * 4, f * 4 + 4)).normalize();

describe("keys that are left when a track is thinned", () => {
  it("say every frame's rotation within the tolerance, as three.js interpolates between them; none of them could be left out (property)", () => {
    fc.assert(
      fc.property(courses, fc.double({ min: 0.01, max: 5, noNaN: true }), (course, degrees) => {
        const values = rotations(course);
        const kept = keptRotations(values, degrees);
        expect(kept[0]).toBe(0);
        expect(kept.at(-1)).toBe(course.frames - 1);
        for (let k = 1; k < kept.length; k++)
          for (let f = kept[k - 1] + 1; f < kept[k]; f++) {
            const between = at(values, kept[k - 1]).slerp(at(values, kept[k]), (f - kept[k - 1]) / (kept[k] - kept[k - 1]));
            // A float32 quaternion says an angle to about a hundredth of a degree where it is small.
            expect((between.angleTo(at(values, f)) * 180) / Math.PI).toBeLessThan(degrees + 0.03);
          }
      }),
      { numRuns: 150 },
    );
  });

  it("are two where a joint turns evenly, and all where it shakes", () => {
    const even = Float32Array.from({ length: 400 }, (_, i) => [0, Math.sin(0.01 * Math.floor(i / 4)), 0, Math.cos(0.01 * Math.floor(i / 4))][i % 4]);
    expect(keptRotations(even, 0.05)).toEqual([0, 99]);
    const shaking = Float32Array.from(
      { length: 40 },
      (_, i) => [0, Math.sin((Math.floor(i / 4) % 2) * 0.1), 0, Math.cos((Math.floor(i / 4) % 2) * 0.1)][i % 4],
    );
    expect(keptRotations(shaking, 0.05)).toHaveLength(10);
  });

  it("say every place within the tolerance (property)", () => {
    const places = fc.array(
      fc.tuple(fc.double({ min: -2, max: 2, noNaN: true }), fc.double({ min: -2, max: 2, noNaN: true }), fc.double({ min: -2, max: 2, noNaN: true })),
      {
        minLength: 1,
        maxLength: 60,
      },
    );
    fc.assert(
      fc.property(places, fc.double({ min: 0.001, max: 1, noNaN: true }), (list, most) => {
        const values = Float32Array.from(list.flat());
        const kept = keptPlaces(values, most);
        for (let k = 1; k < kept.length; k++)
          for (let f = kept[k - 1]; f <= kept[k]; f++) {
            const t = (f - kept[k - 1]) / (kept[k] - kept[k - 1]);
            const off = [0, 1, 2].map((c) => values[kept[k - 1] * 3 + c] * (1 - t) + values[kept[k] * 3 + c] * t - values[f * 3 + c]);
            expect(Math.hypot(...off)).toBeLessThanOrEqual(most + 1e-6);
          }
      }),
      { numRuns: 150 },
    );
  });
});
