import { Evaluator, type Motion, makePatch, oneSource, type Patch, quantile, readRotation } from "@stride/motion";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { differences } from "../../motion/src/testing/patched.ts";
import { demo, evaluate, evaluator, floorAndPlant, retime, toes, trueSlides, WALK, work } from "./testing/evaluated.ts";

describe("a retimed motion", () => {
  it("is bit for bit the same through beats that change nothing, and muted", () => {
    const before = evaluate(WALK, ...floorAndPlant).clip;
    for (const same of [
      retime([]),
      retime([
        [0.5, 0.5],
        [2, 2],
      ]),
      retime(
        [
          [0, 1],
          [2, 4],
        ],
        { muted: true },
      ),
    ])
      expect(differences(before, evaluate(WALK, ...floorAndPlant, same).clip)).toEqual({ frames: [], joints: [], moved: false });
  });

  it("shows whole frames of its source with their bits where it runs at its own speed", () => {
    const { clip } = demo(WALK);
    const { clip: slowed } = new Evaluator(oneSource(demo(WALK).truth.character.skeleton, clip)).evaluate(
      work(
        retime([
          [1, 1],
          [2, 3],
        ]),
      ),
    ).result;
    const [a, b] = [new Float32Array(4), new Float32Array(4)];
    for (const f of [0, 11, 30]) {
      for (let j = 0; j < clip.jointCount; j++) {
        readRotation(clip, j, f, a, 0);
        readRotation(slowed, j, f, b, 0);
        expect([...b]).toEqual([...a]);
      }
    }
    readRotation(clip, 3, 75, a, 0);
    readRotation(slowed, 3, 105, b, 0);
    expect([...b]).toEqual([...a]);
  });

  it("takes its contacts along to within half a frame", () => {
    const before = evaluate(WALK, ...floorAndPlant);
    const { fps } = before.clip;
    const { contacts } = evaluate(
      WALK,
      ...floorAndPlant,
      retime([
        [0, 0],
        [1, 2],
        [3, 3.5],
        [4, 4],
      ]),
    );
    const knots = [0, 1, 3, 4, 5];
    const times = [0, 2, 3.5, 4, 5];
    for (const contact of before.contacts) {
      for (const edge of [contact.start, contact.end]) {
        const m = edge / fps;
        const k = Math.min(
          knots.findIndex((v) => v >= m),
          knots.length - 1,
        );
        // Within the monotone curve's stretch the contact lies between its beats; on a beat it lies exactly there.
        const [low, high] = [times[Math.max(0, k - 1)], times[k]];
        const own = contacts.filter((c) => c.point === contact.point);
        expect(own.some((c) => [c.start, c.end].some((f) => f / fps >= low - 0.5 / fps - 1e-9 && f / fps <= high + 0.5 / fps + 1e-9))).toBe(true);
      }
    }
    const even = evaluate(
      WALK,
      ...floorAndPlant,
      makePatch("retime", "R", "r", {
        beats: [
          { from: 0, to: 0 },
          { from: 4, to: 8 },
        ],
        between: "even",
      }),
    );
    for (const contact of before.contacts.filter((c) => c.end < 4 * fps))
      expect(
        even.contacts.some((c) => c.point === contact.point && Math.abs(c.start - 2 * contact.start) <= 0.5 && Math.abs(c.end - 2 * contact.end) <= 0.5),
      ).toBe(true);
  });

  it("limited to a leg takes only that leg along; the rest keeps its bits, and the feet are planted", () => {
    const before = evaluate(WALK, ...floorAndPlant);
    const parts = ["leftThigh", "leftShin", "leftFoot", "leftToe"].map((role) => ({ role }) as Patch["parts"] extends (infer R)[] | null ? R : never);
    const last = retime(
      [
        [3, 3],
        [3.5, 3.8],
      ],
      { parts },
    );
    const stage = evaluator(WALK).evaluate(work(...floorAndPlant, last));
    const own = new Set(parts.map((p) => ("role" in p ? (stage.base.character.body.roles[p.role] ?? -1) : -1)));
    const { joints, moved, frames } = differences(before.clip, stage.stages[2].motion.clip);
    expect(moved).toBe(false);
    expect(joints.length).toBeGreaterThan(0);
    expect(joints.every((j) => own.has(j))).toBe(true);
    expect(Math.min(...frames)).toBeGreaterThanOrEqual(90);
    // Its contacts come later, the other side's stay.
    const told = (motion: Motion, side: string) => motion.contacts.filter((c) => c.point.startsWith(side) && c.start > 90).map((c) => `${c.point} ${c.start}`);
    expect(told(stage.result, "right")).toEqual(told(before, "right"));
    expect(told(stage.result, "left")).not.toEqual(told(before, "left"));
    expect(stage.result.clip.frameCount).toBe(before.clip.frameCount);
  });

  it("keeps true stance points still under a plant, in random stacks of six with time patches among them (property)", () => {
    const { truth } = demo(WALK);
    const fps = truth.clip.fps;
    const step = fc.tuple(fc.double({ min: 0.4, max: 1, noNaN: true }), fc.double({ min: 0.6, max: 2.2, noNaN: true }));
    const slides: number[] = [];
    fc.assert(
      fc.property(fc.array(step, { minLength: 2, maxLength: 4 }), fc.double({ min: 0.7, max: 1.6, noNaN: true }), fc.boolean(), (steps, speed, late) => {
        let [from, to] = [0, 0];
        const beats: [number, number][] = [[0, 0]];
        for (const [a, rate] of steps) {
          from += a;
          to += a * rate;
          beats.push([from, to]);
        }
        const time = [retime(beats), makePatch("retime", "S", "s", { speed })];
        const corrections = [makePatch("repair", "Smooth", "smooth", { smooth: 0.5 }), makePatch("amplitude", "A", "a", { percent: 80, sway: true })];
        const stack = late ? [...floorAndPlant, ...corrections, ...time] : [...time, ...floorAndPlant, ...corrections];
        const evaluation = evaluator(WALK).evaluate(work(...stack));
        const shown = (frame: number) => {
          // By the beats themselves, piece by piece: an own reading, not the map under test; eased pieces are followed by their ends alone.
          const warps = evaluation.stages.filter((s) => s.patch.kind === "retime").map((s) => s.warp);
          let m = frame / fps;
          for (const { pieces, seconds } of warps) {
            const grid = Array.from({ length: 4001 }, (_, k) => (k * seconds) / 4000);
            const reads = (out: number) => {
              const piece = pieces.find((p) => out <= p.outEnd) ?? pieces[pieces.length - 1];
              const t = (out - piece.outStart) / (piece.outEnd - piece.outStart);
              const [h, rise] = [piece.outEnd - piece.outStart, piece.inEnd - piece.inStart];
              const [m0, m1] = piece.speeds ?? [rise / h, rise / h];
              return piece.inStart + (3 * t * t - 2 * t ** 3) * rise + h * (t ** 3 - 2 * t * t + t) * m0 + h * (t ** 3 - t * t) * m1;
            };
            m = grid.find((out) => reads(out) >= m) ?? seconds;
          }
          return m * fps;
        };
        slides.push(...trueSlides(toes(truth), evaluation.result.clip, shown));
      }),
      { numRuns: 8, seed: 11 },
    );
    expect(slides.length).toBeGreaterThan(40);
    expect(quantile(slides, 0.95)).toBeLessThan(0.2);
  });
});
