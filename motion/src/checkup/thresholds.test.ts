import { describe, expect, it } from "vitest";
import { ClipDraft } from "../clip/clip.ts";
import { expQuatFlat } from "../math/quat.ts";
import { STEEPEST_TILT } from "../patches/floor.ts";
import { foundContact } from "../testing/contacts.ts";
import { stick } from "../testing/patched.ts";
import { findingsInTime, findingsOf, treatedFindings } from "./findings.ts";
import { jointFaults } from "./jointFaults.ts";
import type { Measures } from "./measures.ts";
import { LOOP_GAP_DEGREES, LOOP_GAP_RECURS, LOOP_GAP_SHARE, LOOP_GAP_STEPS, TOLERANCE } from "./tolerances.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const CLEAN: Measures = {
  spans: [],
  pops: [],
  jumps: [],
  flips: [],
  jitter: [],
  stretched: [],
  pastLimits: [],
  travelErrorShare: 0,
  floorHeightCm: 0,
  floorTiltDegrees: 0,
  ends: { gap: 0, usual: 0, step: 0, recurs: 0 },
};
const told = (part: Partial<Measures>) => findingsOf(base, { ...CLEAN, ...part });
const kinds = (part: Partial<Measures>) => told(part).map((f) => f.kind);

describe("a finding", () => {
  it("is there only beyond its tolerance, with its figure, its unit and how far beyond it is", () => {
    expect(told({})).toEqual([]);
    expect(kinds({ travelErrorShare: TOLERANCE.travelShare })).toEqual([]);
    const [travel] = told({ travelErrorShare: -0.06 });
    expect(travel).toMatchObject({ kind: "travel", unit: "%", startFrame: 0, endFrame: base.clip.frameCount - 1, joint: -1 });
    expect(travel.value).toBeCloseTo(6, 9);
    expect(travel.title).toMatch(/slow/);
    expect(travel.severity).toBeCloseTo(12, 9);
    expect(kinds({ floorHeightCm: TOLERANCE.floorCm })).toEqual([]);
    const [floor] = told({ floorHeightCm: -4 });
    expect(floor).toMatchObject({ kind: "floor", value: 4, unit: "cm" });
    expect(floor.severity).toBeCloseTo(4 / TOLERANCE.floorCm, 9);
  });

  it("of a tilted floor stands for its height as well; one that is steeper than floors are is meant, however high it is at the origin", () => {
    expect(kinds({ floorTiltDegrees: TOLERANCE.tiltDegrees + 0.1, floorHeightCm: 3 })).toEqual(["tilt"]);
    const steep = (STEEPEST_TILT * 180) / Math.PI;
    expect(kinds({ floorTiltDegrees: steep - 0.01 })).toEqual(["tilt"]);
    expect(kinds({ floorTiltDegrees: steep + 0.01 })).toEqual([]);
    expect(kinds({ floorTiltDegrees: steep + 0.01, floorHeightCm: 3 })).toEqual([]);
  });

  it("of a contact is its slide and its height, up and down; what is found of a trunk rolls on by more", () => {
    const span = (slideCm: number, heightCm: number, point = "leftToe", origin: "found" | "set" = "found") =>
      told({
        spans: [{ contact: { ...foundContact(point, 10, 30), origin }, slideCm, heightCm, course: new Float32Array() } as unknown as Measures["spans"][number]],
      });
    expect(span(TOLERANCE.slideCm, TOLERANCE.heightCm)).toEqual([]);
    expect(span(1, 0)).toMatchObject([{ kind: "slide", part: "leftToe", startFrame: 10, endFrame: 30, value: 1, severity: 1 / TOLERANCE.slideCm }]);
    expect(span(0, 2)).toMatchObject([{ kind: "float", value: 2, severity: 2 / TOLERANCE.heightCm }]);
    expect(span(0, -2)).toMatchObject([{ kind: "sink", value: 2 }]);
    expect(span(TOLERANCE.trunkSlideCm, 0, "back")).toEqual([]);
    expect(span(TOLERANCE.trunkSlideCm + 1, 0, "back")).toHaveLength(1);
    expect(span(1, 0, "back", "set")).toHaveLength(1);
  });

  it("of ends that nearly meet is there where they do and the clip's poses usually differ by far more", () => {
    const [least, most] = LOOP_GAP_DEGREES;
    const ends = (gap: number, usual: number, step = 0, recurs = 90) => ({ ends: { gap, usual, step, recurs } });
    const gap = (...values: Parameters<typeof ends>) => kinds(ends(...values));
    expect(gap(3, 30)).toEqual(["gap"]);
    expect(gap(least, 30)).toEqual([]);
    expect(gap(most, 90)).toEqual([]);
    expect(gap(3, 3 / LOOP_GAP_SHARE)).toEqual([]);
    expect(gap(3, 3.01 / LOOP_GAP_SHARE)).toEqual(["gap"]);
    // As near as one frame to the next; a cycle that comes by its first pose on its way.
    expect(gap(3, 30, 3.01 / LOOP_GAP_STEPS)).toEqual([]);
    expect(gap(3, 30, 2.99 / LOOP_GAP_STEPS)).toEqual(["gap"]);
    expect(gap(3, 30, 0, 2.99 * LOOP_GAP_RECURS)).toEqual([]);
    expect(gap(3, 30, 0, 3.01 * LOOP_GAP_RECURS)).toEqual(["gap"]);
    expect(told(ends(3.5, 30))[0].severity).toBeCloseTo(0.5, 9);
    expect(told(ends(3.5, 30))[0].treat).toMatchObject({ kind: "loop", settings: { from: 0, to: 89 / 30 } });
  });

  it("stands before those that are less beyond theirs", () => {
    const list = told({ travelErrorShare: 0.04, floorHeightCm: 40 });
    expect(list.map((f) => f.kind)).toEqual(["floor", "travel"]);
  });
});

