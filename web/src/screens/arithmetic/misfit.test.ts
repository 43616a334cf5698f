import { describe, expect, it } from "vitest";
import { misfit } from "./misfit.ts";

const gait = { stepLength: 0.66, cycleFrames: 33, fps: 30, steps: 2, figureSpeed: 1.2, groundSpeed: 0 };

describe("travel that no longer goes with the steps", () => {
  it("is told with the speed that would", () => {
    expect(misfit({ ...gait, speed: 1.2 })).toBeNull();
    expect(misfit({ ...gait, speed: 1.23 })).toBeNull();
    expect(misfit({ ...gait, speed: 1.5 })).toBeCloseTo(1.2, 9);
    expect(misfit({ ...gait, speed: 0.6 })).toBeCloseTo(1.2, 9);
    expect(misfit(null)).toBeNull();
  });
});
