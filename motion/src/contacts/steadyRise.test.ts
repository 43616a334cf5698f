import { describe, expect, it } from "vitest";
import type { Sole } from "../character/soles.ts";
import { normalNumbers } from "../testing/noise.ts";
import type { Contact } from "./contact.ts";
import { steadyRise } from "./steadyRise.ts";

const FPS = 30;
const N = 130;
const soles = [
  {
    points: [
      { id: "leftHeel", modelled: false },
      { id: "leftToe", modelled: true },
    ],
  },
  { points: [{ id: "rightToe", modelled: true }] },
] as unknown as Sole[];
const stand = (point: string, start: number, end: number) => ({ point, start, end }) as unknown as Contact;
/** Ten stands by turns, half a second each, uphill by so much from one to the next; heights are said, frame by frame, over the place of each stand. */
function walk(uphill: number, over: (f: number) => number) {
  const courses = new Map(["leftToe", "rightToe", "leftHeel"].map((id) => [id, new Float64Array(N * 3)]));
  const contacts = Array.from({ length: 10 }, (_, k) => stand(k % 2 === 0 ? "leftToe" : "rightToe", 12 * k, 12 * k + 13));
  contacts.forEach(({ point, start, end }, k) => {
    const course = courses.get(point) as Float64Array;
    for (let f = start; f <= end; f++) course.set([0, uphill * k + over(f), 0.7 * k], f * 3);
  });
  return { courses, contacts };
}

describe("a body that rises all along", () => {
  it.each([0.02, -0.004])("does so by %d m/s", (rise) => {
    const { courses, contacts } = walk(0, (f) => (rise * f) / FPS);
    expect(steadyRise(soles, courses, contacts, FPS)).toBeCloseTo(rise, 9);
  });

  it("is none that bobs in step with its feet: each stand rises, and none over another", () => {
    const { courses, contacts } = walk(0, (f) => 0.008 * Math.sin((2 * Math.PI * (f - 6)) / 12));
    expect(steadyRise(soles, courses, contacts, FPS)).toBe(0);
    const climbing = walk(0.05, (f) => (0.01 * f) / FPS);
    expect(steadyRise(soles, climbing.courses, climbing.contacts, FPS)).toBe(0);
  });

  it("is none that walks up a slope, hardly rises, bobs, or trembles", () => {
    const normal = normalNumbers(2);
    const tremble = Array.from({ length: N }, () => 0.004 * normal());
    for (const over of [() => 0, (f: number) => (0.0004 * f) / FPS, (f: number) => 0.01 * Math.sin((2 * Math.PI * 1.7 * f) / FPS), (f: number) => tremble[f]]) {
      const { courses, contacts } = walk(0.05, over);
      expect(Math.abs(steadyRise(soles, courses, contacts, FPS))).toBeLessThan(1e-12);
    }
  });

  it("is told by most of its stands, whatever one or two of them do, by joints alone, and by enough of them", () => {
    const { courses, contacts } = walk(0, (f) => (0.01 * f) / FPS);
    const toe = courses.get("leftToe") as Float64Array;
    for (let f = contacts[2].start; f <= contacts[2].end; f++) toe[f * 3 + 1] += 0.1 * (f - contacts[2].start);
    expect(steadyRise(soles, courses, contacts, FPS)).toBeCloseTo(0.01, 9);
    expect(steadyRise(soles, courses, contacts.slice(0, 3), FPS)).toBe(0);
    const heels = contacts.map((c) => ({ ...c, point: "leftHeel" }));
    expect(steadyRise(soles, new Map([["leftHeel", courses.get("rightToe") as Float64Array]]), heels, FPS)).toBe(0);
  });
});
