import { type Clip, clipWorld, DEFAULT_RECIPE, Evaluator, emptyWork, jointTrack, oneSource, quantile, readMotion } from "@stride/motion";
import type { Made } from "../rolling/made.ts";
import { type RollingFaults, spoiled } from "../rolling/spoil.ts";
import type { Terrain } from "../rolling/terrain.ts";
import { type Hand, rolledText } from "../rolling/text.ts";
import { f1Score, framesEitherWay } from "../score.ts";
import { bestByPlaces, restingCourse } from "./knownPlaces.ts";

/** A motion of another make, what is wrong with it, and how its file is written. */
export interface MadeCase {
  readonly name: string;
  /** performs it, when it is asked for */
  readonly perform: () => Made;
  readonly faults: RollingFaults;
  readonly hand: Hand;
  readonly seed: number;
  /** the ground along its way, which is straight, where that is not level */
  readonly terrain?: Terrain;
}

/** What became of it: its contacts, and the joints among them while they are truly down, against the file as it would be without faults. Centimetres. */
export interface MadeFigures {
  readonly name: string;
  readonly f1: number;
  /** without the frames beside a span in which the part lies within a fifth of a millimetre of its place */
  readonly f1Seen: number;
  /** against what is asked at least, or what one reaches who knows every place if that is less (`bestByPlaces`); 1 where it is that much */
  readonly f1Beyond: number;
  /** of points that are joints */
  readonly f1Joints: number;
  readonly slideP95: number;
  readonly slideMax: number;
  readonly pops: number;
  /** share of a wrong travel that is left; 0 where none was put in */
  readonly travelOff: number;
  /** deepest that the end of a leg, in flight or not, comes nearer to a ground that is not level than 2 cm, or than it truly is, but for how much lower the whole has come to lie; how its travel was wrong is another figure */
  readonly through: number;
  /** how many times its size the file's body was taken for */
  readonly size: number;
  /** mean distance of its joints from their true places */
  readonly apart: number;
}

/** Orders of angles and rates in which files are written, in turn. */
export const ORDERS = [
  ["z", "x", "y"],
  ["x", "y", "z"],
  ["y", "x", "z"],
  ["z", "y", "x"],
] as const;
export const RATES = [30, 24, 60, 120, 25, 50] as const;

export function madeFigures({ name, perform, faults, hand, seed, terrain }: MadeCase): MadeFigures {
  const walk = perform();
  const { joints, legs, contacts } = walk;
  const read = (turns: Parameters<typeof rolledText>[1], roots: Parameters<typeof rolledText>[2]) =>
    readMotion(new TextEncoder().encode(rolledText(walk, turns, roots, hand)), { fileName: "made.bvh" });
  const faulty = spoiled(walk, faults, seed);
  const [truth, file] = [read(walk.turns, walk.roots), read(faulty.turns, faulty.roots)];
  const { base, result } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const course = (clip: Clip, joint: number) => jointTrack(file.skeleton, clip, file.skeleton.names.indexOf(joints[joint])).positions;
  const frames = walk.turns.length;
  const slides: number[] = [];
  for (const { joint, start, end } of contacts) {
    if (joint === undefined) continue;
    const p = course(result.clip, joint);
    const at = (axis: number) => Array.from({ length: end - start + 1 }, (_, i) => p[(start + i) * 3 + axis]);
    const [x, z] = [at(0), at(2)];
    const [mx, mz] = [quantile(x, 0.5), quantile(z, 0.5)];
    slides.push(...x.map((v, i) => 100 * Math.hypot(v - mx, z[i] - mz)));
  }
  const [came, was, is] = [truth.clip, file.clip, result.clip].map((clip) =>
    legs.flatMap((leg) => leg.slice(1).map((joint) => bends(course(clip, joint), course(clip, 0)))),
  );
  const pops = came.reduce((sum, of, k) => {
    const limit = 3 * quantile(of, 0.995);
    return sum + is[k].filter((v, f) => v > limit && Math.max(was[k][f - 1] ?? 0, was[k][f], was[k][f + 1] ?? 0) <= limit).length;
  }, 0);
  let through = 0;
  // How high the whole lies a file cannot say.
  const higher = quantile(
    contacts.flatMap(({ joint, start, end }) => {
      const at = 3 * Math.round((start + end) / 2) + 1;
      return joint === undefined ? [] : [course(result.clip, joint)[at] - course(truth.clip, joint)[at]];
    }),
    0.5,
  );
  for (const leg of terrain ? legs : []) {
    const [was, is] = [truth.clip, result.clip].map((clip) => course(clip, leg[leg.length - 1]));
    for (let o = 0; o < was.length && terrain && !faults.travel; o += 3) {
      // Beside an edge a millimetre is a step: the ground under where it truly is counts, if it lies lower there than where it has come to.
      const over = (p: Float64Array) => p[o + 1] - Math.min(terrain(was[o + 2]).up, terrain(p[o + 2]).up);
      through = Math.max(through, 100 * (Math.min(0.02, over(was)) - over(is) + higher));
    }
  }
  const way = (clip: Clip) => {
    const p = course(clip, 0);
    const o = (frames - 1) * 3;
    return Math.hypot(p[o] - p[0], p[o + 2] - p[2]);
  };
  const travelOff = faults.travel || faults.way !== undefined ? Math.abs(way(result.clip) - way(truth.clip)) / Math.abs(way(file.clip) - way(truth.clip)) : 0;
  const long = file.skeleton.names.indexOf(joints[legs[0][1]]) * 3;
  const size = Math.hypot(...file.skeleton.offsets.slice(long, long + 3)) / Math.hypot(...walk.offsets[legs[0][1]]);
  const eitherWay = framesEitherWay(contacts, frames, (contact) => restingCourse(file.skeleton, truth.clip, walk, contact, size));
  const f1 = f1Score(contacts, base.contacts, frames);
  const reached = () => Math.min(LEAST_F1, bestByPlaces(walk, file.skeleton, truth.clip, read(faulty.turns, walk.roots).clip, size));
  return {
    name,
    f1,
    f1Beyond: f1 >= LEAST_F1 ? 1 : f1 / reached(),
    f1Seen: f1Score(contacts, base.contacts, frames, eitherWay),
    f1Joints: f1Score(
      contacts.filter((c) => c.joint !== undefined),
      base.contacts,
      frames,
    ),
    slideP95: quantile(slides, 0.95),
    slideMax: Math.max(...slides),
    pops,
    travelOff,
    through,
    size,
    apart: apartOf(clipWorld(file.skeleton, truth.clip).positions, clipWorld(file.skeleton, result.clip).positions),
  };
}

/** Mean distance of places [place][3] from others, centimetres. */
function apartOf(these: ArrayLike<number>, those: ArrayLike<number>): number {
  let sum = 0;
  for (let o = 0; o < these.length; o += 3) sum += Math.hypot(these[o] - those[o], these[o + 1] - those[o + 1], these[o + 2] - those[o + 2]);
  return (300 * sum) / these.length;
}

/** F1 that is asked at least. */
const LEAST_F1 = 0.95;

/** Second differences of a course seen from the hips, metres. */
function bends(course: Float64Array, hips: Float64Array): number[] {
  const off = (f: number, i: number) => course[f * 3 + i] - hips[f * 3 + i];
  return Array.from({ length: course.length / 3 - 2 }, (_, k) => Math.hypot(...[0, 1, 2].map((i) => off(k, i) - 2 * off(k + 1, i) + off(k + 2, i))));
}
