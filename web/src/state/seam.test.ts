import { emptyWork, makePatch, type Patch } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { useBench } from "./bench.ts";
import { playhead } from "./playhead.ts";
import { pickedLoop, playSeam, seamFrames } from "./seam.ts";
import { benchWith } from "./testing.ts";

const loop = (repeats: number): Patch => makePatch("loop", "Loop", "loop", { from: 1, to: 2, repeats });

describe("the seam of a loop", () => {
  it("is played with what is around it; of a single repeat it is where playing starts anew", () => {
    const two = benchWith({ ...emptyWork(), patches: [loop(2)] });
    expect(seamFrames(loop(2), two.clocks, playhead.last)).toEqual([12, 48]);
    const one = benchWith({ ...emptyWork(), patches: [loop(1)] });
    expect(seamFrames(loop(1), one.clocks, playhead.last)).toEqual([0, 30]);
  });

  it("is that of the loop that is picked, and found at its place when time runs on above it", () => {
    const slow = makePatch("retime", "Slow", "slow", { speed: 0.5 });
    const { clocks } = benchWith({ ...emptyWork(), patches: [loop(2), slow] });
    expect(seamFrames(loop(2), clocks, playhead.last)).toEqual([42, 78]);
    useBench.setState({ patchId: "loop" });
    expect(pickedLoop()?.id).toBe("loop");
    useBench.setState({ patchId: "slow" });
    expect(pickedLoop()?.id).toBe("loop");
  });

  it("leaves everything alone where there is no loop", () => {
    benchWith(emptyWork());
    playhead.setRange([3, 9]);
    playSeam(pickedLoop());
    expect(playhead.range).toEqual([3, 9]);
    playhead.setRange(null);
  });
});
