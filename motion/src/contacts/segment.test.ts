import { describe, expect, it } from "vitest";
import { calmingFor, middlePoint, plainAway, refineSpan, restAtUnseen, restlessness, segmentContacts, smoothedNoise, smoothTrack } from "./segment.ts";

const FPS = 60;
const LEG = 0.9;
/** Rests and swings by turns, frames: the truth of the course below. */
const RESTS = [
  [0, 29],
  [60, 99],
  [130, 199],
] as const;
const N = 200;

/** A foot that rests at 0, 0.7 and 1.4 m and swings 8 cm high in between; `wobble` metres of seeded noise on every axis. */
function course(wobble = 0, creep = 0): Float64Array {
  const out = new Float64Array(N * 3);
  let seed = 5;
  const noise = () => {
    let sum = 0;
    for (let k = 0; k < 12; k++) {
      seed = (seed * 1664525 + 1013904223) % 4294967296;
      sum += seed / 4294967296;
    }
    return wobble * (sum - 6);
  };
  for (let f = 0; f < N; f++) {
    const next = RESTS.findIndex(([, end]) => f <= end);
    const [start] = RESTS[next];
    const resting = f >= start;
    const from = resting ? start : RESTS[next - 1][1] + 1;
    const u = resting ? 0 : (f - from + 1) / (start - from + 1);
    out[f * 3] = noise();
    out[f * 3 + 1] = (resting ? 0 : 0.08 * Math.sin(Math.PI * u) ** 2) + noise();
    out[f * 3 + 2] = (resting ? 0.7 * next + creep * (f - start) : 0.7 * (next - 1) + 0.35 * (1 - Math.cos(Math.PI * u))) + noise();
  }
  return out;
}

const found = (track: Float64Array, height: Float64Array | null = null) =>
  segmentContacts({ track, height, frameCount: N, fps: FPS, legLength: LEG, speedShare: 0.14, calm: calmingFor(track, N, FPS) });
const heights = (track: Float64Array) => Float64Array.from({ length: N }, (_, f) => track[f * 3 + 1]);
/** Largest difference of any end from the truth, frames; all spans have to be there. */
const off = (spans: readonly (readonly [number, number])[]) => {
  expect(spans).toHaveLength(RESTS.length);
  return Math.max(...spans.flatMap(([a, b], i) => [Math.abs(a - RESTS[i][0]), Math.abs(b - RESTS[i][1])]));
};

describe("splitting a course into rest and movement", () => {
  it("finds the rests of a clean foot within a few frames, with a floor or without", () => {
    const track = course();
    expect(off(found(track))).toBeLessThanOrEqual(4);
    expect(off(found(track, heights(track)))).toBeLessThanOrEqual(4);
  });

  it("finds them while it skates and while it trembles", () => {
    expect(off(found(course(0, 0.001)))).toBeLessThanOrEqual(5);
    const shaky = course(0.003);
    expect(off(found(shaky, heights(shaky)))).toBeLessThanOrEqual(6);
  });

  it("takes a foot far over its floor for one in flight, however slow", () => {
    const track = course();
    const high = heights(track).map((h, f) => (f >= 60 && f <= 99 ? h + 0.2 : h));
    expect(found(track, high).some(([a, b]) => a <= 80 && b >= 80)).toBe(false);
    // A few millimetres are nothing.
    const near = heights(track).map((h, f) => (f >= 60 && f <= 99 ? h + 0.005 : h));
    expect(found(track, near)).toHaveLength(3);
  });

  it("believes no rest of a few frames within a swing, and bridges a gap of as few within a rest", () => {
    const track = course();
    for (let f = 44; f <= 46; f++) for (let i = 0; i < 3; i++) track[f * 3 + i] = track[44 * 3 + i];
    expect(off(found(track))).toBeLessThanOrEqual(4);
    const kicked = course();
    kicked[170 * 3] += 0.03;
    expect(off(found(kicked, heights(kicked)))).toBeLessThanOrEqual(5);
  });
});

