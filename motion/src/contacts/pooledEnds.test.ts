import { describe, expect, it } from "vitest";
import { normalNumbers } from "../testing/noise.ts";
import { pooledEnds } from "./pooledEnds.ts";

/** A part that rests from one moment to another (frames, with fractions), stride after stride, 0.7 m further each time; in between it goes as the power of the time says, at either end. */
function strides(stands: readonly (readonly [number, number])[], frames: number, power: number, noise: number, seed: number): Float64Array {
  const normal = normalNumbers(seed);
  const out = new Float64Array(frames * 3);
  const swing = (u: number) => (u < 0.5 ? 2 ** (power - 1) * u ** power : 1 - 2 ** (power - 1) * (1 - u) ** power);
  for (let f = 0; f < frames; f++) {
    const next = stands.findIndex(([, end]) => f <= end);
    const [i, u] =
      next < 0
        ? [stands.length - 1, 0]
        : f >= stands[next][0]
          ? [next, 0]
          : next === 0
            ? [0, 0]
            : [next - 1, (f - stands[next - 1][1]) / (stands[next][0] - stands[next - 1][1])];
    out[f * 3] = 0.7 * (i + swing(u)) + noise * normal();
    out[f * 3 + 1] = 0.25 * u * u * (1 - u) ** 2 + noise * normal();
    out[f * 3 + 2] = noise * normal();
  }
  return out;
}

/** Twelve stands of 18 frames or so that begin anywhere within a frame, swings of 12 between them. */
const STANDS = Array.from({ length: 12 }, (_, i): [number, number] => [20 + i * 30.37, 38.2 + i * 30.37]);
const FRAMES = 20 + 12 * 31;
const FIRST_AND_LAST = STANDS.map(([from, to]): [number, number] => [Math.ceil(from), Math.floor(to)]);
const MOST = { out: 3, in: 6 };
const part = (course: Float64Array, noise: number) => ({ course, noise, fps: 30, legLength: 0.9 });

/** Spans as a coarse look has them: too long by turns. */
const coarse = (by: (i: number) => readonly [number, number]) => FIRST_AND_LAST.map(([a, b], i): [number, number] => [a - by(i)[0], b + by(i)[1]]);
const LONG = coarse((i) => [i % 3, (i + 1) % 3]);

/** Mean distance of found ends from the true ones, frames. */
function off(found: readonly { readonly start: number; readonly end: number }[], seen = (_: number) => true): number {
  const each = found.flatMap(({ start, end }, i) => (seen(i) ? [Math.abs(start - FIRST_AND_LAST[i][0]), Math.abs(end - FIRST_AND_LAST[i][1])] : []));
  return each.reduce((a, b) => a + b, 0) / each.length;
}

describe("ends of the spans of a trembling part", () => {
  // What goes with the cube of the time has hardly moved after two frames.
  it.each([
    [1.5, 0.34],
    [2, 0.34],
    [2.5, 0.34],
    [3, 0.65],
  ])("are off by less than the given frames in the mean where it leaves with the power %d of the time: %d", (power, most) => {
    expect(off(LONG.map(([start, end]) => ({ start, end })))).toBeGreaterThan(0.9);
    const each = [1, 2, 3, 4].map((seed) => off(pooledEnds(LONG, part(strides(STANDS, FRAMES, power, 0.006, seed), 0.006), MOST)));
    expect(each.reduce((a, b) => a + b, 0) / 4).toBeLessThan(most);
  });

  it("are found better from many than from one", () => {
    const alone = (seed: number) => {
      const course = strides(STANDS, FRAMES, 2, 0.008, seed);
      return off(LONG.map((span) => pooledEnds([span], part(course, 0.008), MOST)[0]));
    };
    const together = (seed: number) => off(pooledEnds(LONG, part(strides(STANDS, FRAMES, 2, 0.008, seed), 0.008), MOST));
    const sum = (of: (seed: number) => number) => [1, 2, 3, 4, 5, 6].reduce((all, seed) => all + of(seed), 0);
    expect(sum(together)).toBeLessThan(0.8 * sum(alone));
  });

  it("are not led astray by a few that leave much more slowly", () => {
    const slow = STANDS.map(([a, b], i): [number, number] => [a + (i > 8 ? 40 * (i - 8) : 0), b + (i > 8 ? 40 * (i - 8) : 0)]);
    const spans = slow.map(([a, b]): [number, number] => [Math.ceil(a) - 1, Math.floor(b) + 1]);
    const found = pooledEnds(spans, part(strides(slow, FRAMES + 140, 2, 0.006, 3), 0.006), MOST);
    // The first nine are as they were.
    const first = found.slice(0, 9).map(({ start, end }, i) => Math.abs(start - FIRST_AND_LAST[i][0]) + (i < 8 ? Math.abs(end - FIRST_AND_LAST[i][1]) : 0));
    expect(first.reduce((a, b) => a + b, 0) / 17).toBeLessThan(0.4);
  });

  it("stay where the clip begins and ends, and move by no more than they may", () => {
    const course = strides(STANDS, FRAMES, 2, 0.004, 5);
    const [first] = pooledEnds([[0, 39]], part(course, 0.004), MOST);
    expect(first.start).toBe(0);
    const [last] = pooledEnds([[STANDS.length * 30, FRAMES - 1]], part(course, 0.004), MOST);
    expect(last.end).toBe(FRAMES - 1);
    for (const [i, { start, end }] of pooledEnds(
      coarse(() => [4, 4]),
      part(course, 0.004),
      { out: 1, in: 2 },
    ).entries()) {
      expect(start - (FIRST_AND_LAST[i][0] - 4)).toBeLessThanOrEqual(2);
      expect(FIRST_AND_LAST[i][1] + 4 - end).toBeLessThanOrEqual(2);
    }
  });

  it("are the same whichever way the body goes, and against time", () => {
    const course = strides(STANDS, FRAMES, 2, 0.006, 7);
    const found = pooledEnds(LONG, part(course, 0.006), MOST);
    const [c, s] = [Math.cos(1.1), Math.sin(1.1)];
    const turned = course.map((_, i) => {
      const [x, y, z] = course.subarray(i - (i % 3), i - (i % 3) + 3);
      return [c * x + s * z + 4, y - 1, c * z - s * x][i % 3];
    });
    expect(pooledEnds(LONG, part(turned, 0.006), MOST)).toEqual(found);
    const back = course.map((_, i) => course[(FRAMES - 1 - Math.floor(i / 3)) * 3 + (i % 3)]);
    const against = pooledEnds(LONG.map(([a, b]): [number, number] => [FRAMES - 1 - b, FRAMES - 1 - a]).reverse(), part(back, 0.006), MOST).reverse();
    expect(against.map(({ start, end }) => [FRAMES - 1 - end, FRAMES - 1 - start])).toEqual(found.map(({ start, end }) => [start, end]));
  });

  it("are in doubt the more, the more it trembles, and cover the truth with their doubt", () => {
    const found = (noise: number) => pooledEnds(LONG, part(strides(STANDS, FRAMES, 2, noise, 9), noise), MOST);
    const doubt = (noise: number) => found(noise).reduce((sum, { doubtful }) => sum + doubtful[0] + doubtful[1], 0);
    expect(doubt(0.0005)).toBeLessThan(doubt(0.006));
    expect(doubt(0.006)).toBeLessThan(doubt(0.012));
    const short = found(0.006).filter(({ start, end, doubtful }, i) => start - doubtful[0] > FIRST_AND_LAST[i][0] || end + doubtful[1] < FIRST_AND_LAST[i][1]);
    expect(short.length).toBeLessThanOrEqual(1);
  });
});
