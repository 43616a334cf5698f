import { normal, seeded } from "../random.ts";
import type { Made } from "./made.ts";
import { type Mat, product, turnAbout, type Vec } from "./matrix.ts";

/** Faults of a motion, each as large as said. */
export interface RollingFaults {
  /** travel against the true one: 1.12 is 12 % too far */
  readonly travel?: number;
  /** the straight way from its first to its last place against the true one, put in or taken out evenly: 1.1 is 10 % too far, 0 goes on the spot */
  readonly way?: number;
  /** of every joint, degrees (1 σ) */
  readonly trembles?: number;
  /** so many single frames on which a joint of a leg leaps by 12 to 24° */
  readonly spikes?: number;
  /** a joint of a leg leaps by 12 to 25° on the first or the last frame of each stand that is whole and not beside another such leap */
  readonly struck?: boolean;
  /** height and sideways drift, metres and metres a second */
  readonly floor?: readonly [number, number];
  /** of the whole body: metres, times a second */
  readonly bob?: readonly [number, number];
  /** of the body's level place, aside and six tenths as far along, a little slower: metres, times a second */
  readonly wander?: readonly [number, number];
}

/** Stands nearer to an end of the clip are not struck, and leaps are so far from each other, frames. */
const CUT = 4;
const APART = 6;

/** Turns and root places of a motion with faults put into it. */
export function spoiled({ turns, roots, fps, legs, contacts }: Made, faults: RollingFaults, seed: number): { turns: Mat[][]; roots: Vec[] } {
  const uniform = seeded(seed);
  const random = normal(uniform);
  const shaken = (m: Mat, degrees: number) => product(m, turnAbout([random(), random(), random()], (degrees * Math.PI) / 180));
  const trembles = faults.trembles ?? 0;
  const out = turns.map((local) => (trembles > 0 ? local.map((m) => shaken(m, trembles * random())) : local.slice()));
  for (let k = 0; k < (faults.spikes ?? 0); k++) {
    // One to a stretch, so that none is beside another.
    const f = 2 + Math.floor(((k + 0.2 + 0.6 * uniform()) * (turns.length - 4)) / (faults.spikes ?? 1));
    const joint = legs[k % legs.length][Math.floor(3 * uniform())];
    out[f][joint] = shaken(out[f][joint], 12 + 12 * uniform());
  }
  const struck: number[] = [];
  for (const { joint, start, end } of faults.struck ? contacts : []) {
    const leg = legs.find((l) => joint !== undefined && l.includes(joint));
    if (!leg || start < CUT || end >= turns.length - CUT) continue;
    const f = uniform() < 0.5 ? start : end;
    if (struck.some((other) => Math.abs(other - f) < APART)) continue;
    struck.push(f);
    const leaps = leg[Math.floor(3 * uniform())];
    out[f][leaps] = shaken(out[f][leaps], 12 + 13 * uniform());
  }
  const [floor, drift] = faults.floor ?? [0, 0];
  const [size, rate] = faults.bob ?? [0, 0];
  const [far, often] = faults.wander ?? [0, 0];
  const strays = (t: number, share: number, lag: number) => far * Math.sin(2 * Math.PI * often * share * t + lag);
  const by = faults.travel ?? 1;
  const [x0, , z0] = roots[0];
  const last = roots.length - 1;
  const taken = (1 - (faults.way ?? 1)) / last;
  const [wayX, wayZ] = [0, 2].map((i) => taken * (roots[last][i] - roots[0][i]));
  return {
    turns: out,
    roots: roots.map(([x, y, z], f): Vec => {
      const t = f / fps;
      return [
        x0 + by * (x - x0) - wayX * f + drift * t + strays(t, 1, 0.7),
        y + floor + size * Math.sin(2 * Math.PI * rate * t),
        z0 + by * (z - z0) - wayZ * f + 0.6 * strays(t, 0.8, 2),
      ];
    }),
  };
}
