import { describe, expect, it } from "vitest";
import { foundContact } from "../testing/contacts.ts";
import { normalNumbers } from "../testing/noise.ts";
import { travelDisplacement, travelError, WANDER } from "./travel.ts";
import { type LegsSeen, travelEvidence } from "./travelEvidence.ts";

const FPS = 60;
const [STEP, STAND, STEPS] = [36, 30, 10];
const N = STEP * STEPS;
const HEIGHT = 0.9;
const SPEED = 1.2;

const contacts = Array.from({ length: STEPS }, (_, i) => foundContact(i % 2 ? "a" : "b", i * STEP + 2, i * STEP + 1 + STAND));

/** Hips that go along at an even pace on legs of one bone, each foot standing while they pass over it; legs tremble by `angle` radians, and all of it travels `by` times too fast, along `heading`. */
function walk(angle: number, seed: number, by = 1, heading = 0) {
  const random = normalNumbers(seed);
  const hips = new Float64Array(N * 3);
  const feet = new Map([
    ["a", new Float64Array(N * 3)],
    ["b", new Float64Array(N * 3)],
  ]);
  const across = [Math.cos(heading), 0, -Math.sin(heading)];
  const along = [Math.sin(heading), 0, Math.cos(heading)];
  const put = (to: Float64Array, f: number, x: number, y: number, z: number) => to.set([x * across[0] + z * along[0], y, x * across[2] + z * along[2]], f * 3);
  for (let f = 0; f < N; f++) put(hips, f, 0, HEIGHT, (by * SPEED * f) / FPS);
  for (const { point, start, end } of contacts) {
    const foot = feet.get(point) as Float64Array;
    for (let f = start; f <= end; f++) {
      const lean = (SPEED * ((start + end) / 2 - f)) / FPS;
      const [pitch, roll] = [random() * angle, random() * angle];
      // The true place is `lean` in front of the hips: the leg takes it about them.
      put(foot, f, -roll * HEIGHT, pitch * lean, (by * SPEED * f) / FPS + lean + pitch * HEIGHT);
    }
  }
  const legs: LegsSeen = { carriersOf: () => [hips], slope: [0, 0] };
  return { hips, feet, legs, courseOf: (id: string) => feet.get(id) };
}

const rms = (values: readonly number[]) => Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length);
const DEGREE = Math.PI / 180;

describe("what a contact says of the travel", () => {
  it("is how fast its part moves, and how fast the body does, over the same frames", () => {
    const { hips, courseOf } = walk(0, 1, 1.1);
    const spans = travelEvidence(contacts, courseOf, hips, FPS);
    expect(spans).toHaveLength(STEPS);
    for (const { moves, body, length, sure } of spans) {
      expect(length).toBe(STAND);
      expect(moves[1]).toBeCloseTo(0.1 * SPEED, 9);
      expect(body[1]).toBeCloseTo(1.1 * SPEED, 9);
      expect([moves[0], body[0]].map(Math.abs)).toEqual([0, 0]);
      expect(sure).toEqual([1, 0, 1]);
    }
  });

  it("does not count the frames on which its part still comes down, or leaves already", () => {
    const { hips, feet, courseOf } = walk(0, 1, 1.1);
    // A foot that strikes with its heel: the toe comes down over five frames, forward and to the side, and it leaves over three.
    for (const { point, start, end } of contacts) {
      const foot = feet.get(point) as Float64Array;
      for (let i = 0; i < 5; i++) {
        foot[(start + i) * 3] += 0.0004 * (5 - i) ** 2;
        foot[(start + i) * 3 + 2] -= 0.0006 * (5 - i) ** 2;
      }
      for (let i = 0; i < 3; i++) foot[(end - i) * 3 + 2] += 0.002 * (3 - i) ** 2;
    }
    for (const { moves, body, weights } of travelEvidence(contacts, courseOf, hips, FPS)) {
      expect(moves[1]).toBeCloseTo(0.1 * SPEED, 5);
      expect(moves[0]).toBeCloseTo(0, 5);
      expect(body[1]).toBeCloseTo(1.1 * SPEED, 9);
      expect([1, 2, 3, STAND - 2, STAND - 3].map((i) => weights[i])).toEqual([0, 0, 0, 0, 0]);
      expect(weights[STAND / 2]).toBeGreaterThan(0.5);
    }
    // An even pace does not tell a wrong speed from a drift: together they are it.
    const { share, drift, rest } = travelError(contacts, courseOf, hips, FPS);
    expect(share * 1.1 * SPEED + drift[1]).toBeCloseTo(0.1 * SPEED, 4);
    expect(Math.max(...rest.map(Math.abs))).toBeLessThan(1e-4);
  });

  it("counts for less where it is short, as at a clip's end", () => {
    const { hips, courseOf } = walk(0, 1);
    const most = (length: number) => Math.max(...travelEvidence([{ ...contacts[0], end: contacts[0].start + length - 1 }], courseOf, hips, FPS)[0].weights);
    expect(most(20)).toBeGreaterThan(0.9);
    expect(most(10)).toBeLessThan(most(20) / 3);
    expect(most(6)).toBeLessThan(most(10) / 2);
  });

  it("is nothing on another part, of a point that bears nothing, and in a contact of two frames", () => {
    const { hips, courseOf } = walk(0, 1);
    const said = (list: typeof contacts) => travelEvidence(list, courseOf, hips, FPS).length;
    expect(said([{ ...contacts[0], on: { joint: 3 } as never }])).toBe(0);
    expect(said([{ ...contacts[0], point: "leftHand" }])).toBe(0);
    expect(said([{ ...contacts[0], end: contacts[0].start + 1 }])).toBe(0);
    expect(said([{ ...contacts[0], end: contacts[0].start + 2 }])).toBe(1);
  });

  it("is the same with the legs known where they do not tremble", () => {
    const { hips, courseOf, legs } = walk(0, 1, 1.1);
    expect(travelEvidence(contacts, courseOf, hips, FPS, legs)).toEqual(travelEvidence(contacts, courseOf, hips, FPS));
  });

  it("is surer by far along the way where a trembling leg is known, whichever way that goes", () => {
    for (const heading of [0, 0.7, 2]) {
      const off = (known: boolean) =>
        rms(
          Array.from({ length: 12 }, (_, i) => {
            const { hips, courseOf, legs } = walk(DEGREE, 5 + i, 1, heading);
            return travelEvidence(contacts, courseOf, hips, FPS, known ? legs : undefined).map(
              ({ moves }) => moves[0] * Math.sin(heading) + moves[1] * Math.cos(heading),
            );
          }).flat(),
        );
      expect(off(true), `heading ${heading}`).toBeLessThan(0.4 * off(false));
      const { hips, courseOf, legs } = walk(DEGREE, 5, 1, heading);
      const { sure } = travelEvidence(contacts, courseOf, hips, FPS, legs)[3];
      expect(sure[0] + sure[2]).toBeCloseTo(2, 9);
      // All but all of what it is sure of is along the way.
      const [s, c] = [Math.sin(heading), Math.cos(heading)];
      expect(sure[0] * s * s + 2 * sure[1] * s * c + sure[2] * c * c).toBeGreaterThan(1.7);
    }
  });
});

