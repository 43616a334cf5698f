import { describe, expect, it } from "vitest";
import { localCourse } from "./localCourse.ts";

const FPS = 60;
const N = 181;
/** A body that bobs by 6 mm at 1.5 Hz, metres. */
const bob = (f: number) => 0.006 * Math.sin(2 * Math.PI * 1.5 * (f / FPS) + 0.4);
const seenOn = (seen: (f: number) => boolean) => {
  const weight = Float64Array.from({ length: N }, (_, f) => (seen(f) ? 2 : 0));
  return localCourse(
    weight.map((w, f) => w * bob(f)),
    weight,
    FPS,
  );
};

describe("the course of a heave", () => {
  it("is followed right to the clip's first and last frame where parts rest on them", () => {
    const course = seenOn(() => true);
    course.forEach((v, f) => expect(Math.abs(v - bob(f)), `frame ${f}`).toBeLessThan(f < 4 || f > N - 5 ? 3e-4 : 5e-5));
    const jump = Math.max(...[0, N - 3].map((f) => Math.abs(course[f + 2] - 2 * course[f + 1] + course[f])));
    expect(jump).toBeLessThan(3e-4);
  });

  it("goes in a straight line over a flight, and stays as it was where nothing rests any more", () => {
    const course = seenOn((f) => f < 60 || (f > 100 && f < 150));
    const bends = Array.from({ length: 36 }, (_, i) => Math.abs(course[62 + i + 2] - 2 * course[62 + i + 1] + course[62 + i]));
    expect(Math.max(...bends)).toBeLessThan(1e-9);
    for (let f = 155; f < N; f++) expect(course[f]).toBe(course[154]);
  });

  it("takes least part in what is seen least", () => {
    const weight = Float64Array.from({ length: N }, () => 1);
    const sum = Float64Array.from({ length: N }, (_, f) => bob(f));
    // One frame that is 2 cm off, seen a hundredth as well.
    weight[90] = 0.01;
    sum[90] = 0.01 * (bob(90) + 0.02);
    expect(Math.abs(localCourse(sum, weight, FPS)[90] - bob(90))).toBeLessThan(2e-4);
  });
});
