import { describe, expect, it } from "vitest";
import type { Sole } from "../character/soles.ts";
import { type PartSpans, toldEnds } from "./toldEnds.ts";

const FPS = 60;
const MOST = { out: 5, in: 12 };
const STRIDE = 60;
const STARTS = Array.from({ length: 8 }, (_, i) => 10 + STRIDE * i);
const FRAMES = STARTS.length * STRIDE + 20;

/** Eight stands: the heel comes down with the foot up by 20°, the foot rolls flat within 8 frames, and its heel leaves after 28: a foot that turns exactly so. */
function foot(): Sole {
  const rotations = new Float32Array(FRAMES * 4);
  for (let f = 0; f < FRAMES; f++) {
    const k = (f - 10) % STRIDE;
    const pitch = f < 10 || k >= 40 ? 0.5 : k < 8 ? 0.35 * (1 - k / 8) ** 2 : k > 28 ? -0.6 * ((k - 28) / 12) ** 2 : 0;
    rotations.set([Math.sin(-pitch / 2), 0, 0, Math.cos(pitch / 2)], f * 4);
  }
  const place = (id: string, z: number) => ({ id, local: [0, -0.08, z] as const, modelled: id === "leftToe", clearance: 0 });
  return {
    leg: {} as Sole["leg"],
    track: { frameCount: FRAMES, positions: new Float64Array(FRAMES * 3), rotations },
    unseen: new Set(),
    points: [place("leftHeel", -0.05), place("leftToe", 0.13)],
    along: null,
    flat: [],
    upLocal: [0, 1, 0],
    legLength: 0.9,
    expected: 0,
  };
}

function parts(heel: readonly [number, number], toe: readonly [number, number], toeHides: boolean): PartSpans[] {
  const sole = foot();
  const course = new Float64Array(FRAMES * 3);
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
