import { fourLegged } from "../rolling/fourLegs.ts";
import type { Made } from "../rolling/made.ts";
import type { RollingFaults } from "../rolling/spoil.ts";
import { block, flight, ramp, rough, type Terrain } from "../rolling/terrain.ts";
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

const QUICK_FAULTS = FAULTS.slice(0, 2);

/** Ramps, flights, boxes, pits and rough places under a gait: `half` is half a stride, `first` where the first edge lies between two footfalls, metres; `size` the body's against a usual one. */
function grounds(half: number, first: number, size: number): readonly (readonly [string, Terrain])[] {
  return [
    ["up 4°", ramp(4, -size, 100)],
    ["up 8° and level", ramp(8, 1.5 * size, 3 * size)],
    ["down 12°", ramp(-12, -size, 100)],
    ["up 10 cm steps", flight(first + 2 * half, half, 0.1 * size, 4)],
    ["up 19 cm steps", flight(first + 2 * half, half, 0.19 * size, 4)],
    ["down 16 cm steps", flight(first + 2 * half, half, -0.16 * size, 5)],
    ["kerb of 5 cm", flight(first + 3 * half, half, 0.05 * size, 1)],
    ["box of 20 cm", block(first + 2 * half, first + 3 * half, 0.2 * size)],
    ["pit of 15 cm", block(first + 2 * half, first + 4 * half, -0.15 * size)],
    ["rough, 2 cm", rough(first, half, 0.02 * size)],
  ];
}

const RAMPS: readonly (readonly [string, Terrain])[] = [
  ["up 5°", ramp(5, -2, 50)],
  ["down 6°", ramp(-6, -2, 50)],
];

/** Walks, and quick gaits on ramps, of two and four legs on other grounds than level ones, of the other make: rates, units and orders of angles in turn. */
export function wayCases(): MadeCase[] {
  const cases: MadeCase[] = [];
  const add = (name: string, terrain: Terrain, wrong: typeof FAULTS, rate: number | null, perform: (fps: number) => Made) => {
    for (const [what, faults] of wrong) {
      const count = cases.length;
      const fps = rate ?? RATES[count % RATES.length];
      const hand = { order: ORDERS[count % ORDERS.length], unit: count % 2 === 0 ? 100 : 1 };
      const [before, after] = name.split(" | ");
      cases.push({ name: `${before}, ${fps}, ${after}, ${what}`, perform: () => perform(fps), faults, hand, seed: count + 1, terrain });
    }
  };
  for (const body of BODIES) {
    const { height: h } = body;
    // Steps take shorter strides, and higher ones.
    const gait = { ...gaitsOf(h)[0], stride: 0.66 * h, speed: 0.6 * h, lift: 0.09, push: 0.5 };
    const half = gait.stride / 2;
    for (const [what, terrain] of grounds(half, (gait.duty * gait.stride) / 2 - half / 2 + 0.05 * h, h / 1.75))
      add(`${body.name} | ${what}`, terrain, FAULTS, null, (fps) => rolledWalk(body, gait, fps, 4.5, terrain));
    for (const [what, terrain] of RAMPS)
      add(`${body.name} | run ${what}`, terrain, QUICK_FAULTS, 60, (fps) => rolledWalk(body, gaitsOf(h)[5], fps, 3, terrain));
  }
  for (const body of FOUR_BODIES) {
    const { withers: w } = body;
    const gait = { ...FOUR_GAITS[0], stride: 0.75, speed: 0.28 };
    const half = (gait.stride * w) / 2;
    for (const [what, terrain] of grounds(half, 0.3 * half, (0.6 * w) / 1.2))
      add(`${body.name} | ${what}`, terrain, FAULTS, null, (fps) => fourLegged(body, gait, fps, 4.5, 0, terrain));
    // On a slope a canter pitches less.
    for (const quick of [FOUR_GAITS[4], { ...FOUR_GAITS[6], pitch: 0.02 }])
      for (const [what, terrain] of RAMPS)
        add(`${body.name} | ${quick.name} ${what}`, terrain, QUICK_FAULTS, 60, (fps) => fourLegged(body, quick, fps, 2.5, 0, terrain));
  }
  return cases;
}