describe("findings of the source", () => {
  const at = (kind: "slide" | "jitter", part: string, startFrame: number, endFrame: number) => ({
    ...told({ floorHeightCm: 4 })[0],
    kind,
    part,
    startFrame,
    endFrame,
  });

  it("are carried to the frames that first show them: those of the whole stay the whole, those cut away are left out", () => {
    const time = {
      seconds: 2,
      pieces: [
        { outStart: 0, outEnd: 1, inStart: 1, inEnd: 2 },
        { outStart: 1, outEnd: 2, inStart: 1, inEnd: 2 },
      ],
    };
    const result = { time, clip: { ...base.clip, frameCount: 61 } };
    const list = findingsInTime([at("slide", "a", 0, 89), at("slide", "b", 36, 45), at("slide", "c", 75, 80), at("slide", "d", 55, 70)], base, result);
    expect(list.map((f) => [f.part, f.startFrame, f.endFrame])).toEqual([
      ["a", 0, 60],
      ["b", 6, 15],
      ["d", 25, 30],
    ]);
  });

  it("are treated where nothing of their kind, part and frames is left", () => {
    const before = [at("slide", "a", 10, 20)];
    const left = (kind: "slide" | "jitter", part: string, start: number, end: number) => treatedFindings(before, [at(kind, part, start, end)]).length;
    expect(left("slide", "a", 20, 30)).toBe(0);
    expect(left("slide", "a", 21, 30)).toBe(1);
    expect(left("slide", "b", 10, 20)).toBe(1);
    expect(left("jitter", "a", 10, 20)).toBe(1);
  });
});

describe("trembling", () => {
  /** A clip whose one joint carries white noise of so many degrees (an own generator) on a swing of its own, over some frames. */
  const noisy = (degrees: number, from: number, to: number, swing: number) => {
    let state = 77;
    const random = () => {
      state = (state * 1664525 + 1013904223) >>> 0;
      return state / 2 ** 32;
    };
    const normal = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
    const draft = ClipDraft.make("noisy", 60, 240, 1, Int16Array.of(0));
    const q = new Float64Array(4);
    for (let f = 0; f < 240; f++) {
      const own = f >= from && f <= to ? [normal(), normal(), normal()].map((v) => (v * degrees * Math.PI) / 180) : [0, 0, 0];
      own[0] += swing * Math.sin((2 * Math.PI * f) / 60);
      expQuatFlat(q, 0, own, 0);
      draft.setRotation(0, f, q);
    }
    return draft.done();
  };

  it("is measured as the standard deviation that it was made with, whatever the joint does meanwhile", () => {
    for (const degrees of [1, 2.5, 5])
      for (const swing of [0, 0.5]) {
        const { jitter } = jointFaults(noisy(degrees, 0, 239, swing), 0);
        expect(jitter).toHaveLength(1);
        // Three axes of it add up: √3 on the mean; the worst short window is somewhat above.
        const sigma = degrees * Math.sqrt(3);
        expect(jitter[0].value, `${degrees}° on ${swing}`).toBeGreaterThan(0.9 * sigma);
        expect(jitter[0].value, `${degrees}° on ${swing}`).toBeLessThan(1.9 * sigma);
      }
  });

  it("lies where it was put, to within its window", () => {
    const { jitter } = jointFaults(noisy(3, 100, 160, 0.3), 0);
    expect(jitter).toHaveLength(1);
    expect(Math.abs(jitter[0].start - 100)).toBeLessThan(12);
    expect(Math.abs(jitter[0].end - 160)).toBeLessThan(12);
    expect(jointFaults(noisy(0, 0, 239, 0.5), 0).jitter).toEqual([]);
  });
});
