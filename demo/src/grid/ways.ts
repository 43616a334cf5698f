import { fourLegged } from "../rolling/fourLegs.ts";
import type { RollingFaults } from "../rolling/spoil.ts";
import { flight, ramp, type Terrain } from "../rolling/terrain.ts";
import { rolledWalk } from "../rolling/walker.ts";
import { FOUR_BODIES, FOUR_GAITS } from "./gaits.ts";
import { type MadeCase, ORDERS, RATES } from "./made.ts";
import { BODIES, gaitsOf } from "./rolled.ts";

const FAULTS: readonly (readonly [string, RollingFaults])[] = [
  ["clean", {}],
  ["+10 %", { travel: 1.1 }],
  ["0.3°", { trembles: 0.3 }],
  ["spikes", { spikes: 4 }],
];

/** Ramps and flights under a gait: `half` is half a stride, `first` where the first edge lies between two footfalls, metres; `size` the body's against a usual one. */
function grounds(half: number, first: number, size: number): readonly (readonly [string, Terrain])[] {
  return [
    ["up 4°", ramp(4, -size, 100)],
    ["up 8° and level", ramp(8, 1.5 * size, 3 * size)],
    ["down 12°", ramp(-12, -size, 100)],
    ["up 10 cm steps", flight(first + 2 * half, half, 0.1 * size, 4)],
    ["up 19 cm steps", flight(first + 2 * half, half, 0.19 * size, 4)],
    ["down 16 cm steps", flight(first + 2 * half, half, -0.16 * size, 5)],
  ];
}

/** Walks of two and four legs on ramps and steps, of the other make: rates, units and orders of angles in turn. */
export function wayCases(): MadeCase[] {
  let count = 0;
  const turns = () => ({ fps: RATES[count % RATES.length], hand: { order: ORDERS[count % ORDERS.length], unit: count % 2 === 0 ? 100 : 1 }, seed: ++count });
  const cases: MadeCase[] = [];
  for (const body of BODIES) {
    const { height: h } = body;
    const walk = gaitsOf(h)[0];
    // Steps take shorter strides, and higher ones.
    const gait = { ...walk, stride: 0.66 * h, speed: 0.6 * h, lift: 0.09, push: 0.5 };
    const half = gait.stride / 2;
    for (const [what, terrain] of grounds(half, (gait.duty * gait.stride) / 2 - half / 2 + 0.05 * h, h / 1.75))
      for (const [wrong, faults] of FAULTS) {
        const { fps, hand, seed } = turns();
        cases.push({ name: `${body.name}, ${fps}, ${what}, ${wrong}`, walk: rolledWalk(body, gait, fps, 4.5, terrain), faults, hand, seed, terrain });
      }
  }
  for (const body of FOUR_BODIES) {
    const { withers: w } = body;
    const gait = { ...FOUR_GAITS[0], stride: 0.75, speed: 0.28 };
    const half = (gait.stride * w) / 2;
    for (const [what, terrain] of grounds(half, 0.3 * half, (0.6 * w) / 1.2))
      for (const [wrong, faults] of FAULTS) {
        const { fps, hand, seed } = turns();
        cases.push({ name: `${body.name}, ${fps}, ${what}, ${wrong}`, walk: fourLegged(body, gait, fps, 4.5, 0, terrain), faults, hand, seed, terrain });
      }
  }
  return cases;
}
