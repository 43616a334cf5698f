import { describe, expect, it } from "vitest";
import { planeGround } from "../ground/ground.ts";
import { foundContact } from "../testing/contacts.ts";
import { normalNumbers } from "../testing/noise.ts";
import { commonHeave } from "./heave.ts";

const FPS = 60;
const FRAMES = 240;

/** Two feet in turn, each down for 36 frames of 60, both for 6 between; the body bobs by `size` metres at `rate` Hz over a floor at 5 cm. */
function walked(size: number, rate: number, noise = 0) {
  let seed = 5;
  const random = () => {
    seed = (seed * 16807) % 2147483647;
    return seed / 2147483647 - 0.5;
  };
  const bob = Float64Array.from({ length: FRAMES }, (_, f) => size * Math.sin((2 * Math.PI * rate * f) / FPS));
  const course = (phase: number) =>
    Float64Array.from({ length: FRAMES * 3 }, (_, i) => {
      const f = Math.floor(i / 3);
      const down = (f + phase) % 60 < 36;
      return i % 3 === 1 ? 0.05 + 0.02 + bob[f] + (down ? 0 : 0.3) + noise * random() : 0;
    });
  const courses = new Map([
    ["leftToe", course(0)],
    ["rightToe", course(30)],
  ]);
  const contacts = [0, 30].flatMap((phase, side) =>
    Array.from({ length: 5 }, (_, k) =>
      foundContact(side ? "rightToe" : "leftToe", Math.max(0, k * 60 - phase), Math.min(FRAMES - 1, k * 60 - phase + 35)),
    ).filter((c) => c.end > c.start),
  );
  return { bob, courses, contacts };
}

function bobbing(size: number, rate: number, noise = 0, closely = false) {
  const { bob, courses, contacts } = walked(size, rate, noise);
  return {
    bob,
    heave: commonHeave(
      contacts,
      (id) => courses.get(id),
      () => ({ clearance: 0.02, modelled: true }),
      planeGround(0.05),
      FRAMES,
      FPS,
      closely,
    ).course,
  };
}

const rms = (values: ArrayLike<number>) => Math.sqrt(Array.from(values).reduce((sum, v) => sum + v * v, 0) / values.length);

