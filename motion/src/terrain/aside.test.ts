import { describe, expect, it } from "vitest";
import type { LimbCourse } from "../plants/limbCourses.ts";
import { swingAside } from "./aside.ts";

const N = 41;

/** A leg of two bones of 0.4 m whose hip stays at a height of 1 m, its fellow 0.2 m to the right, and an end that passes `over` (metres under the hip) at frame 20. */
function passing(over: number) {
  const still = (x: number, y: number, z: number) => Float64Array.from({ length: N * 3 }, (_, i) => [x, y, z][i % 3]);
  const hip = still(0.1, 1, 0);
  const positions = Float64Array.from({ length: N * 3 }, (_, i) => {
    const u = ((i - (i % 3)) / 3 - 20) / 20;
    return [0.1, 1 - over - 0.4 * u * u, 0.5 * u][i % 3];
  });
  const resting = Uint8Array.from({ length: N }, (_, f) => (f < 3 || f > N - 4 ? 1 : 0));
  const end = { frameCount: N, positions: still(0.1, 0.35, 0), rotations: new Float32Array(N * 4) };
  const course: LimbCourse = { end, hip, knee: still(0.1, 0.6, 0), upper: new Float32Array(0), lower: new Float32Array(0), above: null };
  return { course, targets: { positions, rotations: new Float64Array(N * 4), resting }, beside: still(-0.1, 1, 0) };
}

const away = (p: Float64Array, f: number) => Math.hypot(p[f * 3] - 0.1, p[f * 3 + 1] - 1, p[f * 3 + 2]);

/** Bones of 0.4 and 0.25 m folded by 150°: law of cosines. */
const FOLDED = Math.sqrt(0.4 ** 2 + 0.25 ** 2 - 2 * 0.4 * 0.25 * Math.cos(Math.PI / 6));

describe("a swing past the hip", () => {
  it("goes round it to the leg's own side, no nearer than the leg folds, at its height", () => {
    const { course, targets, beside } = passing(0.05);
    const was = targets.positions.slice();
    expect(away(was, 20)).toBeLessThan(FOLDED);
    expect(swingAside(targets, course, beside, 60)).toBe(true);
    for (let f = 3; f < N - 3; f++) expect(away(targets.positions, f)).toBeGreaterThanOrEqual(FOLDED - 1e-9);
    expect(away(targets.positions, 20)).toBeLessThan(FOLDED + 0.03);
    for (let f = 0; f < N; f++) {
      expect(targets.positions[f * 3]).toBeGreaterThanOrEqual(0.1 - 1e-12);
      expect(targets.positions[f * 3 + 1]).toBe(was[f * 3 + 1]);
      expect(targets.positions[f * 3 + 2]).toBe(was[f * 3 + 2]);
      if (targets.resting[f]) expect(targets.positions[f * 3]).toBe(was[f * 3]);
    }
  });

  it("goes to the other side for the other leg", () => {
    const { course, targets } = passing(0.05);
    swingAside(
      targets,
      course,
      Float64Array.from({ length: N * 3 }, (_, i) => [0.3, 1, 0][i % 3]),
      60,
    );
    expect(targets.positions[20 * 3]).toBeLessThan(0);
  });

  it("stays where it is when the leg need not fold for it", () => {
    const { course, targets, beside } = passing(0.3);
    const was = targets.positions.slice();
    expect(swingAside(targets, course, beside, 60)).toBe(false);
    expect(targets.positions).toEqual(was);
  });

  it("does not ask a leg to be less folded than it came", () => {
    const { course, targets, beside } = passing(0.05);
    course.end.positions.set(Float64Array.from({ length: N * 3 }, (_, i) => [0.1, 0.96, 0][i % 3]));
    expect(swingAside(targets, course, beside, 60)).toBe(false);
  });
});
