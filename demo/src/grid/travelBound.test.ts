import { describe, expect, it } from "vitest";
import { travel, withNoises } from "./cases.ts";
import { bestTravel } from "./travelBound.ts";

describe("what true stands tell of a wrong travel at best", () => {
  const cases = travel();
  const shareOf = (speed = 1) => 1 - 1 / speed;

  it("is all of it where nothing trembles", () => {
    for (const { truth, faulty, faults } of cases.filter((c) => !c.faults.jitter && /usual|0\.78/.test(c.name)))
      expect(bestTravel(truth, faulty, 0).share).toBeCloseTo(shareOf(faults.travel), 5);
  });

  it("is off by its own standard error where it does", () => {
    const noisy = withNoises(
      cases.filter((c) => c.faults.jitter && /usual|0\.78/.test(c.name)),
      8,
    );
    const offs = noisy.map(({ truth, faulty, faults }) => {
      const { share, error } = bestTravel(truth, faulty, faults.jitter ?? 0);
      return (share - shareOf(faults.travel)) / error;
    });
    const size = Math.sqrt(offs.reduce((sum, v) => sum + v * v, 0) / offs.length);
    expect(offs.length).toBe(80);
    expect(size).toBeGreaterThan(0.75);
    expect(size).toBeLessThan(1.25);
  });
});
