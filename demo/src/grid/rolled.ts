import { type Clip, DEFAULT_RECIPE, Evaluator, emptyWork, jointTrack, oneSource, quantile, readMotion } from "@stride/motion";
import { type RollingFaults, spoiled } from "../rolling/spoil.ts";
import { type Hand, rolledText } from "../rolling/text.ts";
import { LEGS, type Rolled, type RollingBody, type RollingGait, rolledWalk } from "../rolling/walker.ts";

/** A rolled walk, what is wrong with it, and how its file is written. */
export interface RolledCase {
  readonly name: string;
  readonly walk: Rolled;
  readonly faults: RollingFaults;
  readonly hand: Hand;
  readonly seed: number;
}

/** What became of a rolled walk: its contacts, and its toe joints while they are truly down, against the file as it would be without faults. Centimetres. */
export interface RolledFigures {
  readonly name: string;
  readonly f1: number;
  readonly f1Toe: number;
  readonly slideP95: number;
  readonly slideMax: number;
  readonly pops: number;
  /** share of a wrong travel that is left; 0 where none was put in */
  readonly travelOff: number;
}

const NAMES = [
  "Hips Spine Chest Neck Head LeftThigh LeftShin LeftFoot LeftToes RightThigh RightShin RightFoot RightToes LeftArm LeftForearm LeftHand RightArm RightForearm RightHand".split(
    " ",
  ),
  "pelvis spine_01 spine_02 neck_01 head thigh_l calf_l foot_l ball_l thigh_r calf_r foot_r ball_r upperarm_l lowerarm_l hand_l upperarm_r lowerarm_r hand_r".split(
    " ",
  ),
  Array.from({ length: 19 }, (_, i) => `J${i}`),
];
export const BODIES: readonly RollingBody[] = [
  { name: "rolled", height: 1.75, foot: 0.075, toe: 0.04, ankle: 0.045, legs: 1, joints: NAMES[0] },
  { name: "rolled child", height: 1.2, foot: 0.07, toe: 0.035, ankle: 0.06, legs: 0.85, joints: NAMES[1] },
  { name: "rolled giant", height: 2.3, foot: 0.1, toe: 0.05, ankle: 0.05, legs: 1.1, joints: NAMES[2] },
];
const gaits = (h: number): readonly RollingGait[] => {
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
const RATES = [30, 24, 60, 120, 25, 50];
const ORDERS = [
  ["z", "x", "y"],
  ["x", "y", "z"],
  ["y", "x", "z"],
  ["z", "y", "x"],
] as const;

/** Three bodies, six gaits, eight faults; rates, units and orders of angles in turn. */
export function rolledCases(): RolledCase[] {
  let count = 0;
  return BODIES.flatMap((body, b) =>
    gaits(body.height).flatMap((gait) =>
      FAULTS.map(([what, faults]) => {
        const fps = RATES[count % RATES.length];
        const hand = { order: ORDERS[count % ORDERS.length], unit: b === 0 ? 100 : 1 };
        count++;
        return {
          name: `${body.name}, ${fps}, ${gait.name}, ${what}`,
          walk: rolledWalk(body, gait, fps, gait.name === "run" ? 3 : 4.5),
          faults,
          hand,
          seed: count,
        };
      }),
    ),
  );
}

export function rolledFigures({ name, walk, faults, hand, seed }: RolledCase): RolledFigures {
  const { body, contacts } = walk;
  const read = (turns: Parameters<typeof rolledText>[1], roots: Parameters<typeof rolledText>[2]) =>
    readMotion(new TextEncoder().encode(rolledText(walk, turns, roots, hand)), { fileName: "rolled.bvh" });
  const faulty = spoiled(walk, faults, seed);
  const [truth, file] = [read(walk.turns, walk.roots), read(faulty.turns, faulty.roots)];
  const { base, result } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const course = (clip: Clip, joint: number) => jointTrack(file.skeleton, clip, file.skeleton.names.indexOf(body.joints[joint])).positions;
  const frames = walk.turns.length;
  const slides: number[] = [];
  for (const { point, start, end } of contacts) {
    if (!point.endsWith("Toe")) continue;
    const p = course(result.clip, LEGS[point.startsWith("left") ? 0 : 1][3]);
    const at = (axis: number) => Array.from({ length: end - start + 1 }, (_, i) => p[(start + i) * 3 + axis]);
    const [x, z] = [at(0), at(2)];
    const [mx, mz] = [quantile(x, 0.5), quantile(z, 0.5)];
    slides.push(...x.map((v, i) => 100 * Math.hypot(v - mx, z[i] - mz)));
  }
  const [came, was, is] = [truth.clip, file.clip, result.clip].map((clip) =>
    LEGS.flatMap((leg) => leg.slice(1).map((joint) => bends(course(clip, joint), course(clip, 0)))),
  );
  const pops = came.reduce((sum, of, k) => {
    const limit = 3 * quantile(of, 0.995);
    return sum + is[k].filter((v, f) => v > limit && Math.max(was[k][f - 1] ?? 0, was[k][f], was[k][f + 1] ?? 0) <= limit).length;
  }, 0);
  const way = (clip: Clip) => {
    const p = course(clip, 0);
    const o = (frames - 1) * 3;
    return Math.hypot(p[o] - p[0], p[o + 2] - p[2]);
  };
  const travelOff = faults.travel ? Math.abs(way(result.clip) - way(truth.clip)) / Math.abs(way(file.clip) - way(truth.clip)) : 0;
  const agree = (part: RegExp) => agreement(contacts, base.contacts, frames, part);
  return { name, f1: agree(/./), f1Toe: agree(/Toe$/), slideP95: quantile(slides, 0.95), slideMax: Math.max(...slides), pops, travelOff };
}

/** Second differences of a course seen from the hips, metres. */
function bends(course: Float64Array, hips: Float64Array): number[] {
  const off = (f: number, i: number) => course[f * 3 + i] - hips[f * 3 + i];
  return Array.from({ length: course.length / 3 - 2 }, (_, k) => Math.hypot(...[0, 1, 2].map((i) => off(k, i) - 2 * off(k + 1, i) + off(k + 2, i))));
}

type Span = { readonly point: string; readonly start: number; readonly end: number };

/** F1 of frames, over the feet's points whose name matches. */
function agreement(truth: readonly Span[], found: readonly Span[], frames: number, part: RegExp): number {
  let [both, either] = [0, 0];
  for (const point of ["leftHeel", "leftToe", "rightHeel", "rightToe"].filter((id) => part.test(id))) {
    const marks = [truth, found].map((spans) => {
      const out = new Uint8Array(frames);
      for (const s of spans) if (s.point === point) out.fill(1, s.start, s.end + 1);
      return out;
    });
    marks[0].forEach((down, f) => {
      both += 2 * down * marks[1][f];
      either += down + marks[1][f];
    });
  }
  return both / either;
}
