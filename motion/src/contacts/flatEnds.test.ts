import { describe, expect, it } from "vitest";
import { ROLLING, rollingFoot } from "../testing/rollingFoot.ts";
import { flatEnds } from "./flatEnds.ts";
import type { PooledSpan } from "./pooledEnds.ts";

const FPS = 60;
const MOST = { out: 5, in: 12 };
const span = (start: number, end: number): PooledSpan => ({ start, end, doubtful: [0, 0] });

const rolling = (trembles: number, seed: number) => rollingFoot(12, trembles, seed);
const starts = Array.from({ length: 12 }, (_, i) => ROLLING.first + ROLLING.every * i);

describe("ends of a heel and a toe of which the other one is down", () => {
  it("are told by how the foot is turned, however the leg takes both along: from 5 frames off to within one", () => {
    const off = { toes: 0, heels: 0 };
    for (const seed of [1, 2, 3]) {
      const heels = starts.map((s, i) => span(s, s + 28 + (i % 2 === 0 ? 5 : -5)));
      const toes = starts.map((s, i) => span(s + 8 + (i % 2 === 0 ? -5 : 5), s + 39));
      const told = flatEnds({ sole: rolling(1, seed), heels, toes }, FPS, MOST);
      told.toes.forEach(({ start, end }, i) => {
        off.toes += Math.abs(start - starts[i] - 8) / 36;
        // Nothing says how long the toe stays: its heel is up.
        expect(end).toBe(starts[i] + 39);
      });
      told.heels.forEach(({ start, end }, i) => {
        off.heels += Math.abs(end - starts[i] - 28) / 36;
        expect(start).toBe(starts[i]);
      });
    }
    expect(off.toes).toBeLessThan(1.2);
    expect(off.heels).toBeLessThan(1.2);
  });

  it("stay where they are where the foot does not roll, and at the clip's own ends", () => {
    const still = {
      ...rolling(0, 1),
      track: { frameCount: 200, positions: new Float64Array(600), rotations: new Float32Array(800).map((_, i) => (i % 4 === 3 ? 1 : 0)) },
    };
    const feet = [
      { heels: [span(20, 180)], toes: [span(30, 170)] },
      { heels: [span(0, 199)], toes: [span(0, 199)] },
    ];
    for (const foot of feet) expect(flatEnds({ sole: still, ...foot }, FPS, MOST)).toMatchObject(foot);
    const none = { heels: [], toes: [span(5, 40)] };
    expect(flatEnds({ sole: still, ...none }, FPS, MOST)).toMatchObject(none);
  });
});
