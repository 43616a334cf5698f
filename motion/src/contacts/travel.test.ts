import { describe, expect, it } from "vitest";
import { LEVEL_GROUND } from "../ground/ground.ts";
import type { Contact } from "./contact.ts";
import { fillGaps } from "./fillGaps.ts";
import { commonHeave } from "./heave.ts";
import { integrateTravel, travelDisplacement, travelError, WANDER, withoutTravel } from "./travel.ts";

const FPS = 60;
const SECONDS = 6;
const N = FPS * SECONDS + 1;
const span = (point: string, start: number, end: number): Contact => ({
  point,
  joint: 0,
  start,
  end,
  on: "ground",
  anchor: { mode: "settle", point: null },
  rampIn: null,
  rampOut: null,
  origin: "found",
});
const contacts = Array.from({ length: 10 }, (_, i) => span(i % 2 ? "a" : "b", i * 34 + 3, i * 34 + 33));

/** Hips that walk at 1.3 m/s with a sway, and feet that stand: world courses [frame][3]. */
function walker(noise = 0, creep: (step: number) => number = () => 0) {
  let seed = 7;
  const random = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647 - 0.5;
  };
  const hips = Float64Array.from({ length: N * 3 }, (_, i) =>
    i % 3 === 2 ? (1.3 * Math.floor(i / 3)) / FPS : i % 3 === 0 ? 0.03 * Math.sin(Math.floor(i / 3) / 9) : 0.95,
  );
  const course = () => new Float64Array(N * 3);
  const feet = new Map([
    ["a", course()],
    ["b", course()],
  ]);
  contacts.forEach((c, step) => {
    const foot = feet.get(c.point) as Float64Array;
    for (let f = c.start; f <= c.end; f++) {
      foot[f * 3] = 0.1 + noise * random();
      foot[f * 3 + 1] = 0.02 + noise * random();
      foot[f * 3 + 2] = step * 0.74 + noise * random() + (creep(step) * (f - c.start)) / FPS;
    }
  });
  return { hips, feet };
}

/** The same with the body's travel scaled, feet and all, as a capture of a wrong speed shows it. */
function tooFast({ hips, feet }: ReturnType<typeof walker>, speed: number) {
  const by = (f: number, i: number) => (i === 1 ? 0 : (speed - 1) * (hips[f * 3 + i] - hips[i]));
  const moved = (course: Float64Array) => course.map((v, i) => v + by(Math.floor(i / 3), i % 3));
  return { hips: moved(hips), feet: new Map([...feet].map(([id, course]) => [id, moved(course)])) };
}

