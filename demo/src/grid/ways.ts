import { fourLegged } from "../rolling/fourLegs.ts";
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

/** Walks, and quick gaits on ramps, of two and four legs on other grounds than level ones, of the other make: rates, units and orders of angles in turn. */
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
  for (const body of BODIES)
    for (const [what, terrain] of RAMPS)
      for (const [wrong, faults] of FAULTS.slice(0, 2)) {
        const { hand, seed } = turns();
        cases.push({
          name: `${body.name}, 60, run ${what}, ${wrong}`,
          walk: rolledWalk(body, gaitsOf(body.height)[5], 60, 3, terrain),
          faults,
          hand,
          seed,
          terrain,
        });
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
    // Quick gaits on ramps.
    for (const quick of [FOUR_GAITS[4], FOUR_GAITS[6]])
      for (const [what, terrain] of RAMPS)
        for (const [wrong, faults] of FAULTS.slice(0, 2)) {
          const { hand, seed } = turns();
          cases.push({
            name: `${body.name}, 60, ${quick.name} ${what}, ${wrong}`,
            walk: fourLegged(body, quick, 60, 2.5, 0, terrain),
            faults,
            hand,
            seed,
            terrain,
          });
        }
  }
  return cases;
}

const RAMPS: readonly (readonly [string, Terrain])[] = [
  ["up 5°", ramp(5, -2, 50)],
  ["down 6°", ramp(-6, -2, 50)],
];
