import { seeded } from "../random.ts";
import { fourLegged } from "../rolling/fourLegs.ts";
import type { RollingFaults } from "../rolling/spoil.ts";
import { rolledWalk } from "../rolling/walker.ts";
import { FOUR_GAITS, FOUR_NAMES, LEAST_STAND } from "./gaits.ts";
import { type MadeCase, ORDERS } from "./made.ts";
import { TWO_NAMES } from "./rolled.ts";

type Uniform = () => number;
const between = (random: Uniform, a: number, b: number) => a + (b - a) * random();
const oneOf = <T>(random: Uniform, list: readonly T[]): T => list[Math.floor(random() * list.length)];

const RATES = [24, 25, 30, 48, 50, 60, 100, 120];
/** Units in which files come, so many a metre. */
const UNITS = [1, 100, 1000, 10, 1 / 0.0254];
const SECONDS = 4;
/** Way that a foot stands for at most, as a share of the height. */
const LONGEST_STAND = 0.5;
const MOST_DRAWS = 20;
/** Of the faults each clip has about half. */
const OFTEN = 0.5;
/** Where joints tremble, by so many degrees. */
const TREMBLES = [0.1, 0.2, 0.3, 0.5, 0.7, 1];

function faults(random: Uniform, size: number): RollingFaults {
  const some = () => random() < OFTEN;
  return {
    ...(some() && { trembles: oneOf(random, TREMBLES) }),
    ...(some() && { travel: oneOf(random, [-1, 1]) * between(random, 0.08, 0.2) + 1 }),
    ...(random() < OFTEN / 2 && { spikes: 1 + Math.floor(random() * 5) }),
    ...(random() < OFTEN / 2 && { floor: [between(random, -0.04, 0.04) * size, between(random, -0.03, 0.03) * size] as const }),
    ...(random() < OFTEN / 2 && { bob: [between(random, 0.004, 0.012) * size, between(random, 0.8, 3)] as const }),
  };
}

function said({ trembles, travel, spikes, floor, bob }: RollingFaults): string {
  const parts = [
    trembles && `${trembles}°`,
    travel && `${Math.round(100 * travel)} %`,
    spikes && `${spikes} spikes`,
    floor && `floor ${(100 * floor[0]).toFixed(0)} cm`,
    bob && `bob ${(100 * bob[0]).toFixed(1)} cm`,
  ].filter(Boolean);
  return parts.length > 0 ? parts.join(", ") : "clean";
}

/** Of so many walks and gaits of the other make the one that a number means: body, gait, way, rate, unit and faults drawn at random. */
export function drawnCase(seed: number): MadeCase {
  const random = seeded(0x5a17 + seed);
  const four = seed % 2 === 1;
  const fps = oneOf(random, RATES);
  const hand = { order: oneOf(random, ORDERS), unit: oneOf(random, UNITS) };
  const make = reachable(() => (four ? drawnFour(random, fps) : drawnTwo(random, fps)));
  const wrong = faults(random, make.size);
  return { name: `drawn ${seed}, ${make.name}, ${fps}, ${said(wrong)}`, perform: () => make.walk, faults: wrong, hand, seed };
}

/** The first of some draws in which legs are long enough for their strides. */
function reachable<T>(draw: () => T): T {
  for (let k = 1; ; k++)
    try {
      return draw();
    } catch (error) {
      if (!(error instanceof RangeError) || k === MOST_DRAWS) throw error;
    }
}

export const drawnCases = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => drawnCase(from + i));

function drawnTwo(random: Uniform, fps: number) {
  const h = between(random, 1, 2.3);
  const body = {
    name: "two",
    height: h,
    foot: between(random, 0.06, 0.1),
    toe: between(random, 0.03, 0.05),
    ankle: between(random, 0.04, 0.06),
    legs: between(random, 0.88, 1.1),
    joints: oneOf(random, TWO_NAMES),
  };
  const run = random() < 0.3;
  const pace = run ? between(random, 1.2, 2.2) : between(random, 0.25, 0.95);
  const stride = (run ? between(random, 0.55, 0.75) * pace : 0.4 + 0.5 * pace) * h;
  const duty = run ? between(random, 0.28, 0.38) : between(random, 0.56, 0.68);
  const gait = {
    name: run ? "run" : "walk",
    speed: pace * h,
    // No longer than legs can stand over.
    stride: Math.min(stride, (LONGEST_STAND * body.legs * h) / duty),
    duty,
    // A foot comes down flat, or on its heel: in between nobody could say since when its toe is down.
    strike: random() < 0.15 ? 0 : between(random, 0.06, 0.4),
    push: between(random, 0.4, 0.9),
    lift: run ? between(random, 0.1, 0.18) : between(random, 0.03, 0.12),
    width: between(random, 0.5, 1.3),
    curve: random() < 0.3 ? between(random, -0.5, 0.5) / h : 0,
    bob: between(random, 0.006, 0.02),
    lag: random() < 0.2 ? between(random, 0.03, 0.08) : 0,
  };
  return { name: `${h.toFixed(2)} m, ${gait.name} ${gait.speed.toFixed(1)} m/s`, size: h / 1.75, walk: rolledWalk(body, gait, fps, SECONDS) };
}

function drawnFour(random: Uniform, fps: number) {
  const withers = between(random, 0.35, 1.7);
  const body = { name: "four", withers, joints: oneOf(random, FOUR_NAMES) };
  const slowest = (gait: (typeof FOUR_GAITS)[number]) => (gait.duty * gait.stride * Math.sqrt(withers)) / (1.15 * Math.abs(gait.speed) * Math.sqrt(9.81));
  const usual = oneOf(
    random,
    FOUR_GAITS.filter((g) => slowest(g) * fps >= LEAST_STAND),
  );
  const gait = { ...usual, speed: usual.speed * between(random, 0.85, 1.15), duty: usual.duty * between(random, 0.95, 1.05) };
  const curve = random() < 0.3 ? between(random, -0.3, 0.3) / withers : 0;
  return { name: `${withers.toFixed(2)} m, ${gait.name}`, size: withers / 1.2, walk: fourLegged(body, gait, fps, SECONDS, curve) };
}