describe("what heaves all planted feet", () => {
  it.each([
    [0.004, 0.8, 0.05, true],
    [0.008, 1.7, 0.03, true],
    [0.012, 3, 0.03, true],
    [0.004, 0.8, 0.08, false],
    [0.008, 1.7, 0.1, false],
    [0.012, 3, 0.35, false],
  ])("is a bob of %d m at %d Hz, to within %d of it, seen closely: %s", (size, rate, within, closely) => {
    const { bob, heave } = bobbing(size, rate, 0, closely);
    const left = heave.map((v, f) => v - bob[f]).slice(10, FRAMES - 10);
    expect(rms(left)).toBeLessThan(within * rms(bob));
  });

  it("is believed whole where it is clearly more than none: what was left of it would look like feet that leave", () => {
    const { bob, heave } = bobbing(0.003, 1.7, 0, true);
    // In the middle of stands, where it is certain.
    for (const f of [18, 48, 78, 108, 138, 168]) expect(Math.abs(heave[f] - bob[f]), `${f}`).toBeLessThan(0.00004);
    // Half a millimetre and less is none.
    expect(rms(bobbing(0.0005, 1.7, 0, true).heave)).toBeLessThan(0.0001);
  });

  it.each([
    [0.006, 1.7],
    [0.01, 1.5],
  ])("of %d m at %d Hz is seen to a twentieth of it by stands of four frames at 24 a second, found a frame too long at either end", (size, rate) => {
    const [fps, frames] = [24, 97];
    const bob = Float64Array.from({ length: frames }, (_, f) => size * Math.sin((2 * Math.PI * rate * f) / fps));
    const courses = new Map<string, Float64Array>();
    const contacts = ["a", "b", "c"].flatMap((point, k) => {
      const course = Float64Array.from({ length: frames * 3 }, (_, i) => (i % 3 === 1 ? 0.02 + bob[Math.floor(i / 3)] + 0.2 : 0));
      courses.set(point, course);
      return Array.from({ length: 7 }, (_, step) => {
        const start = 2 + step * 12 + 3 * k;
        for (let f = start - 1; f <= start + 4; f++) {
          const up = f < start || f > start + 3 ? 0.004 : 0;
          course[f * 3 + 1] = 0.02 + bob[f] + up;
          course[f * 3] = up;
        }
        return foundContact(point, start - 1, start + 4);
      });
    });
    const { course } = commonHeave(
      contacts,
      (id) => courses.get(id),
      () => ({ clearance: 0.02, modelled: true }),
      planeGround(0),
      frames,
      fps,
      true,
    );
    // Heights of parts among each other are estimates: what is asked for is how the heave goes while each stands.
    for (const { start, end } of contacts) {
      const off = Array.from({ length: end - start - 1 }, (_, i) => course[start + 1 + i] - bob[start + 1 + i]);
      expect(Math.max(...off) - Math.min(...off), `${start}`).toBeLessThan(size / 20);
    }
  });

  it("is nothing where feet only tremble, each by itself", () => {
    for (const closely of [true, false]) expect(rms(bobbing(0, 1, 0.004, closely).heave)).toBeLessThan(0.0004);
  });

  /** The walk above, closely seen, with what is done to its courses and contacts. */
  function seen(
    change: (courses: Map<string, Float64Array>) => void,
    wider = 0,
    more: { point: string; modelled: boolean }[] = [],
    on: "ground" | "place" = "ground",
  ) {
    const { bob, courses, contacts } = walked(0.008, 1.7);
    for (const { point } of more) courses.set(point, (courses.get("leftToe") as Float64Array).slice());
    change(courses);
    const points = new Map([...courses.keys()].map((id) => [id, { clearance: 0.02, modelled: more.find((m) => m.point === id)?.modelled ?? true }]));
    const spans = contacts.flatMap((c) => [c, ...(c.point === "leftToe" ? more.map(({ point }) => ({ ...c, point, on })) : [])]);
    const heave = commonHeave(
      spans.map((c) => ({ ...c, start: Math.max(0, c.start - wider), end: Math.min(FRAMES - 1, c.end + wider) })),
      (id) => courses.get(id),
      (id) => points.get(id),
      planeGround(0.05),
      FRAMES,
      FPS,
      true,
    );
    return { heave, off: heave.course.map((v, f) => v - bob[f]) };
  }
  const worst = (values: Float64Array) => Math.max(...values.map(Math.abs)) * 1000;

  it("is seen up to the clip's first and last frames, on which a part still rests", () => {
    const { off, heave } = seen(() => {});
    expect(worst(off.slice(0, 3))).toBeLessThan(0.3);
    expect(worst(off.slice(-3))).toBeLessThan(0.3);
    expect(heave.left).toBeLessThan(1e-4);
  });

  it("does not jump from one foot to the other, though each seems to stand on a height of its own", () => {
    // What bobs lands now up, now down: the middle of one foot's places is not that of the other's.
    const { bob, courses, contacts } = walked(0.008, 1.7);
    const apart = contacts.map((c) => ({ ...c, start: c.start === 0 ? 0 : c.start + 4, end: c.end === FRAMES - 1 ? c.end : c.end - 4 }));
    const { course } = commonHeave(
      apart,
      (id) => courses.get(id),
      (id) => ({ clearance: id === "leftToe" ? 0.018 : 0.0215, modelled: true }),
      planeGround(0.05),
      FRAMES,
      FPS,
      true,
    );
    const off = course.map((v, f) => v - bob[f]).slice(6, -6);
    expect((Math.max(...off) - Math.min(...off)) * 1000).toBeLessThan(0.4);
  });

  it("is not taken from frames on which a part has not landed yet, or is on its way to the side", () => {
    const lifting = (courses: Map<string, Float64Array>) => {
      for (const [id, course] of courses)
        for (let f = 0; f < FRAMES; f++) {
          const phase = (f + (id.startsWith("left") ? 0 : 30)) % 60;
          // 2 cm up and 5 cm on, two frames before and behind.
          if (phase === 58 || phase === 59 || phase === 36 || phase === 37) {
            course[f * 3 + 1] += 0.02 - 0.3;
            course[f * 3] += 0.05;
          }
        }
    };
    expect(worst(seen(lifting, 2).off.slice(3, -3))).toBeLessThan(0.4);
  });

  it("is taken from joints where they rest, whatever an estimated heel does there; a heel on a place of its own says nothing", () => {
    const high = (courses: Map<string, Float64Array>) => {
      const heel = courses.get("heel") as Float64Array;
      for (let f = 0; f < FRAMES; f++) heel[f * 3 + 1] += f % 60 < 8 ? 0.0012 : 0;
    };
    const estimated = worst(seen(high, 0, [{ point: "heel", modelled: false }]).off);
    expect(estimated).toBeLessThan(0.3);
    expect(worst(seen(high, 0, [{ point: "heel", modelled: true }]).off)).toBeGreaterThan(2 * estimated);
    const elsewhere = (courses: Map<string, Float64Array>) => {
      const heel = courses.get("heel") as Float64Array;
      for (let f = 0; f < FRAMES; f++) heel[f * 3 + 1] += 0.004 * Math.sin(f / 3);
    };
    expect(worst(seen(elsewhere, 0, [{ point: "heel", modelled: true }], "place").off)).toBeLessThan(0.3);
  });

  it("says what parts that rest together still differ by", () => {
    const normal = normalNumbers(3);
    const stirring = (courses: Map<string, Float64Array>) => {
      for (const course of courses.values()) for (let f = 0; f < FRAMES; f++) course[f * 3 + 1] += 0.003 * normal();
    };
    expect(seen(stirring, 0, [{ point: "heel", modelled: true }]).heave.left).toBeGreaterThan(0.0005);
  });

  it("is nothing at all where joints rest at one height each, however heels and a slope would have it", () => {
    const { courses, contacts } = walked(0, 1);
    // A heel that is taken for a place of its own, off by ever more, and a ground that was found to slope by 1 in 500.
    const heel = (courses.get("leftToe") as Float64Array).slice();
    for (let f = 0; f < FRAMES; f++) heel[f * 3 + 1] += 0.002 * Math.sin(f / 9);
    courses.set("heel", heel);
    for (const course of courses.values()) for (let f = 0; f < FRAMES; f++) course[f * 3 + 2] = 0.02 * f;
    const { course, tilt, left } = commonHeave(
      [...contacts, ...contacts.filter((c) => c.point === "leftToe").map((c) => ({ ...c, point: "heel" }))],
      (id) => courses.get(id),
      (id) => ({ clearance: 0.02, modelled: id !== "heel", rolls: 0.0001 }),
      planeGround(0.05, 0, 0.002),
      FRAMES,
      FPS,
      true,
    );
    expect([...course].every((v) => v === 0)).toBe(true);
    expect([tilt.slopeX, tilt.slopeZ, left]).toEqual([0, 0, 0]);
  });

  it("is nothing where each stand keeps a height of its own, as hooves do on rough ground", () => {
    const { courses, contacts } = walked(0, 1);
    // Each stand 1 or 2 mm higher or lower than the one before.
    const rough = contacts.map((contact, i) => {
      const course = courses.get(contact.point) as Float64Array;
      for (let f = contact.start; f <= contact.end; f++) course[f * 3 + 1] += 0.001 * (((i * 3) % 5) - 2);
      return contact;
    });
    const heaveOf = () =>
      commonHeave(
        rough,
        (id) => courses.get(id),
        () => ({ clearance: 0.02, modelled: true }),
        planeGround(0.05),
        FRAMES,
        FPS,
        true,
      ).course;
    expect(heaveOf().every((v) => v === 0)).toBe(true);
    // One that bobs is told all the same.
    for (const course of courses.values()) for (let f = 0; f < FRAMES; f++) course[f * 3 + 1] += 0.006 * Math.sin(f / 12);
    expect(Math.max(...heaveOf().map(Math.abs))).toBeGreaterThan(0.003);
  });

  it("goes on smoothly where only a heel rests of which it is not known where the foot rolls", () => {
    // Nothing but the heel rests for the first ten frames of each stance of the left foot, and it rolls by 2 mm there.
    const heel = (rolls: number | undefined) => {
      const { bob, courses, contacts } = walked(0.008, 1.7);
      const course = (courses.get("leftToe") as Float64Array).slice();
      for (let f = 0; f < FRAMES; f++) course[f * 3 + 1] += 0.002 * Math.max(0, 1 - (f % 60) / 10);
      courses.set("heel", course);
      const spans = contacts.flatMap((c) => {
        if (c.point === "rightToe") return [{ ...c, end: Math.max(c.start + 2, c.end - 8) }];
        return [
          { ...c, start: c.start === 0 ? 0 : c.start + 10 },
          { ...c, point: "heel" },
        ];
      });
      const { course: found } = commonHeave(
        spans,
        (id) => courses.get(id),
        (id) => ({ clearance: 0.02, modelled: id !== "heel", rolls }),
        planeGround(0.05),
        FRAMES,
        FPS,
        true,
      );
      return worst(found.map((v, f) => (f % 60 < 10 && f > 60 ? v - bob[f] : 0)));
    };
    expect(heel(undefined)).toBeLessThan(0.3);
  });
});
