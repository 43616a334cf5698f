import { normal, seeded } from "../random.ts";
import type { Made } from "./made.ts";
import { type Mat, product, scaled, turn, turnAbout, unit, type Vec } from "./matrix.ts";

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
  /** each third stand of a joint, if it is not of few frames, is taken along by its leg, turned at its root by so many radians from its first to its last frame, about the axis ahead or aside, and back soon after */
  readonly slips?: readonly [number, "x" | "z"];
  /** so many single frames on which the whole body leaps by 2 to 8 cm, any way */
  readonly leaps?: number;
  /** height and sideways drift, metres and metres a second */
  readonly floor?: readonly [number, number];
  /** one frame of so many shows the one before again */
  readonly drops?: number;
  /** of the whole body, up all along: metres a second */
  readonly rise?: number;
  /** of the whole body: metres, times a second */
  readonly bob?: readonly [number, number];
  /** of the body's level place, aside and six tenths as far along, a little slower: metres, times a second */
  readonly wander?: readonly [number, number];
}

/** Stands nearer to an end of the clip are not struck, and leaps are so far from each other, frames. */
const CUT = 4;
const APART = 6;

/** A stand of fewer frames does not slip, and what does is back so many seconds after it. */
const FEW_FRAMES = 4;
const BACK_WITHIN = 0.2;

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
  const [slip, about] = faults.slips ?? [0, "z"];
  const slipping = contacts.filter(({ joint }) => slip !== 0 && joint !== undefined).filter(({ start, end }, k) => k % 3 === 1 && end - start >= FEW_FRAMES);
  for (const { joint, start, end } of slipping) {
    const leg = legs.find((l) => joint !== undefined && l.includes(joint));
    const back = Math.round(BACK_WITHIN * fps);
    for (let f = start; leg && f <= Math.min(turns.length - 1, end + back); f++) {
      const share = f <= end ? (f - start) / (end - start) : 1 - (f - end) / back;
      out[f][leg[0]] = product(turn(about, slip * share), out[f][leg[0]]);
    }
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
  const leaps = new Map<number, Vec>();
  for (let k = 0; k < (faults.leaps ?? 0); k++) {
    const f = 2 + Math.floor(((k + 0.2 + 0.6 * uniform()) * (roots.length - 4)) / (faults.leaps ?? 1));
    const way: Vec = [random(), random(), random()];
    leaps.set(f, scaled(unit(way), 0.02 + 0.06 * uniform()));
  }
  const places = roots.map(([x, y, z], f): Vec => {
    const t = f / fps;
    const [leapX, leapY, leapZ] = leaps.get(f) ?? [0, 0, 0];
    return [
      leapX + x0 + by * (x - x0) - wayX * f + drift * t + strays(t, 1, 0.7),
      leapY + y + floor + (faults.rise ?? 0) * t + size * Math.sin(2 * Math.PI * rate * t),
      leapZ + z0 + by * (z - z0) - wayZ * f + 0.6 * strays(t, 0.8, 2),
    ];
  });
  const { drops } = faults;
  const shown = (f: number) => (drops && f % drops === drops >> 1 ? f - 1 : f);
  return { turns: out.map((_, f) => out[shown(f)]), roots: places.map((_, f) => places[shown(f)]) };
}