describe("a wrong speed of a body whose legs tremble by a degree", () => {
  it.each([
    [0.92, 0],
    [1.08, 0],
    [1.08, 0.7],
    [1.08, 2.4],
  ])("of %d is measured to within a twentieth of itself, whichever way it goes (%d)", (by, heading) => {
    const errors = Array.from({ length: 12 }, (_, i) => {
      const { hips, courseOf, legs } = walk(DEGREE, 40 + i, by, heading);
      const { share, drift } = travelError(contacts, courseOf, hips, FPS, { legs });
      const along = drift[0] * Math.sin(heading) + drift[1] * Math.cos(heading);
      return (share + along / (by * SPEED) - (1 - 1 / by)) / (1 - 1 / by);
    });
    expect(rms(errors)).toBeLessThan(0.05);
  });
});

describe("what a trembling body's stands leave over", () => {
  /** The most that the body is taken off its way, metres, its feet gliding to the side by so much as they stand, m/s. */
  const strays = (glide: (step: number) => number, seed = 90) => {
    const { hips, feet, courseOf, legs } = walk(DEGREE, seed);
    contacts.forEach(({ point, start, end }, step) => {
      const foot = feet.get(point) as Float64Array;
      for (let f = start; f <= end; f++) foot[f * 3] += (glide(step) * (f - start)) / FPS;
    });
    const out = travelDisplacement(travelError(contacts, courseOf, hips, FPS, { legs }), hips, FPS, WANDER.moved);
    return Math.max(...Array.from({ length: N }, (_, f) => Math.abs(out[f * 2])));
  };

  it("steers it nowhere where they only tremble: by two millimetres at most in nine of ten, though they do by a centimetre and a half", () => {
    // A drift that is not there is believed by chance in one clip of ten or so.
    const all = Array.from({ length: 12 }, (_, i) => strays(() => 0, 88 + i)).sort((a, b) => a - b);
    expect(all[9]).toBeLessThan(0.002);
  });

  it("takes it along where all of them glide for a while", () => {
    expect(strays((step) => (step < 4 ? 0.2 : -0.1))).toBeGreaterThan(0.03);
  });
});

describe("stands of three and four frames", () => {
  const short = contacts.map((c) => ({ ...c, end: c.start + 3 }));

  it("are known to tremble, and say as little as they know", () => {
    const { hips, courseOf, legs } = walk(DEGREE, 21);
    const spans = travelEvidence(short, courseOf, hips, FPS, legs);
    expect(spans.every((s) => s.trembles)).toBe(true);
    // Four frames of a centimetre and a half show a line's slope to some 0.3 m/s across, far less along.
    const sd = spans.map((s) => Math.sqrt(s.variance)).sort((a, b) => a - b)[spans.length >> 1];
    expect(sd).toBeGreaterThan(0.03);
    expect(sd).toBeLessThan(0.8);
  });

  it("are known to be still, though one of their frames belongs to the swing", () => {
    const { hips, feet, courseOf, legs } = walk(0, 21);
    for (const { point, end } of short) (feet.get(point) as Float64Array)[end * 3 + 2] += 0.05;
    expect(travelEvidence(short, courseOf, hips, FPS, legs).every((s) => !s.trembles)).toBe(true);
  });
});
