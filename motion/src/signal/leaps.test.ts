import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readPosition } from "../clip/clip.ts";
import { normalNumbers } from "../testing/noise.ts";
import { leapsOf, leastLeap, withoutLeaps } from "./leaps.ts";

const N = 120;
const LEAST = leastLeap({ height: 1.75 });
type Place = readonly [number, number, number];

/** A body that goes where it is said to, frame by frame, metres. */
function going(place: (frame: number) => Place, fps = 30): Clip {
  const draft = ClipDraft.make("going", fps, N, 1, Int16Array.of(0));
  for (let f = 0; f < N; f++) {
    draft.setRotation(0, f, [0, 0, 0, 1]);
    draft.setPosition(0, f, place(f));
  }
  return draft.done();
}

/** A run: forward, up and down twice a stride, from side to side. */
const running =
  (fps: number) =>
  (f: number): Place => [0.02 * Math.sin((6 * f) / fps), 0.9 + 0.04 * Math.sin((18 * f) / fps), (3.2 * f) / fps];
const leaping =
  (at: number, [x, y, z]: Place, fps = 30) =>
  (f: number): Place => {
    const [a, b, c] = running(fps)(f);
    return f === at ? [a + x, b + y, c + z] : [a, b, c];
  };
const off = (clip: Clip, f: number, [x, y, z]: Place) => {
  const p = new Float64Array(3);
  readPosition(clip, 0, f, p, 0);
  return Math.hypot(p[0] - x, p[1] - y, p[2] - z);
};

describe("a body that leaps away for one frame", () => {
  it("is put back on its way, and goes as it came everywhere else", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: N - 4 }),
        fc.constantFrom(24, 30, 60, 120),
        fc.double({ min: 0.05, max: 0.3, noNaN: true }),
        fc.double({ min: 0, max: 6, noNaN: true }),
        (at, fps, far, way) => {
          const clip = going(leaping(at, [far * Math.cos(way), far * Math.sin(way), 0], fps), fps);
          const mended = withoutLeaps(clip, LEAST);
          expect(leapsOf(clip, 0, LEAST)).toEqual([at]);
          for (let f = 0; f < N; f++) expect(off(mended, f, running(fps)(f))).toBeLessThan(f === at ? 0.006 : 1e-6);
        },
      ),
    );
  });

  it.each([0, 0.5, 1])("is put back as far as is said: by %d", (share) => {
    const mended = withoutLeaps(going(leaping(40, [0.1, 0, 0], 60), 60), LEAST, () => share);
    expect(off(mended, 40, running(60)(40))).toBeCloseTo(0.1 * (1 - share), 2);
  });

  it("has none where it runs, trembles, shifts for good, lands hard, or leaps by less than counts: the very clip comes back", () => {
    const normal = normalNumbers(4);
    const noise = Array.from({ length: N }, (): Place => [0.004 * normal(), 0.004 * normal(), 0.004 * normal()]);
    const shifted = (f: number): Place => [running(30)(f)[0] + (f > 50 ? 0.08 : 0), 0.9, running(30)(f)[2]];
    const landing = (f: number): Place => [0, f < 60 ? 0.9 + 0.06 * (60 - f) : 0.9, 0];
    for (const place of [running(24), (f: number): Place => noise[f], shifted, landing, leaping(40, [LEAST / 2, 0, 0], 120)]) {
      const clip = going(place);
      expect(withoutLeaps(clip, LEAST)).toBe(clip);
    }
  });

  it("that trembles is put back where the leap is far over that", () => {
    const normal = normalNumbers(9);
    const clip = going((f) => leaping(70, [0, 0.06, 0.03], 60)(f).map((v) => v + 0.002 * normal()) as unknown as Place, 60);
    expect(leapsOf(clip, 0, LEAST)).toEqual([70]);
    expect(off(withoutLeaps(clip, LEAST), 70, running(60)(70))).toBeLessThan(0.01);
  });
});
