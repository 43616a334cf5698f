import { describe, expect, it } from "vitest";
import { normalNumbers } from "../testing/noise.ts";
import { exactCourse, exactIn } from "./exactCourse.ts";

const MOST = 0.00015;
const SPANS = [10, 50, 90].map((start) => [start, start + 19] as const);

/** A part that rests in those spans, is carried along by so much a frame, and trembles by so much, metres. */
function courseOf({ drift = 0, noise = 0, frames = 120 }: { drift?: number; noise?: number; frames?: number }): Float64Array {
  const normal = normalNumbers(3);
  const course = new Float64Array(frames * 3);
  let z = 0;
  for (let f = 0; f < frames; f++) {
    if (!SPANS.some(([a, b]) => f > a && f <= b)) z += 0.03;
    course.set([noise * normal(), noise * normal(), z + drift * f + noise * normal()], f * 3);
  }
  return course;
}
const of = (raw: Float64Array, put: readonly Float64Array[] = [], spans: readonly (readonly [number, number])[] = SPANS) =>
  exactCourse(spans, { raw, put, legLength: 0.9, most: MOST });

describe("a part that keeps still exactly", () => {
  it("has left within micrometres, as it came", () => {
    const raw = courseOf({});
    expect(of(raw, [courseOf({})])?.course).toBe(raw);
    expect(of(raw)?.within).toBeLessThan(0.00001);
  });

  it("has left from further off on the more it stirs, up to where it is still no more", () => {
    const [little, more] = [of(courseOf({ noise: 0.000002 })), of(courseOf({ noise: 0.000005 }))];
    expect(little?.within).toBeGreaterThan(0.00001);
    expect(more?.within).toBeGreaterThan(little?.within ?? 1);
    expect(of(courseOf({ noise: 0.00005 }))).toBeNull();
  });

  it("and is carried along does so with that taken out", () => {
    const put = courseOf({});
    expect(of(courseOf({ drift: 0.002 }), [put])?.course).toBe(put);
    expect(of(courseOf({ drift: 0.002 }))).toBeNull();
  });

  it("does not where what was taken out is off by more than a few micrometres: it is off at the ends of stands as well", () => {
    expect(of(courseOf({ drift: 0.002 }), [courseOf({ noise: 0.000005 })])).toBeNull();
  });

  it("in stands of a few frames shows it only as it came, or where nothing at all is left in them", () => {
    const short = (frames: number) => SPANS.map(([a]) => [a, a + frames - 1] as const);
    const carried = courseOf({ drift: 0.002 });
    expect(of(carried, [courseOf({})], short(5))).toBeNull();
    expect(of(carried, [courseOf({ noise: 0.000003 })], short(7))).toBeNull();
    expect(of(carried, [courseOf({})], short(7))).not.toBeNull();
    expect(of(courseOf({}), [], short(5))).not.toBeNull();
  });

  it("may slip in one of its stands, which is none of those then", () => {
    const raw = courseOf({});
    const [, [a, b]] = SPANS;
    for (let f = a; f <= b; f++) raw[f * 3] += 0.002 * (f - a);
    const exact = of(raw);
    if (!exact) throw new Error("two of three stands are exact");
    expect(SPANS.map((span) => exactIn(exact, span))).toEqual([true, false, true]);
  });

  it("is none without spans", () => {
    expect(of(courseOf({}), [], [])).toBeNull();
  });
});
