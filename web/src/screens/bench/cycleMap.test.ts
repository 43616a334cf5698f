import { describe, expect, it } from "vitest";
import { mapColumns, nearestLow } from "./cycleMap.ts";

/** Moments of a motion that comes back every 20 of 61 steps, 0.05 s each. */
const SIZE = 61;
const apart = new Float32Array(SIZE * SIZE);
for (let a = 0; a < SIZE; a++) for (let b = 0; b < SIZE; b++) apart[a * SIZE + b] = Math.abs(Math.sin((Math.PI * (b - a)) / 20));
const map = { size: SIZE, seconds: 3, apart };

describe("the picture of cycles", () => {
  it("is dark where a cycle would close, and empty below the diagonal and beside it", () => {
    const dark = mapColumns(map);
    const at = (from: number, to: number) => dark[(SIZE - 1 - to) * SIZE + from];
    expect(at(10, 30)).toBeCloseTo(1, 5);
    expect(at(10, 20)).toBe(0);
    expect(at(30, 10)).toBe(0);
    expect(at(10, 12)).toBe(0);
  });

  it("takes the nearest low of a press, and nothing where there can be no cycle", () => {
    const low = nearestLow(map, 10 / 60, 29 / 60);
    expect(low && low.to - low.from).toBeCloseTo(1, 9);
    expect(nearestLow(map, 0.8, 0.2)).toBeNull();
  });
});