describe("a wrong travel", () => {
  it.each([0.8, 0.92, 1.08, 1.2])("of %d times the speed is measured within a hundredth of its error, and taken out to a millimetre", (speed) => {
    const right = walker();
    const { hips, feet } = tooFast(right, speed);
    const error = travelError(contacts, (id) => feet.get(id), hips, FPS);
    const seen = error.share + error.drift[1] / (1.3 * speed);
    expect(1 / (1 - seen)).toBeCloseTo(speed, 2);
    const out = travelDisplacement(error, hips, FPS, WANDER.moved);
    for (const f of [30, 150, 290, N - 1]) expect(hips[f * 3 + 2] - out[f * 2 + 1], `frame ${f}`).toBeCloseTo(right.hips[f * 3 + 2], 2);
  });

  it("is told from a drift along the way by the pace, which goes up and down within each stand", () => {
    // 10 % quicker and slower as feet land and lift, every 34 frames.
    const paced = walker();
    const surge = (f: number) => 0.1 * 1.3 * (34 / FPS / (2 * Math.PI)) * Math.sin((2 * Math.PI * f) / 34);
    const hips = paced.hips.map((v, i) => (i % 3 === 2 ? v + surge(Math.floor(i / 3)) : v));
    const measured = (of: { hips: Float64Array; feet: Map<string, Float64Array> }) => travelError(contacts, (id) => of.feet.get(id), of.hips, FPS);
    const drift = (course: Float64Array) => course.map((v, i) => (i % 3 === 2 ? v + (0.05 * Math.floor(i / 3)) / FPS : v));
    const drifting = measured({ hips: drift(hips), feet: new Map([...paced.feet].map(([id, course]) => [id, drift(course)])) });
    expect(drifting.drift[1]).toBeCloseTo(0.05, 3);
    expect(Math.abs(drifting.share)).toBeLessThan(0.001);
    // The model leaves nothing over.
    expect(Math.max(...drifting.rest.map(Math.abs))).toBeLessThan(0.002);
    const fast = measured(tooFast({ hips, feet: paced.feet }, 1.06));
    expect(fast.share).toBeCloseTo(0.06 / 1.06, 3);
    expect(Math.abs(fast.drift[1])).toBeLessThan(0.001);
  });

  it("is none where feet stand, and none where they only tremble by a centimetre", () => {
    const still = walker();
    expect(travelError(contacts, (id) => still.feet.get(id), still.hips, FPS).share).toBe(0);
    const trembling = walker(0.02);
    const out = travelDisplacement(
      travelError(contacts, (id) => trembling.feet.get(id), trembling.hips, FPS),
      trembling.hips,
      FPS,
      WANDER.moved,
    );
    expect(Math.max(...out.map(Math.abs))).toBeLessThan(0.03);
  });

  describe("that wanders by 1.5 cm, up and down in two seconds", () => {
    const wander = (f: number, i: number) => (i === 1 ? 0 : 0.015 * Math.sin((Math.PI * f) / FPS + (i === 0 ? 0.4 : 2)));
    const strays = (noise: number) => {
      const { hips, feet } = walker(noise);
      const moved = (course: Float64Array) => course.map((v, i) => v + wander(Math.floor(i / 3), i % 3));
      return { hips: moved(hips), feet: new Map([...feet].map(([id, course]) => [id, moved(course)])) };
    };
    /** How far resting feet go within their stands once it is taken out, metres: the most of all frames well within them. */
    const left = ({ hips, feet }: ReturnType<typeof strays>, sought: boolean) => {
      const out = travelDisplacement(
        travelError(contacts, (id) => feet.get(id), hips, FPS, { sought }),
        hips,
        FPS,
        sought ? WANDER.sought : WANDER.moved,
      );
      return Math.max(
        ...contacts.slice(1, 9).flatMap(({ point, start, end }) => {
          const course = withoutTravel(feet.get(point) as Float64Array, out);
          const from = (start + 3) * 3;
          return Array.from({ length: end - start - 6 }, (_, i) =>
            Math.hypot(course[from + i * 3] - course[from], course[from + i * 3 + 2] - course[from + 2]),
          );
        }),
      );
    };

    it("is followed frame by frame while contacts are sought in a clean clip, and smoothly where the body is moved by it", () => {
      expect(left(strays(0), true)).toBeLessThan(0.0012);
      expect(left(strays(0), false)).toBeGreaterThan(0.003);
    });

    it("is followed smoothly where feet tremble", () => {
      const [one, other] = [true, false].map((sought) => left(strays(0.004), sought));
      expect(one).toBeGreaterThan(0.003);
      expect(other).toBeGreaterThan(0.003);
    });
  });

  it("is believed less where contacts differ of their own: feet that creep now fast, now slowly, keep the body on its path", () => {
    const creeping = walker(0, (step) => [0.12, 0, 0.15, 0.02, 0.1, 0, 0.16, 0.01, 0.13, 0][step]);
    const even = walker(0, () => 0.07);
    const share = ({ hips, feet }: ReturnType<typeof walker>) => {
      const e = travelError(contacts, (id) => feet.get(id), hips, FPS);
      return e.share + e.drift[1] / 1.3;
    };
    expect(share(even)).toBeGreaterThan(0.05);
    expect(share(creeping)).toBeLessThan(0.4 * share(even));
  });
});

/** Quick stands of four frames at 24 a second, each found a frame too early, of a body whose pace goes up and down; its travel `speed` times the true one. */
function quickSteps(speed: number) {
  const fps = 24;
  const frames = 97;
  const pace = (f: number) => 1.8 + 0.15 * Math.sin((2 * Math.PI * f) / 5);
  const along = new Float64Array(frames);
  for (let f = 1; f < frames; f++) along[f] = along[f - 1] + pace(f) / fps;
  const hips = Float64Array.from({ length: frames * 3 }, (_, i) => (i % 3 === 2 ? speed * along[Math.floor(i / 3)] : i % 3 === 1 ? 0.4 : 0));
  const spans: Contact[] = [];
  const feet = new Map<string, Float64Array>();
  for (const [side, point] of ["a", "b"].entries()) {
    const course = new Float64Array(frames * 3);
    for (let k = 0; k * 10 + side * 5 + 6 < frames; k++) {
      const [start, end] = [k * 10 + side * 5 + 1, k * 10 + side * 5 + 4];
      const place = along[start + 1];
      // A frame before it lands the foot is some millimetres off.
      for (let f = start - 1; f <= end; f++) course[f * 3 + 2] = place + (f < start ? -0.004 : 0) + (speed - 1) * along[f];
      spans.push(span(point, start - 1, end));
    }
    feet.set(point, course);
  }
  return { fps, hips, feet, spans };
}

