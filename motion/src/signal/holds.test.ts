import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ClipDraft, readPosition } from "../clip/clip.ts";
import { normalNumbers } from "../testing/noise.ts";
import { framesOf, heldAgain, newFrames } from "./holds.ts";
import { courseNoise } from "./smoothCourse.ts";
import { laneNoise, rotationLane } from "./smoothRotation.ts";
import { steadiedClip } from "./steadyClip.ts";

const wave = (f: number) => [0.3 * Math.sin(f / 9), 0.9 + 0.02 * Math.sin(f / 4), 0.03 * f];
/** A course of so many frames, the pose on each of them that of the frame it is held from. */
const course = (frames: number, from: (f: number) => number, of = wave) =>
  Float64Array.from({ length: frames * 3 }, (_, i) => of(from(Math.floor(i / 3)))[i % 3]);

describe("what goes by steps", () => {
  it("shows something new where a pose begins, whatever each is held for, and is the same when it is held again", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 4 }), { minLength: 5, maxLength: 40 }), (holds) => {
        const starts: number[] = [];
        let n = 0;
        for (const hold of holds) {
          starts.push(n);
          n += hold;
        }
        const from = (f: number) => starts.findLast((s) => s <= f) ?? 0;
        const stepped = course(n, from);
        const kept = newFrames(stepped, 3);
        // Too little is held, or nothing for too long.
        const goesOn = n - holds.length < 0.15 * n || /(?:1,){9}/.test(`${holds},`);
        expect(kept && Array.from(kept)).toEqual(goesOn ? null : starts);
        if (kept) expect(heldAgain(framesOf(stepped, 3, kept), 3, kept, n)).toEqual(stepped);
      }),
      { examples: [[[1, 1, 1, 1, 1]], [[3, 3, 3, 1, 1, 1, 1, 1, 1, 1, 1, 1, 3]], [[3, 3, 3, 1, 1, 1, 1, 1, 1, 1, 1, 3]]] },
    );
  });

  it("is none that goes on from frame to frame, repeats a frame now and then, or lies still for long", () => {
    expect(
      newFrames(
        course(90, (f) => f),
        3,
      ),
    ).toBeNull();
    expect(
      newFrames(
        course(90, (f) => (f % 30 === 7 ? f - 1 : f)),
        3,
      ),
    ).toBeNull();
    expect(
      newFrames(
        course(90, (f) => Math.min(f, 30)),
        3,
      ),
    ).toBeNull();
  });

  it("has no noise for being held, and as much as its poses have if they tremble", () => {
    const normal = normalNumbers(3);
    const shaken = Array.from({ length: 200 }, (_, f) => wave(f).map((v) => v + 0.002 * normal()));
    for (const hold of [2, 3]) {
      expect(courseNoise(course(400, (f) => hold * Math.floor(f / hold)))).toBeLessThan(0.0002);
      const noise = courseNoise(
        course(
          400,
          (f) => Math.floor(f / hold),
          (f) => shaken[f],
        ),
      );
      expect(noise).toBeGreaterThan(0.0014);
      expect(noise).toBeLessThan(0.0026);
    }
  });

  it("keeps its steps, to the bit where it does not tremble and on every hold where it does, when it is steadied", () => {
    const normal = normalNumbers(5);
    const clipOf = (trembles: number) => {
      const shakes = Array.from({ length: 150 }, () => trembles * normal());
      const draft = ClipDraft.make("steps", 60, 300, 1, Int16Array.of(0));
      for (let f = 0; f < 300; f++) {
        const pose = f >> 1;
        const half = (0.5 * Math.sin(pose / 9) + (shakes[pose] * Math.PI) / 180) / 2;
        draft.setRotation(0, f, [Math.sin(half), 0, 0, Math.cos(half)]);
        draft.setPosition(0, f, wave(2 * pose));
      }
      return draft.done();
    };
    const still = clipOf(0);
    expect(laneNoise(rotationLane(still, 0), 300)).toBeLessThan(0.0005);
    expect(steadiedClip(still, [0])).toBe(still);
    const trembling = clipOf(0.5);
    const steadied = steadiedClip(trembling, [0]);
    const [lane, came] = [rotationLane(steadied, 0), rotationLane(trembling, 0)];
    let moved = 0;
    for (let f = 0; f < 300; f += 2)
      for (let i = 0; i < 4; i++) {
        expect(lane[(f + 1) * 4 + i]).toBe(lane[f * 4 + i]);
        moved = Math.max(moved, Math.abs(lane[f * 4 + i] - came[f * 4 + i]));
      }
    expect(moved).toBeGreaterThan(0.002);
    const p = new Float64Array(3);
    readPosition(steadied, 0, 101, p, 0);
    expect(p[2]).toBeCloseTo(wave(100)[2], 6);
  });
});
