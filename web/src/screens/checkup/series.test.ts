import { type Clocks, cropWarp } from "@stride/motion";
import { describe, expect, it } from "vitest";
import type { MotionFigures, MotionView } from "../../worker/views.ts";
import { footHeights, inResultsTime, slidesByStep, travelSpeed } from "./series.ts";

/** Two joints: hips that go along x at a speed, and a foot that rises a centimetre a frame. */
function walking(frameCount: number, fps: number, speed: number): MotionView {
  const positions = new Float32Array(frameCount * 6);
  for (let f = 0; f < frameCount; f++) positions.set([(speed * f) / fps, 1, 0, 0, f / 100, 0], f * 6);
  return { frameCount, fps, jointCount: 2, positions } as unknown as MotionView;
}

const span = (point: string, start: number, end: number, slideCm: number) => ({ contact: { point, start, end }, slideCm });
const figures = (...spans: ReturnType<typeof span>[]) => ({ spans }) as unknown as MotionFigures;
const still: Clocks = { fps: 30, seconds: 3, warps: [], receives: {} };

describe("the report's series", () => {
  it("read heights in centimetres and speed in metres a second, to both ends", () => {
    expect(footHeights(walking(5, 30, 1), 1).map((v) => Math.round(v * 100) / 100)).toEqual([0, 1, 2, 3, 4]);
    for (const [fps, frames] of [
      [30, 40],
      [120, 200],
      [24, 2],
    ])
      for (const speed of travelSpeed(walking(frames, fps, 1.4), 0)) expect(speed).toBeCloseTo(1.4, 4);
  });

  it("set each contact's slide before beside that of the same contact after", () => {
    const before = figures(span("leftToe", 10, 30, 8), span("leftToe", 40, 60, 7), span("rightHeel", 12, 30, 6));
    const after = figures(span("leftToe", 11, 29, 0.1), span("rightHeel", 12, 30, 0.2));
    expect(slidesByStep(before, after, still)).toEqual(
      [
        { label: "L toe 10", point: "leftToe", before: 8, after: 0.1 },
        { label: "L toe 40", point: "leftToe", before: 7, after: null },
        { label: "R heel 12", point: "rightHeel", before: 6, after: 0.2 },
      ].map((s) => ({ ...s, label: s.label.toLowerCase() })),
    );
  });

  it("follow a trim: what it cut away has no after, what it moved is found", () => {
    const trimmed: Clocks = { fps: 30, seconds: 3, warps: [cropWarp(1, 3)], receives: {} };
    const before = figures(span("leftToe", 5, 20, 8), span("leftToe", 40, 60, 7));
    const after = figures(span("leftToe", 10, 30, 0.3));
    expect(slidesByStep(before, after, trimmed).map((s) => s.after)).toEqual([null, 0.3]);
  });
});

describe("a series of the source", () => {
  it("is read at the moments that the result shows", () => {
    const slow = { seconds: 2, pieces: [{ outStart: 0, outEnd: 2, inStart: 0, inEnd: 1 }] };
    const clocks = { fps: 4, seconds: 1, warps: [slow], receives: {} };
    expect(inResultsTime([0, 10, 20, 30, 40], clocks, 9)).toEqual([0, 10, 10, 20, 20, 30, 30, 40, 40]);
  });
});
