import type { RollingFaults } from "../rolling/spoil.ts";
import { type RollingBody, type RollingGait, rolledWalk } from "../rolling/walker.ts";
import { type MadeCase, ORDERS, RATES } from "./made.ts";

export const TWO_NAMES = [
  "Hips Spine Chest Neck Head LeftThigh LeftShin LeftFoot LeftToes RightThigh RightShin RightFoot RightToes LeftArm LeftForearm LeftHand RightArm RightForearm RightHand".split(
    " ",
  ),
  "pelvis spine_01 spine_02 neck_01 head thigh_l calf_l foot_l ball_l thigh_r calf_r foot_r ball_r upperarm_l lowerarm_l hand_l upperarm_r lowerarm_r hand_r".split(
    " ",
  ),
  Array.from({ length: 19 }, (_, i) => `J${i}`),
];
export const BODIES: readonly RollingBody[] = [
  { name: "rolled", height: 1.75, foot: 0.075, toe: 0.04, ankle: 0.045, legs: 1, joints: TWO_NAMES[0] },
  { name: "rolled child", height: 1.2, foot: 0.07, toe: 0.035, ankle: 0.06, legs: 0.85, joints: TWO_NAMES[1] },
  { name: "rolled giant", height: 2.3, foot: 0.1, toe: 0.05, ankle: 0.05, legs: 1.1, joints: TWO_NAMES[2] },
];
export const gaitsOf = (h: number): readonly RollingGait[] => {
  const walk = { name: "walk", speed: 0.78 * h, stride: 0.8 * h, duty: 0.62, strike: 0.35, push: 0.7, lift: 0.05, width: 1, curve: 0, bob: 0.012, lag: 0 };
  return [
    walk,
    { ...walk, name: "slow", speed: 0.4 * h, stride: 0.6 * h, duty: 0.68, strike: 0.2, push: 0.5, lift: 0.04, width: 1.2, bob: 0.008 },
    { ...walk, name: "march", speed: 0.6 * h, stride: 0.7 * h, duty: 0.6, strike: 0, push: 0.4, lift: 0.14, width: 1.1, bob: 0.01 },
    { ...walk, name: "curve", speed: 0.7 * h, stride: 0.76 * h, strike: 0.3, push: 0.6, curve: 0.43 / h },
    { ...walk, name: "limp", speed: 0.5 * h, stride: 0.6 * h, duty: 0.66, strike: 0.2, push: 0.4, width: 1.1, bob: 0.015, lag: 0.08 },
    { ...walk, name: "run", speed: 1.7 * h, stride: 1.25 * h, duty: 0.32, strike: 0.15, push: 0.9, lift: 0.16, width: 0.5, bob: 0.02 },
  ];
};
const FAULTS: readonly (readonly [string, RollingFaults])[] = [
  ["clean", {}],
  ["+12 %", { travel: 1.12 }],
  ["−12 %", { travel: 0.88 }],
  ["0.4°", { trembles: 0.4 }],
  ["0.4°, +12 %", { trembles: 0.4, travel: 1.12 }],
  ["spikes", { spikes: 6 }],
  ["floor −6 cm, drift", { floor: [-0.06, 0.03] }],
  ["bob 0.8 cm, 1.7 Hz", { bob: [0.008, 1.7] }],
];

/** Three bodies, six gaits, eight faults; rates, units and orders of angles in turn. */
export function rolledCases(): MadeCase[] {
  let count = 0;
  return BODIES.flatMap((body, b) =>
    gaitsOf(body.height).flatMap((gait) =>
      FAULTS.map(([what, faults]) => {
        const fps = RATES[count % RATES.length];
        const hand = { order: ORDERS[count % ORDERS.length], unit: b === 0 ? 100 : 1 };
        count++;
        return {
          name: `${body.name}, ${fps}, ${gait.name}, ${what}`,
          perform: () => rolledWalk(body, gait, fps, gait.name === "run" ? 3 : 4.5),
          faults,
          hand,
          seed: count,
        };
      }),
    ),
  );
}
