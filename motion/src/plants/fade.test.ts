import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type FadeSpan, fadeBetween } from "./fade.ts";

const N = 60;
/** Values [frame][3] that are `v` of the frame inside spans on every axis, garbage outside. */
function filled(spans: readonly FadeSpan[], v: (frame: number, axis: number) => number): Float64Array {
  const values = new Float64Array(N * 3).fill(77);
  for (const { start, end } of spans) for (let f = start; f <= end; f++) for (let axis = 0; axis < 3; axis++) values[f * 3 + axis] = v(f, axis);
  return values;
}
const lane = (values: Float64Array, axis: number) => Array.from({ length: N }, (_, f) => values[f * 3 + axis]);

/** Outside ramps nothing is written: the caller's zeros stay. */
function faded(spans: readonly FadeSpan[], v: (frame: number, axis: number) => number): Float64Array {
  const values = filled(spans, v);
  for (let f = 0; f < N; f++) if (!spans.some((s) => f >= s.start && f <= s.end)) values.fill(0, f * 3, f * 3 + 3);
  fadeBetween(values, N, spans);
  return values;
}

describe("fading between spans", () => {
  it("comes in over the ramp in and goes out over the ramp out, each of its own length, to exactly nothing", () => {
    const y = lane(
      faded([{ start: 20, end: 30, rampIn: 4, rampOut: 9 }], () => 2),
      1,
    );
    for (let f = 20; f <= 30; f++) expect(y[f]).toBe(2);
    expect(y.slice(0, 16)).toEqual(Array(16).fill(0));
    expect(y.slice(40)).toEqual(Array(20).fill(0));
    for (const f of [16, 17, 18, 19]) expect(y[f] > 0 && y[f] < 2, `frame ${f}`).toBe(true);
    for (let f = 31; f <= 39; f++) expect(y[f] > 0 && y[f] < 2, `frame ${f}`).toBe(true);
    // Half-way it is half there: the quintic step is symmetric.
    const even = lane(
      faded([{ start: 20, end: 30, rampIn: 5, rampOut: 5 }], () => 1),
      0,
    );
    expect(even[17]).toBeCloseTo(0.5, 9);
    expect(even[33]).toBeCloseTo(0.5, 9);
  });

  it("leaves a span with the span's own speed on each axis", () => {
    const speeds = [0.3, -0.2, 0];
    const values = faded([{ start: 20, end: 40, rampIn: 12, rampOut: 12 }], (f, axis) => 1 + speeds[axis] * (f - 30));
    for (const axis of [0, 1, 2]) {
      const v = lane(values, axis);
      // One frame outside it is where its speed has taken it, but for the little that the ramp bends by then.
      expect(Math.abs(v[41] - (v[40] + speeds[axis]))).toBeLessThan(0.05);
      expect(Math.abs(v[19] - (v[20] - speeds[axis]))).toBeLessThan(0.05);
    }
  });

  it("leaves it with the speed of its last frame where that is more than trembling explains, with that of the last two where it is not", () => {
    const spans = [{ start: 20, end: 40, rampIn: 12, rampOut: 12 }];
    const bent = (trembles: number) => {
      const values = filled(spans, (f) => (f === 40 ? 1.3 : f === 20 ? 0.7 : 1));
      fadeBetween(values, N, spans, { frames: 0, trembles });
      return lane(values, 1);
    };
    for (const v of [bent(0), bent(0.01)]) {
      expect(Math.abs(v[41] - v[40] - 0.3)).toBeLessThan(0.06);
      expect(Math.abs(v[19] - v[20] + 0.3)).toBeLessThan(0.06);
    }
    expect(bent(0.5)[41] - bent(0.5)[40]).toBeLessThan(0.2);
  });

  it("goes straight from one span to the next where their ramps would meet, and to nothing where they would not", () => {
    const near = [
      { start: 10, end: 20, rampIn: 3, rampOut: 5 },
      { start: 28, end: 40, rampIn: 2, rampOut: 5 },
    ];
    const joined = lane(
      faded(near, () => 1),
      2,
    );
    for (let f = 20; f <= 28; f++) expect(joined[f]).toBeCloseTo(1, 12);
    const far = [near[0], { ...near[1], start: 30, end: 42 }];
    const parted = lane(
      faded(far, () => 1),
      2,
    );
    expect(parted[26]).toBe(0);
    expect(parted[27]).toBe(0);
    expect(parted[28]).toBeGreaterThan(0);
  });

  it("is whole up to the clip's ends where a span lies near them", () => {
    const v = lane(
      faded(
        [
          { start: 2, end: 10, rampIn: 6, rampOut: 2 },
          { start: 50, end: 57, rampIn: 2, rampOut: 6 },
        ],
        () => 1,
      ),
      0,
    );
    for (const f of [0, 1, 58, 59]) expect(v[f] > 0.2 && v[f] < 1, `frame ${f}`).toBe(true);
  });

  it("stays between what it leads from and to when both are still (property)", () => {
    fc.assert(
      fc.property(fc.double({ min: -2, max: 2, noNaN: true }), fc.double({ min: -2, max: 2, noNaN: true }), fc.integer({ min: 1, max: 12 }), (a, b, gap) => {
        const spans = [
          { start: 5, end: 15, rampIn: 3, rampOut: 6 },
          { start: 15 + gap, end: 45, rampIn: 6, rampOut: 3 },
        ];
        const v = lane(
          faded(spans, (f) => (f <= 15 ? a : b)),
          0,
        );
        for (let f = 15; f <= 15 + gap; f++) {
          expect(v[f]).toBeGreaterThanOrEqual(Math.min(a, b) - 1e-9);
          expect(v[f]).toBeLessThanOrEqual(Math.max(a, b) + 1e-9);
        }
      }),
    );
  });
});

describe("the end of a span that trembles", () => {
  const spans = [
    { start: 5, end: 20, rampIn: 30, rampOut: 30 },
    { start: 50, end: 58, rampIn: 30, rampOut: 30 },
  ];
  /** One centimetre throughout, but on the last frame of the first span. */
  const lastFrameOff = (off: number) => (f: number) => (f === 20 ? 0.01 + off : 0.01);
  const between = (off: number, trembles: number) => {
    const values = filled(spans, lastFrameOff(off));
    fadeBetween(values, N, spans, { frames: 4, trembles });
    return lane(values, 1);
  };

  it("is let go within so many frames, and the span's mean is carried on", () => {
    const y = between(0.004, 0.004);
    expect(y[20]).toBe(0.014);
    expect(y[21] > y[24], "on its way").toBe(true);
    // The mean of the last five frames over the swing to the next span's.
    for (let f = 24; f < 50; f++) expect(Math.abs(y[f] - 0.01), `frame ${f}`).toBeLessThan(0.001);
    // Taken for the foot's own movement it swings out by more than it differs.
    expect(Math.max(...between(0.004, 0).slice(21, 50)) - 0.01).toBeGreaterThan(0.008);
  });

  it("is the foot's own movement where it is far more than the trembling, with nothing that jumps on the way there", () => {
    expect(between(0.004, 0.0001)).toEqual(between(0.004, 0));
    for (let t = 0.0002; t < 0.002; t += 0.00001) {
      const [a, b] = [between(0.004, t), between(0.004, t + 0.00001)];
      for (let f = 21; f < 50; f++) expect(Math.abs(a[f] - b[f]), `${t} ${f}`).toBeLessThan(0.0008);
    }
  });
});
