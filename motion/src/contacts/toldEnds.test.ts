import { describe, expect, it } from "vitest";
import { ROLLING, rollingFoot } from "../testing/rollingFoot.ts";
import { type PartSpans, toldEnds } from "./toldEnds.ts";

const FPS = 60;
const MOST = { out: 5, in: 12 };
/** Eight stands of a foot that turns exactly as it rolls: flat from the eighth frame on, and its heel leaves after the twenty-eighth. */
const FOOT = rollingFoot(8, 0, 1);
const STARTS = Array.from({ length: 8 }, (_, i) => ROLLING.first + ROLLING.every * i);

function parts(heel: readonly [number, number], toe: readonly [number, number], toeHides: boolean): PartSpans[] {
  const sole = FOOT;
  const course = new Float64Array(FOOT.track.frameCount * 3);
  const spans = ([from, to]: readonly [number, number]) => STARTS.map((s): [number, number] => [s + from, s + to]);
  return [
    { sole, id: "leftHeel", spans: spans(heel), course, noise: 0, hidden: true, soft: false },
    { sole, id: "leftToe", spans: spans(toe), course, noise: 0, hidden: toeHides, soft: false },
  ];
}

describe("ends of a foot whose heel is only estimated", () => {
  it("has its heel leave when the foot turns, not when the estimated place has moved", () => {
    const told = toldEnds(parts([0, 31], [8, 39], false), FPS, MOST);
    for (const [i, { end }] of (told.get("leftHeel") ?? []).entries()) expect(Math.abs(end - STARTS[i] - 28)).toBeLessThanOrEqual(1);
  });

  it("has a toe that shows its ends moved by a frame at most, and one that hides them by more", () => {
    const [shown, hidden] = [false, true].map((hides) => toldEnds(parts([0, 28], [3, 39], hides), FPS, MOST).get("leftToe") ?? []);
    for (const [i, { start }] of shown.entries()) expect(start).toBe(STARTS[i] + 3);
    for (const [i, { start }] of hidden.entries()) expect(Math.abs(start - STARTS[i] - 8)).toBeLessThanOrEqual(2);
    const near = toldEnds(parts([0, 28], [7, 39], false), FPS, MOST).get("leftToe") ?? [];
    for (const [i, { start }] of near.entries()) expect(Math.abs(start - STARTS[i] - 8)).toBeLessThanOrEqual(1);
  });

  it("is told nothing by feet of one part: spans stay as they show", () => {
    const [heel] = parts([0, 28], [8, 39], false);
    const told = toldEnds([{ ...heel, hidden: false }], FPS, MOST).get("leftHeel");
    expect(told).toEqual(STARTS.map((s) => ({ start: s, end: s + 28, doubtful: [0, 0] })));
  });
});
