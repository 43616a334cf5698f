import { describe, expect, it } from "vitest";
import { alignedTravel, followedTravel, mixedTravel, turnedTravel } from "./groundTravels.ts";

/** A ground that passes backwards by so much a frame. */
const passing = (speed: number, frames: number) => ({ x: new Float64Array(frames), z: Float64Array.from({ length: frames }, (_, f) => -speed * f) });

describe("what the ground travels", () => {
  it("turns with the body over it", () => {
    const { x, z } = turnedTravel(passing(0.1, 4), Math.PI / 2);
    expect([x[3], z[3]]).toEqual([expect.closeTo(-0.3, 9), expect.closeTo(0, 9)]);
  });

  it("is as far on a frame as another one is, and goes on as it does", () => {
    const { z } = alignedTravel(passing(0.1, 6), passing(0.5, 6), 2) as ReturnType<typeof passing>;
    expect(z[2]).toBeCloseTo(-1, 9);
    expect(z[4] - z[2]).toBeCloseTo(-0.2, 9);
    expect(alignedTravel(null, passing(0.5, 6), 2)).toBeNull();
    expect(alignedTravel(passing(0.1, 6), null, 2)?.z[2]).toBeCloseTo(0, 9);
  });

  it("is between the two where bodies are mixed; none where it is none under either", () => {
    const mixed = mixedTravel(passing(0.1, 3), passing(0.3, 3), Float64Array.of(0, 0.5, 1));
    expect([...(mixed?.z ?? [])]).toEqual([expect.closeTo(0, 9), expect.closeTo(-0.2, 9), expect.closeTo(-0.6, 9)]);
    expect(mixedTravel(null, passing(0.3, 3), Float64Array.of(1, 0.5, 0))?.z[1]).toBeCloseTo(-0.15, 9);
    expect(mixedTravel(null, null, new Float64Array(3))).toBeNull();
  });

  it("goes on at the speed of what follows, from where it was; at once, or as that comes in", () => {
    for (const overlap of [0, 4]) {
      const { z } = followedTravel(passing(0.1, 10), passing(0.3, 8), { at: 5, overlap, apart: [0, 0] }, 13) as ReturnType<typeof passing>;
      const steps = [...z].slice(1).map((v, i) => z[i] - v);
      for (let f = 0; f < 5; f++) expect(steps[f]).toBeCloseTo(0.1, 9);
      for (let f = 5 + overlap; f < 12; f++) expect(steps[f]).toBeCloseTo(0.3, 9);
    }
    // A body that is 0.3 m further on stays there: the ground goes that much further.
    const { z } = followedTravel(passing(0.1, 10), passing(0.3, 8), { at: 5, overlap: 4, apart: [0, -0.3] }, 13) as ReturnType<typeof passing>;
    expect(z[12]).toBeCloseTo(-0.7 + 0.3 * 2 - 0.3 * 7 - 0.3, 9);
    expect(followedTravel(passing(0.1, 10), null, { at: 5, overlap: 0, apart: [0, 1] }, 13)?.z[12]).toBeCloseTo(-0.5, 9);
    expect(followedTravel(null, null, { at: 5, overlap: 0, apart: [0, 1] }, 13)).toBeNull();
  });
});