describe("the ends of a span", () => {
  const tolerance = { grow: 0.001, trim: 0.001, landing: 0, ends: 0 };
  const most = { out: 8, in: 12 };
  const all = [0, N - 1] as const;

  it("are moved to where the part reaches and leaves its place, from inside and from outside", () => {
    const track = course();
    for (const guess of [
      [64, 95],
      [56, 103],
      [60, 99],
    ] as const) {
      const [a, b] = refineSpan(track, guess, all, tolerance, most, plainAway(track, 0)) ?? [0, 0];
      // The first and last frames of the swing lie within a millimetre of the place still.
      expect(a).toBeGreaterThanOrEqual(58);
      expect(a).toBeLessThanOrEqual(60);
      expect(b).toBeGreaterThanOrEqual(99);
      expect(b).toBeLessThanOrEqual(101);
    }
  });

  it("move by no more than they may, and never beyond their bounds", () => {
    const track = course();
    const [a, b] = refineSpan(track, [75, 85], all, tolerance, { out: 3, in: 3 }, plainAway(track, 0)) ?? [0, 0];
    expect([a, b]).toEqual([72, 88]);
    const [c, d] = refineSpan(track, [70, 90], [66, 94], tolerance, most, plainAway(track, 0)) ?? [0, 0];
    expect([c, d]).toEqual([66, 94]);
  });

  it("are trimmed of what leaves, which may be told otherwise than what it grows by", () => {
    const track = course();
    const away = plainAway(track, 0);
    const ends = (leaves: typeof away) => refineSpan(track, [52, 106], all, tolerance, most, away, leaves);
    const [a, b] = ends(away) ?? [0, 0];
    expect([a > 56, b < 103]).toEqual([true, true]);
    expect(ends((f, rest) => 0 * away(f, rest))).toEqual([52, 106]);
  });

  it("leave nothing where it never rests", () => {
    const moving = Float64Array.from({ length: N * 3 }, (_, i) => (i % 3 === 2 ? 0.02 * Math.floor(i / 3) : 0));
    expect(refineSpan(moving, [80, 90], all, { ...tolerance, grow: 0, trim: 0.0001 }, most, plainAway(moving, 0))).toBeUndefined();
  });

  it("reach the clip's own ends where the part is still there", () => {
    const track = course();
    expect(refineSpan(track, [5, 25], all, tolerance, most, plainAway(track, 0))?.[0]).toBe(0);
    expect(refineSpan(track, [140, 195], all, tolerance, most, plainAway(track, 0))?.[1]).toBe(N - 1);
  });

  it("reach them also where the first frames, which no smoothing calms, are off by no more than their noise", () => {
    const track = course();
    for (const [f, off] of [5, -6, 5, -5].entries()) track[f * 3 + 2] += off / 1000;
    expect(refineSpan(track, [8, 25], all, tolerance, most, plainAway(track, 0))?.[0]).toBe(4);
    expect(refineSpan(track, [8, 25], all, { ...tolerance, ends: 0.0055 }, most, plainAway(track, 0))?.[0]).toBe(4);
    expect(refineSpan(track, [8, 25], all, { ...tolerance, ends: 0.007 }, most, plainAway(track, 0))?.[0]).toBe(0);
  });

  it("count a height only beyond what the body may heave by", () => {
    const track = course();
    for (let f = 60; f <= 99; f++) track[f * 3 + 1] += 0.01 * Math.sin(f / 3);
    const strict = refineSpan(track, [70, 90], all, tolerance, most, plainAway(track, 0));
    const slack = refineSpan(track, [70, 90], all, tolerance, most, plainAway(track, 0.012)) ?? [0, 0];
    expect(slack[0]).toBeLessThanOrEqual(62);
    expect(slack[1]).toBeGreaterThanOrEqual(97);
    expect((strict?.[1] ?? 0) - (strict?.[0] ?? 0)).toBeLessThan(slack[1] - slack[0]);
  });
});

