import { describe, expect, it } from "vitest";
import { planeGround } from "../ground/ground.ts";
import { foundContact } from "../testing/contacts.ts";
import { commonHeave } from "./heave.ts";

const FPS = 60;
const FRAMES = 240;

/** Two feet in turn, each down for 36 frames of 60, both for 6 between; the body bobs by `size` metres at `rate` Hz over a floor at 5 cm. */
function bobbing(size: number, rate: number, noise = 0, closely = false) {
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

  it("is nothing where feet only tremble, each by itself", () => {
    for (const closely of [true, false]) expect(rms(bobbing(0, 1, 0.004, closely).heave)).toBeLessThan(0.0004);
  });
});