describe("stands of few frames", () => {
  it.each([0.85, 0.92, 1.08, 1.15])("tell of %d times the speed to a thousandth of it, though the first frame of each is of the swing", (speed) => {
    const { fps, hips, feet, spans } = quickSteps(speed);
    const { share, drift } = travelError(spans, (id) => feet.get(id), hips, fps);
    // What goes wrong is a share of what is seen of the root.
    expect(share * speed + 1).toBeGreaterThan(speed - 0.001);
    expect(share * speed + 1).toBeLessThan(speed + 0.001);
    expect(Math.hypot(...drift)).toBeLessThan(0.002);
  });

  it("of which one leaps about do not take the body along there, where all around it stand still", () => {
    const { fps, hips, feet, spans } = quickSteps(1);
    const course = (feet.get("a") as Float64Array).slice();
    const { start } = spans[3];
    // A foot that is thrown to and fro while it seems to rest.
    [-0.02, 0, 0.03, 0.05, -0.03].forEach((off, i) => {
      course[(start + i) * 3] += off;
    });
    const { rest } = travelError(spans, (id) => (id === "a" ? course : feet.get(id)), hips, fps);
    expect(Math.max(...rest.map(Math.abs))).toBeLessThan(0.002);
  });

  it("of which single ones slip, alike and even side by side, leave the body where it is", () => {
    const { fps, hips, feet, spans } = quickSteps(1);
    const order = [...spans].sort((x, y) => x.start - y.start);
    // Two of one time and two of another, at five centimetres a second.
    const slipping = new Set([...order.slice(4, 6), ...order.slice(-2)]);
    const moved = new Map([...feet].map(([id, course]) => [id, course.slice()]));
    for (const { point, start, end } of slipping) for (let f = start; f <= end; f++) (moved.get(point) as Float64Array)[f * 3] += (0.05 * (f - start)) / fps;
    const { rest, drift, share } = travelError(spans, (id) => moved.get(id), hips, fps);
    expect(Math.max(...rest.map(Math.abs))).toBeLessThan(0.002);
    expect(Math.hypot(...drift)).toBeLessThan(0.002);
    expect(Math.abs(share)).toBeLessThan(0.001);
  });

  it("that all move alike for a while do take it along", () => {
    const { fps, hips, feet, spans } = quickSteps(1);
    const wanders = (f: number) => (f < 40 ? 0 : f > 70 ? 0.3 * (30 / fps) : (0.3 * (f - 40)) / fps);
    const moved = new Map([...feet].map(([id, course]) => [id, course.map((v, i) => (i % 3 === 0 ? v + wanders(Math.floor(i / 3)) : v))]));
    const error = travelError(spans, (id) => moved.get(id), hips, fps);
    expect(error.rest[55 * 2] + error.drift[0]).toBeGreaterThan(0.25);
    expect(Math.abs(error.rest[10 * 2] + error.drift[0])).toBeLessThan(0.05);
  });
});

describe("a heave of the whole body", () => {
  const heaved = (size: number) => {
    const { feet } = walker();
    return new Map(
      [...feet].map(([id, course]) => [id, course.map((v, i) => (i % 3 === 1 ? v + size * Math.sin((2 * Math.PI * 1.2 * Math.floor(i / 3)) / FPS) : v))]),
    );
  };
  const heaveOf = (feet: Map<string, Float64Array>) =>
    commonHeave(
      contacts,
      (id) => feet.get(id),
      () => ({ clearance: 0.02, modelled: true }),
      LEVEL_GROUND,
      N,
      FPS,
    ).course;

  it("of 8 mm is seen to a millimetre wherever a foot stands", () => {
    const heave = heaveOf(heaved(0.008));
    for (const { start, end } of contacts.slice(1, 9)) {
      const f = Math.round((start + end) / 2);
      expect(heave[f]).toBeCloseTo(0.008 * Math.sin((2 * Math.PI * 1.2 * f) / FPS), 3);
    }
  });

  it("is none where feet stand as high as they should", () => {
    expect(Math.max(...heaveOf(walker().feet).map(Math.abs))).toBe(0);
  });
});

describe("what is known at some frames only", () => {
  it("is filled in along straight lines, and goes on as it is before the first and behind the last", () => {
    const out = new Float64Array(14).fill(9);
    // Sums and weights: 2 at frame 2, 5 at frame 5; what hardly weighs says nothing.
    fillGaps(out, Float64Array.of(0, 7, 4, 0, 0, 15, 0), Float64Array.of(0, 0.01, 2, 0, 0, 3, 0), 2, 1);
    expect([...out].filter((_, i) => i % 2 === 1)).toEqual([2, 2, 2, 3, 4, 5, 5]);
    expect([...out].filter((_, i) => i % 2 === 0)).toEqual(new Array(7).fill(9));
    const none = new Float64Array(3);
    fillGaps(none, Float64Array.of(1, 1, 1), new Float64Array(3), 1, 0);
    expect([...none]).toEqual([0, 0, 0]);
  });
});

describe("a displacement", () => {
  it("is the integral of a velocity, trapezoid by trapezoid, along x and z", () => {
    expect([...integrateTravel(Float64Array.of(0, 1, 2, 1, 4, 1), 10)].map((v) => Number(v.toFixed(9)))).toEqual([0, 0, 0.1, 0.1, 0.4, 0.2]);
  });

  it("is taken out of a course level, frame by frame", () => {
    expect([...withoutTravel(Float64Array.of(1, 2, 3, 4, 5, 6), [0.5, 1, 2, 3])]).toEqual([0.5, 2, 2, 2, 5, 3]);
  });
});
