import { describe, expect, it } from "vitest";
import type { Sole } from "../character/soles.ts";
import { normalNumbers } from "../testing/noise.ts";
import { flatEnds } from "./flatEnds.ts";
import type { PooledSpan } from "./pooledEnds.ts";

const FPS = 60;
const MOST = { out: 5, in: 12 };
const span = (start: number, end: number): PooledSpan => ({ start, end, doubtful: [0, 0] });

/** Twelve stands of 40 frames: the heel comes down with the foot up by 20°, it rolls flat in 8 frames, and lifts off its heel in the last 12. Trembling by so many degrees (1 σ). */
function rolling(trembles: number, seed: number) {
  const frames = 12 * 60 + 20;
  const normal = normalNumbers(seed);
  const rotations = new Float32Array(frames * 4);
  for (let f = 0; f < frames; f++) {
    const k = (f - 10) % 60;
    const pitch = f < 10 || k >= 40 ? 0.5 : k < 8 ? 0.35 * (1 - k / 8) ** 2 : k > 28 ? -0.6 * ((k - 28) / 12) ** 2 : 0;
    const half = -pitch / 2 + (trembles * Math.PI * normal()) / 360;
    rotations.set([Math.sin(half), 0, 0, Math.cos(half)], f * 4);
  }
  const place = (id: string, z: number) => ({ id, local: [0, -0.08, z] as const, modelled: true, clearance: 0 });
  const sole: Sole = {
    leg: {} as Sole["leg"],
    track: { frameCount: frames, positions: new Float64Array(frames * 3), rotations },
    unseen: new Set(),
    points: [place("leftHeel", -0.05), place("leftToe", 0.13)],
    along: null,
    flat: [],
    upLocal: [0, 1, 0],
    legLength: 0.9,
    expected: 0,
  };
  return sole;
}
const starts = Array.from({ length: 12 }, (_, i) => 10 + 60 * i);

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
