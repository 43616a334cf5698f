import { describe, expect, it } from "vitest";
import type { Sole } from "../character/soles.ts";
import { foundContact } from "../testing/contacts.ts";
import { heaveOver, levelled, underBody } from "./standing.ts";

const N = 120;

/** A foot whose ankle is so high on each frame, with a heel under it and a toe in front, all in its frame. */
function sole(side: "left" | "right", height: (f: number) => number): Sole {
  const positions = Float64Array.from({ length: N * 3 }, (_, i) => [side === "left" ? 0.1 : -0.1, height(Math.floor(i / 3)), 0.3][i % 3]);
  const rotations = Float32Array.from({ length: N * 4 }, (_, i) => (i % 4 === 3 ? 1 : 0));
  const point = (id: string, local: [number, number, number], modelled: boolean) => ({ id: `${side}${id}`, local, modelled, clearance: 0 });
  return {
    leg: { limb: side === "left" ? 0 : 1, side, upper: 0, lower: 1, end: 2, toe: 3, parts: [`${side}Heel`, `${side}Toe`] },
    track: { frameCount: N, positions, rotations },
    unseen: new Set(),
    points: [point("Heel", [0, -0.08, -0.05], false), point("Toe", [0, -0.06, 0.14], true)],
    along: null,
    flat: [0],
    upLocal: [0, 1, 0],
    legLength: 0.9,
    expected: 0,
  };
}

const hipsAt = (height: (f: number) => number) => Float64Array.from({ length: N * 3 }, (_, i) => (i % 3 === 1 ? height(Math.floor(i / 3)) : 0));
const feetOf = (left: (f: number) => number, hips: (f: number) => number) => ({
  soles: [sole("left", left), sole("right", () => 0.08)],
  hips: hipsAt(hips),
  frameCount: N,
  fps: 60,
});

describe("feet that the body is over", () => {
  // It stands for half of the time, then lies with its left leg up.
  const falls = feetOf(
    (f) => (f < 60 ? 0.08 : 0.3),
    (f) => (f < 60 ? 0.95 : 0.12),
  );
  const contacts = [
    foundContact("leftHeel", 0, 50),
    foundContact("leftToe", 0, 50),
    foundContact("leftToe", 70, 119),
    foundContact("rightToe", 5, 50),
    foundContact("rightToe", 80, 119),
  ];

  it("are those well under its hips: legs that are held up while it lies say nothing", () => {
    expect(underBody(falls, contacts)).toEqual([contacts[0], contacts[1], contacts[3]]);
  });

  it("are all where it never is over any, and where it always is", () => {
    const lies = feetOf(
      () => 0.3,
      () => 0.12,
    );
    expect(underBody(lies, contacts)).toEqual(contacts);
    const stands = feetOf(
      () => 0.08,
      () => 0.95,
    );
    expect(underBody(stands, contacts)).toEqual(contacts);
  });

  it("rest where they rest, each with its own height, over a ground that they share", () => {
    const { fit, heave } = heaveOver(falls, underBody(falls, contacts), new Float64Array(N * 2));
    expect(fit.heights.get("leftToe")).toBeCloseTo(0.02, 6);
    expect(fit.heights.get("leftHeel")).toBeCloseTo(0, 6);
    expect([fit.slopeX, fit.slopeZ].map((s) => Math.abs(s) < 1e-6)).toEqual([true, true]);
    expect(Math.max(...heave.course.map(Math.abs))).toBeLessThan(1e-6);
  });

  it("stand on a step where one carries the body by itself higher up, and not where both are down", () => {
    const steps = feetOf(
      (f) => (f < 60 ? 0.08 : 0.25),
      () => 0.95,
    );
    const path = new Float64Array(N * 2);
    const levelOf = (list: typeof contacts, start: number) =>
      levelled(steps, list, path).find((s) => s.contact.point === "leftToe" && s.contact.start === start)?.level;
    const alone = [foundContact("leftToe", 0, 50), foundContact("rightToe", 0, 65), foundContact("leftToe", 66, 119)];
    expect(levelOf(alone, 66)).toBeCloseTo(0.17, 3);
    const never = [foundContact("leftToe", 0, 50), foundContact("rightToe", 0, 119), foundContact("leftToe", 66, 119)];
    expect(levelOf(never, 66)).toBe(0);
  });

  it("stand on a box where both come down on it together, and not where one came later to the other", () => {
    const up = (f: number) => (f < 60 ? 0.08 : 0.38);
    const jump = { ...feetOf(up, () => 0.95), soles: [sole("left", up), sole("right", up)] };
    const levelOf = (landed: number) =>
      levelled(
        jump,
        [foundContact("leftToe", 0, 50), foundContact("rightToe", 0, 50), foundContact("leftToe", 70, 110), foundContact("rightToe", landed, 119)],
        new Float64Array(N * 2),
      ).find((s) => s.contact.point === "leftToe" && s.contact.start === 70)?.level;
    expect(levelOf(72)).toBeCloseTo(0.3, 3);
    expect(levelOf(62)).toBe(0);
  });

  it("of four legs stand on a step where each carries its own end of the body by itself, however the other end stands", () => {
    const hoof = (id: string, limb: number, height: (f: number) => number): Sole => {
      const { leg, points, ...rest } = sole(id.startsWith("left") ? "left" : "right", height);
      return { ...rest, leg: { ...leg, limb, parts: [id] }, points: [{ ...points[1], id }] };
    };
    const body = {
      soles: [
        hoof("leftHind", 0, () => 0.06),
        hoof("rightHind", 1, () => 0.06),
        hoof("leftFore", 2, (f) => (f < 60 ? 0.06 : 0.26)),
        hoof("rightFore", 3, () => 0.06),
      ],
      hips: hipsAt(() => 0.95),
      frameCount: N,
      fps: 60,
    };
    const hind = [foundContact("leftHind", 0, 119), foundContact("rightHind", 0, 119)];
    const fore = [foundContact("leftFore", 0, 50), foundContact("rightFore", 0, 65), foundContact("leftFore", 66, 119)];
    const levelOf = (list: typeof contacts) =>
      levelled(body, list, new Float64Array(N * 2)).find((s) => s.contact.point === "leftFore" && s.contact.start === 66)?.level;
    expect(levelOf([...hind, ...fore])).toBeCloseTo(0.2, 3);
    // With the other fore leg down as well it may be held up.
    expect(levelOf([...hind, fore[0], foundContact("rightFore", 0, 119), fore[2]])).toBe(0);
  });

  it("are seen with the travel taken out", () => {
    const travel = Float64Array.from({ length: N * 2 }, (_, i) => (i % 2 === 1 ? 0.5 : 0.2));
    const [first] = levelled(falls, [contacts[1]], travel);
    expect(first.rest.point[0]).toBeCloseTo(0.1 - 0.2, 9);
    expect(first.rest.point[2]).toBeCloseTo(0.3 + 0.14 - 0.5, 9);
    expect(first.rest.weight).toBeCloseTo(Math.sqrt(51), 9);
  });
});
