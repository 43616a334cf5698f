import { FOUR_ACTS, performedOnFour } from "../rolling/fourActs.ts";
import type { FourLegged } from "../rolling/fourBones.ts";
import { type FourGait, fourLegged } from "../rolling/fourLegs.ts";
import { held } from "../rolling/held.ts";
import type { RollingFaults } from "../rolling/spoil.ts";
import { type MadeCase, ORDERS, RATES } from "./made.ts";
import { rolledCases } from "./rolled.ts";

const sides = (left: string, right: string, bones: readonly string[]) => [left, right].flatMap((side) => bones.map((bone) => side + bone));
export const FOUR_NAMES = [
  [
    ..."Pelvis Spine Chest Neck Head Tail".split(" "),
    ...sides("Left", "Right", ["Thigh", "Gaskin", "Cannon", "Hoof"]),
    ...sides("Left", "Right", ["Shoulder", "Forearm", "ForeCannon", "ForeHoof"]),
  ],
  Array.from({ length: 22 }, (_, i) => `J${i}`),
  [
    ..."root spine1 spine2 neck head tail".split(" "),
    ...sides("L_", "R_", ["hip", "knee", "hock", "foot"]),
    ...sides("L_", "R_", ["shoulder", "elbow", "wrist", "hand"]),
  ],
];
export const FOUR_BODIES: readonly FourLegged[] = [0.45, 0.8, 1.2, 1.6].map((withers, i) => ({
  name: `${withers} m`,
  withers,
  joints: FOUR_NAMES[i % FOUR_NAMES.length],
}));

/** Speeds, strides and the order of the hooves as animals have them, more or less. */
export const FOUR_GAITS: readonly FourGait[] = [
  { name: "walk", speed: 0.35, stride: 0.85, duty: 0.64, lags: [0, 0.5, 0.25, 0.75], pitch: 0.02 },
  { name: "slow walk", speed: 0.19, stride: 0.6, duty: 0.76, lags: [0, 0.5, 0.25, 0.75], pitch: 0.02 },
  { name: "backwards", speed: -0.21, stride: 0.55, duty: 0.68, lags: [0, 0.5, 0.48, 0.98], pitch: 0.02 },
  { name: "amble", speed: 0.56, stride: 1.1, duty: 0.46, lags: [0, 0.5, 0.22, 0.72], pitch: 0.02 },
  { name: "trot", speed: 0.73, stride: 1.3, duty: 0.42, lags: [0, 0.5, 0.5, 0], pitch: 0.02 },
  { name: "pace", speed: 0.73, stride: 1.3, duty: 0.42, lags: [0, 0.5, 0, 0.5], pitch: 0.02 },
  { name: "canter", speed: 0.84, stride: 1.7, duty: 0.36, lags: [0, 0.28, 0.28, 0.55], pitch: 0.08 },
  { name: "gallop", speed: 1.26, stride: 2.3, duty: 0.24, lags: [0, 0.12, 0.45, 0.57], pitch: 0.08 },
];
const FAULTS: readonly (readonly [string, RollingFaults])[] = [
  ["clean", {}],
  ["+12 %", { travel: 1.12 }],
  ["−15 %", { travel: 0.85 }],
  ["0.4°", { trembles: 0.4 }],
  ["spikes", { spikes: 5 }],
  ["bob 0.8 cm, 1.7 Hz", { bob: [0.008, 1.7] }],
];

/** Frames at least that a hoof is down for, so that a file can show that it is. */
export const LEAST_STAND = 3;

/** Four bodies, eight gaits, six faults; every third along a curve; rates, units and orders of angles in turn. */
export function gaitCases(): MadeCase[] {
  let count = 0;
  return FOUR_BODIES.flatMap((body) =>
    FOUR_GAITS.flatMap((gait) => {
      const stand = (gait.duty * gait.stride * Math.sqrt(body.withers)) / (Math.abs(gait.speed) * Math.sqrt(9.81));
      return FAULTS.map(([what, faults], i): MadeCase => {
        const rates = RATES.filter((fps) => stand * fps >= LEAST_STAND);
        const fps = rates[(count + i) % rates.length];
        count++;
        const curve = count % 3 === 0 ? 0.25 / body.withers : 0;
        return {
          name: `${body.name}, ${fps}, ${gait.name}, ${what}`,
          perform: () => fourLegged(body, gait, fps, gait.duty > 0.45 ? 4 : 2.5, curve),
          faults,
          hand: { order: ORDERS[count % ORDERS.length], unit: count % 2 === 0 ? 100 : 1 },
          seed: count,
        };
      });
    }),
  );
}

