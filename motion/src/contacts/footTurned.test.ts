import { describe, expect, it } from "vitest";
import { ROLLING, rollingFoot } from "../testing/rollingFoot.ts";
import { downOn, flattest, heelUp } from "./footTurned.ts";

const FPS = 60;
const LEVEL = { slopeX: 0, slopeZ: 0 };
/** Four stands of 40 frames: it comes down on its heel, lies flat from the eighth frame on, and is on its toe after the twenty-eighth. */
const FOOT = { ...rollingFoot(4, 0, 1), along: [0, 0, 0.18] as [number, number, number] };
const STARTS = Array.from({ length: 4 }, (_, i) => ROLLING.first + ROLLING.every * i);
const toes = STARTS.map((s) => [s + 8, s + 39] as const);
const heels = STARTS.map((s) => [s, s + 28] as const);
const last = FOOT.track.frameCount - 1;

/** The same foot in a clip that begins, or ends, within its last stand. */
function cut(from: number, to: number) {
  const rotations = FOOT.track.rotations.slice(from * 4, (to + 1) * 4);
  return { ...FOOT, track: { frameCount: to - from + 1, positions: new Float64Array((to - from + 1) * 3), rotations } };
}

describe("a foot's heel against its toe", () => {
  it("is below it as it lands, level where it lies flat, and above it as it leaves", () => {
    const [s] = STARTS;
    expect(heelUp(FOOT, [s, s + 1], LEVEL)).toBeLessThan(-0.04);
    expect(heelUp(FOOT, [s + 10, s + 26], LEVEL)).toBeCloseTo(0, 6);
    expect(heelUp(FOOT, [s + 36, s + 39], LEVEL)).toBeGreaterThan(0.04);
    expect(heelUp({ ...FOOT, along: null }, [s, s + 1], LEVEL)).toBe(0);
  });

  it("is as the ground has it that it lies on", () => {
    const rises = { slopeX: 0, slopeZ: 0.1 };
    expect(heelUp(FOOT, [STARTS[0] + 10, STARTS[0] + 26], rises)).toBeCloseTo(0.018, 6);
  });

  it("is level where it comes down flattest, by its toe and by its heel", () => {
    expect(flattest(FOOT, toes, "toe", LEVEL)).toBeCloseTo(0, 6);
    expect(flattest(FOOT, heels, "heel", LEVEL)).toBeCloseTo(0, 6);
    expect(flattest(FOOT, [], "toe", LEVEL)).toBeNull();
    expect(flattest({ ...FOOT, along: null }, toes, "toe", LEVEL)).toBeNull();
  });
});

describe("a part of a foot at a clip's end", () => {
  const [s] = STARTS;

  it("is not down on a toe that is still coming down", () => {
    const ends = cut(0, s + 4);
    expect(downOn(ends, [s, s + 4], "toe", 0, FPS, LEVEL)).toBeNull();
    const lies = cut(0, s + 16);
    const span = downOn(lies, [s + 2, s + 16], "toe", 0, FPS, LEVEL);
    expect(span?.[1]).toBe(s + 16);
    expect(span?.[0]).toBeGreaterThan(s + 3);
  });

  it("is not down on a heel that the foot has rolled off", () => {
    expect(downOn(cut(s + 34, last), [0, 4], "heel", 0, FPS, LEVEL)).toBeNull();
    const leaves = downOn(cut(s + 20, last), [0, 13], "heel", 0, FPS, LEVEL);
    expect(leaves?.[0]).toBe(0);
    expect(leaves?.[1]).toBeLessThan(13);
  });

  it("stays as it is found inside the clip, and where it is long", () => {
    expect(downOn(FOOT, [s + 2, s + 16], "toe", 0, FPS, LEVEL)).toEqual([s + 2, s + 16]);
    expect(downOn(cut(0, s + 30), [s, s + 30], "toe", 0, FPS, LEVEL)).toEqual([s, s + 30]);
  });
});
