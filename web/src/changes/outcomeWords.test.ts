import type { MotionFigures, Outcome } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { outcomeWords, rangeWords } from "./outcomeWords.ts";

const figures = (change: Partial<MotionFigures> & { slide?: number } = {}): MotionFigures => ({
  frames: 133,
  fps: 30,
  joints: 52,
  plan: "biped",
  findings: 4,
  ...change,
  totals: { slideWorstCm: change.slide ?? 3.2 } as MotionFigures["totals"],
});
const outcome = (change: Partial<Outcome>): Outcome => ({ before: figures(), after: figures(), changedFrames: 0, movedCm: 0, notes: [], ...change });

describe("what a change did, in words", () => {
  it("tells what moved and what that did to what is wrong", () => {
    expect(outcomeWords(outcome({ changedFrames: 40, movedCm: 1.234, after: figures({ findings: 1, slide: 0.1 }) }))).toBe(
      "40 of 133 frames changed, 1.2 cm on average · findings 4 → 1 · slide 3.2 → 0.1 cm",
    );
    expect(outcomeWords(outcome({ after: figures({ findings: 4 }) }))).toBe("nothing moved · 4 findings");
  });

  it("tells length and body where they are others", () => {
    const other = figures({ frames: 151, joints: 40, plan: "quadruped", findings: 1 });
    expect(outcomeWords(outcome({ changedFrames: null, movedCm: null, after: other }))).toBe(
      "133 f (4.40 s) → 151 f (5.00 s) · 52 → 40 joints · two legs → four legs · findings 4 → 1",
    );
  });

  it("tells a range in frames", () => {
    expect([rangeWords({ start: 1, end: 1.5 }, 30), rangeWords(null, 30)]).toEqual(["30–45 f", "whole clip"]);
  });
});
