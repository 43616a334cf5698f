import type { Sole } from "../character/soles.ts";
import { normalNumbers } from "./noise.ts";

/** Stands of a rolling foot begin every so many frames, the first on this one. */
export const ROLLING = { first: 10, every: 60 } as const;

/** A foot of so many stands of 40 frames: the heel comes down with the foot up by 20°, it rolls flat in 8 frames, and lifts off its heel in the last 12. Trembling by so many degrees (1 σ). */
export function rollingFoot(stands: number, trembles: number, seed: number): Sole {
  const frames = stands * ROLLING.every + 2 * ROLLING.first;
  const normal = normalNumbers(seed);
  const rotations = new Float32Array(frames * 4);
  for (let f = 0; f < frames; f++) {
    const k = (f - ROLLING.first) % ROLLING.every;
    const pitch = f < ROLLING.first || k >= 40 ? 0.5 : k < 8 ? 0.35 * (1 - k / 8) ** 2 : k > 28 ? -0.6 * ((k - 28) / 12) ** 2 : 0;
    const half = -pitch / 2 + (trembles * Math.PI * normal()) / 360;
    rotations.set([Math.sin(half), 0, 0, Math.cos(half)], f * 4);
  }
  const place = (id: string, z: number) => ({ id, local: [0, -0.08, z] as const, modelled: true, clearance: 0 });
  return {
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
}
