import { describe, expect, it } from "vitest";
import { ClipDraft, readRotation, rotationBetween } from "../clip/clip.ts";
import { popSpikes } from "./pops.ts";
import { laneNoise, rotationLane, steadiedLane } from "./smoothRotation.ts";
import { spikesOf, withoutSpikes } from "./spikes.ts";

const N = 90;
const FPS = 30;
/** A clip of one joint that turns about x by degrees given a frame. */
function turning(degrees: (frame: number) => number, frames = N) {
  const draft = ClipDraft.make("turning", FPS, frames, 1, Int16Array.of(0));
  for (let f = 0; f < frames; f++) {
    const half = (degrees(f) * Math.PI) / 360;
    draft.setRotation(0, f, [Math.sin(half), 0, 0, Math.cos(half)]);
  }
  return draft.done();
}
const swing = (f: number) => 30 * Math.sin(f / 6);
const angle = (clip: ReturnType<typeof turning>, f: number) => {
  const q = [0, 0, 0, 0];
  readRotation(clip, 0, f, q, 0);
  return (2 * Math.atan2(q[0], q[3]) * 180) / Math.PI;
};

describe("one-frame spikes", () => {
  it.each([12, -25])("of %d degrees in a swing are put back on it within half a degree, and nothing else is touched", (size) => {
    const spiked = turning((f) => swing(f) + (f === 40 ? size : 0));
    const mended = withoutSpikes(spiked, new Map([[0, spikesOf(spiked, 0)]]));
    expect(angle(mended, 40)).toBeCloseTo(swing(40), 0);
    for (let f = 0; f < N; f++) if (f !== 40) expect(rotationBetween(mended, f, spiked, f, 0)).toBe(0);
  });

  it("of a joint that rests and then swings are seen beside the side on which it rests", () => {
    const lifts = (f: number) => (f < 43 ? 0 : f < 46 ? 30 * (f - 43) ** 2 : 120);
    const spiked = turning((f) => lifts(f) + (f === 40 ? 14 : 0));
    expect(popSpikes(rotationLane(spiked, 0), N, 0.05)).toEqual([]);
    expect(spikesOf(spiked, 0)).toContain(40);
    expect(spikesOf(turning(lifts), 0)).not.toContain(43);
  });

  it("are not what a landing makes: a kink keeps its frames", () => {
    // Ten degrees a frame, then still: the second difference is as large as a spike's, but to one side only.
    const landing = turning((f) => (f < 40 ? 10 * (f - 40) : 0));
    expect(popSpikes(rotationLane(landing, 0), N, 0.05)).toEqual([]);
    expect(withoutSpikes(landing, new Map([[0, spikesOf(landing, 0)]]))).toBe(landing);
  });
});

describe("a lane that is steadied", () => {
  let seed = 11;
  const noise = () => {
    let sum = 0;
    for (let i = 0; i < 12; i++) {
      seed = (seed * 16807) % 2147483647;
      sum += seed / 2147483647;
    }
    return sum - 6;
  };
  const frames = 240;
  // A slow sway, and at frame 120 a quick step of 25 degrees within three frames.
  const truth = (f: number) => 8 * Math.sin(f / 30) + 25 / (1 + Math.exp(-(f - 120) / 0.7));
  const lane = rotationLane(
    turning((f) => truth(f) + 0.5 * noise(), frames),
    0,
  );
  const smooth = steadiedLane(lane, frames, 8, laneNoise(lane, frames) || (0.5 * Math.PI) / 180);
  const degrees = (of: Float64Array, f: number) => (2 * Math.atan2(of[f * 4], of[f * 4 + 3]) * 180) / Math.PI;

  it("loses most of its noise where it is slow", () => {
    const off = (of: Float64Array) =>
      Math.sqrt(Array.from({ length: 60 }, (_, i) => (degrees(of, 20 + i) - truth(20 + i)) ** 2).reduce((a, b) => a + b, 0) / 60);
    expect(off(smooth)).toBeLessThan(0.6 * off(lane));
  });

  it("keeps what is quick: no frame of the step is moved by more than noise", () => {
    for (let f = 112; f <= 128; f++) expect(Math.abs(degrees(smooth, f) - truth(f)), `frame ${f}`).toBeLessThan(2);
  });
});