const ACT_FAULTS: readonly (readonly [string, RollingFaults])[] = [
  ["clean", {}],
  ["0.3°", { trembles: 0.3 }],
  ["floor −5 cm, drift", { floor: [-0.05, 0.02] }],
  ["spikes", { spikes: 4 }],
  ["bob 0.6 cm, 1.5 Hz", { bob: [0.006, 1.5] }],
];

/** Four bodies, what animals do beside going, five faults; rates, units and orders of angles in turn. */
export function fourActCases(): MadeCase[] {
  let count = 0;
  return FOUR_BODIES.flatMap((body) =>
    FOUR_ACTS.flatMap((act) =>
      ACT_FAULTS.map(([what, faults]): MadeCase => {
        const fps = RATES[count % RATES.length];
        const hand = { order: ORDERS[count % ORDERS.length], unit: count % 2 === 0 ? 100 : 1 };
        return { name: `${body.name}, ${fps}, ${act.name}, ${what}`, perform: () => performedOnFour(body, act, fps), faults, hand, seed: ++count };
      }),
    ),
  );
}

/** Every walk and every gait of the other make, whose legs leap where their stands begin or end. */
export function struckCases(): MadeCase[] {
  const clean = [...rolledCases(), ...gaitCases()].filter(({ faults }) => Object.keys(faults).length === 0);
  return clean.map((one) => ({ ...one, name: one.name.replace("clean", "struck"), faults: { struck: true } }));
}

/** Walks and gaits of the other make, clean, trembling and with spikes, that go too far or not far enough by the same at every moment: what sways and surges in them does so as it did. */
export function evenCases(): MadeCase[] {
  const ways = [0.9, 1.1, 0.8, 1.2];
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults: { travel, floor, bob } }) => !travel && !floor && !bob)
    .map((one, i) => ({ ...one, name: `${one.name}, way ${ways[i % 4]}`, faults: { ...one.faults, way: ways[i % 4] } }));
}

/** Walks and gaits of the other make that go on the spot: of their ways only what sways and surges is left. */
export function spotCases(): MadeCase[] {
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults: { travel } }) => !travel)
    .map((one) => ({ ...one, name: `${one.name}, on the spot`, faults: { ...one.faults, way: 0 } }));
}

/** Walks and gaits of the other make, clean and trembling, whose body wanders a little beside its way, slowly or less so. */
export function wanderCases(): MadeCase[] {
  const wanders = [
    [0.015, 0.25],
    [0.01, 0.5],
  ] as const;
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults: { travel, floor, bob, spikes } }) => !travel && !floor && !bob && !spikes)
    .flatMap((one) =>
      wanders.map((wander) => ({ ...one, name: `${one.name}, wander ${wander[0] * 100} cm, ${wander[1]} Hz`, faults: { ...one.faults, wander } })),
    );
}

/** Clean walks and gaits of the other make in which single feet slip as they stand: aside, a little aside, and along. */
export function slipCases(): MadeCase[] {
  const slips = [
    ["6 cm aside", 0.07, "z"],
    ["1 cm aside", 0.015, "z"],
    ["5 cm along", 0.06, "x"],
  ] as const;
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults }) => Object.keys(faults).length === 0)
    .flatMap((one) =>
      slips.map(([what, angle, about]) => ({ ...one, name: one.name.replace("clean", `slips ${what}`), faults: { slips: [angle, about] as const } })),
    );
}

/** Walks and gaits of the other make, clean and trembling, whose whole body leaps on single frames. */
export function leapCases(): MadeCase[] {
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults: { travel, floor, bob, spikes } }) => !travel && !floor && !bob && !spikes)
    .map((one) => ({ ...one, name: `${one.name}, leaps`, faults: { ...one.faults, leaps: 5 } }));
}

/** Walks and slower gaits of the other make, drawn on twos: each pose for two frames. */
export function steppedCases(): MadeCase[] {
  return [...rolledCases(), ...gaitCases()]
    .filter(({ name, faults }) => Object.keys(faults).length === 0 && !/run|canter|gallop/.test(name))
    .map((one) => ({ ...one, name: `${one.name}, on twos`, perform: () => held(one.perform(), 2) }));
}

/** Clean walks and gaits of the other make whose whole body rises, or sinks, by a centimetre a second all along. */
export function riseCases(): MadeCase[] {
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults }) => Object.keys(faults).length === 0)
    .map((one, i) => ({ ...one, name: one.name.replace("clean", i % 2 === 0 ? "rises" : "sinks"), faults: { rise: i % 2 === 0 ? 0.012 : -0.012 } }));
}

/** Clean walks and gaits of the other make of which each nineteenth frame was dropped, and the one before shown again. */
export function dropCases(): MadeCase[] {
  return [...rolledCases(), ...gaitCases()]
    .filter(({ faults }) => Object.keys(faults).length === 0)
    .map((one) => ({ ...one, name: one.name.replace("clean", "drops"), faults: { drops: 19 } }));
}