describe("noise of a course", () => {
  it("is read off it, and says how far it has to be calmed", () => {
    expect(calmingFor(course(), N, FPS).noise).toBeLessThan(1e-4);
    const { noise, cutoff } = calmingFor(course(0.004), N, FPS);
    expect(noise).toBeGreaterThan(0.0025);
    expect(noise).toBeLessThan(0.0055);
    expect(cutoff).toBeLessThan(calmingFor(course(), N, FPS).cutoff);
    // What a low-pass leaves of it: in proportion to the noise, and more with a wider one.
    expect(smoothedNoise(0.002, 6, FPS)).toBeCloseTo(2 * smoothedNoise(0.001, 6, FPS), 12);
    expect(smoothedNoise(0.002, 12, FPS)).toBeGreaterThan(smoothedNoise(0.002, 6, FPS));
  });

  it("is what a part stirs by in the inner half of a span, each axis", () => {
    const sigma = 0.003;
    const shaky = course(sigma);
    expect(restlessness(shaky, [130, 199], plainAway(shaky, 0))).toBeGreaterThan(0.7 * sigma);
    expect(restlessness(shaky, [130, 199], plainAway(shaky, 0))).toBeLessThan(1.3 * sigma);
    expect(restlessness(course(), [130, 199], plainAway(course(), 0))).toBeLessThan(1e-12);
    // At its ends it moves: that is not restlessness.
    expect(restlessness(course(), [125, 199], plainAway(course(), 0))).toBeLessThan(1e-12);
  });

  it("is smaller once it is smoothed, and its slow path stays", () => {
    const smooth = smoothTrack(course(0.004), N, FPS, 5);
    expect(restlessness(smooth, [130, 199], plainAway(smooth, 0))).toBeLessThan(0.5 * 0.004);
    expect(Math.abs(smooth[165 * 3 + 2] - 1.4)).toBeLessThan(0.005);
  });
});

it("the middle of some frames is the median on each axis", () => {
  const track = Float64Array.of(0, 9, 9, 5, 1, 9, 1, 2, 0, 2, 100, 3, 9, 9, 9);
  expect(middlePoint(track, 1, 3)).toEqual([2, 2, 3]);
  expect(middlePoint(track, 2, 3)).toEqual([1.5, 51, 1.5]);
  expect(middlePoint(track, 4, 4)).toEqual([9, 9, 9]);
});

describe("a foot at a frame at which it was not seen", () => {
  /** Rests at 0 and from frame `leaves` on speeds up, 3 mm on the first frame and with that power of the time; skates by `skates` a frame; filled in at frame 10 by the cubic of its neighbours. */
  const leaving = (leaves: number, power: number, skates = 0, mirrored = false) => {
    const at = (f: number) => [skates * f, 0, 0.003 * Math.max(0, f - leaves) ** power];
    const track = new Float64Array(21 * 3);
    for (let f = 0; f < 21; f++) track.set(at(mirrored ? 20 - f : f), f * 3);
    const seen = track.slice(30, 33);
    for (let i = 0; i < 3; i++) track[30 + i] = (4 * (track[27 + i] + track[33 + i]) - track[24 + i] - track[36 + i]) / 6;
    const off = () => 1000 * Math.hypot(...[0, 1, 2].map((i) => track[30 + i] - seen[i]));
    return { track, off };
  };

  it.each([
    [10, 3, 0, false],
    [10.4, 2, 0, false],
    [10, 3, 0, true],
    [10, 3, 0.0005, false],
  ])("rests where it leaves or lands on it (from %d, power %d, skating %d, mirrored %s)", (leaves, power, skates, mirrored) => {
    const { track, off } = leaving(leaves, power, skates, mirrored);
    expect(off()).toBeGreaterThan(0.05);
    restAtUnseen(track, [10]);
    expect(off()).toBeLessThan(1e-9);
  });

  it.each([
    [8, false],
    [9.5, false],
    [8.5, true],
  ])("is left as it was filled in where it moves already (from %d, mirrored %s)", (leaves, mirrored) => {
    const { track } = leaving(leaves, 2, 0, mirrored);
    const before = track.slice();
    restAtUnseen(track, [10, 0, 1, 19, 20]);
    expect(track).toEqual(before);
  });
});
