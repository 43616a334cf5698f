import { type Clip, DEFAULT_RECIPE, Evaluator, emptyWork, type GroundShape, jointTrack, makePatch, oneSource, placeOnShape, quantile } from "@stride/motion";
import { performBiped } from "../biped.ts";
import type { Character } from "../characters.ts";
import type { Performance } from "../performance.ts";
import { performQuadruped } from "../quadruped.ts";
import { angularAccelerations, limbJoints } from "../score.ts";
import { BIPEDS, quadrupeds, run, walk, walk4 } from "./bodies.ts";
import { restingJoint } from "./restingJoint.ts";

/** A clip on level ground whose truth is known, and the shapes that it is put onto. */
export interface PutCase {
  readonly name: string;
  readonly truth: Performance;
  readonly shapes: readonly GroundShape[];
}

/** What became of a motion on another ground, against the truth on the level one: joints, spans and surfaces are known. Centimetres. */
export interface PutFigures {
  readonly name: string;
  /** most that a resting joint moves more than it did */
  readonly slideMax: number;
  /** of resting joints over the new surface against what it was over the old one, p95 */
  readonly heightP95: number;
  /** deepest that a toe or hoof joint, in flight or not, comes nearer to the new surface than 2 cm, or than it was */
  readonly through: number;
  /** longest reach of a leg as a share of its length */
  readonly stretch: number;
  /** least reach of a leg as a share of what it had on that frame: how far it is folded up */
  readonly fold: number;
  /** sharpest angle of a knee or hock on frames on which it is sharper than it was, degrees: under 25 thigh and shank lie on each other */
  readonly sharpest: number;
  /** frames whose angular acceleration is over three times what the clip has at most (its 99.9th percentile) */
  readonly pops: number;
}

const width = 6;

/** Slopes, steps up and down (one for each footfall, and narrow ones) and a box, under walks, a run and a goat. */
export function putCases(): PutCase[] {
  const bodies = [BIPEDS[0], BIPEDS[1], BIPEDS[3], BIPEDS[4]];
  const performances: [string, number, Performance][] = [
    ...bodies.map((body): [string, number, Performance] => [`${body.character.name}, walk`, 0.7 * body.scale, performBiped(body.character, walk(body))]),
    [`${bodies[0].character.name}, run`, 1.25, performBiped(bodies[0].character, run(bodies[0]))],
    ...quadrupeds()
      .slice(0, 2)
      .map((body): [string, number, Performance] => [`${body.character.name}, walk`, 0.4 * body.scale, performQuadruped(body.character, walk4(body))]),
  ];
  return performances.flatMap(([name, stride, truth]) => {
    const start = { x: 0, z: 1, heading: 0, width, landing: 30 };
    const shapes: [string, GroundShape][] = [
      ["up 8°", { shape: "slope", ...start, degrees: 8, length: 40 }],
      ["down 8° and level", { shape: "slope", ...start, degrees: -8, length: 2 }],
      ["up 12°, turned", { shape: "slope", ...start, x: -2, heading: 35, degrees: 12, length: 3 }],
      ["steps of 15 cm", { shape: "steps", ...start, rise: 0.15, tread: stride, count: 3 }],
      ["steps down of 15 cm", { shape: "steps", ...start, rise: -0.15, tread: stride, count: 3 }],
      ["narrow steps of 8 cm", { shape: "steps", ...start, rise: 0.08, tread: 0.31, count: 6 }],
    ];
    return shapes.map(([what, shape]) => ({ name: `${name}, ${what}`, truth, shapes: [shape] }));
  });
}

export function putFigures({ name, truth, shapes }: PutCase): PutFigures {
  const { character, clip } = truth;
  const { skeleton, roles } = character;
  const patches = [...DEFAULT_RECIPE.patches, makePatch("ground", "Put on ground", "ground", { under: "level", shapes })];
  const { result, base } = new Evaluator(oneSource(skeleton, clip)).evaluate({ ...emptyWork(), patches });
  const course = (of: Clip, joint: number) => jointTrack(skeleton, of, joint).positions;
  let [slide, through, stretch, fold, sharpest] = [0, 0, 0, 1, 180];
  const heights: number[] = [];
  const spread = (p: Float64Array, start: number, end: number) =>
    Math.hypot(...[0, 2].map((i) => quantile(frames(start, end, p, i), 1) - quantile(frames(start, end, p, i), 0)));
  for (const { point, start, end } of truth.contacts) {
    if (point.endsWith("Heel")) continue;
    const [now, was] = [result.clip, clip].map((c) => course(c, restingJoint(roles, point)));
    slide = Math.max(slide, 100 * (spread(now, start, end) - spread(was, start, end)));
    for (let f = start; f <= end; f++) heights.push(100 * Math.abs(now[f * 3 + 1] - surface(shapes, now[f * 3], now[f * 3 + 2]) - was[f * 3 + 1]));
  }
  for (const joint of feet(character, truth)) {
    const [now, was] = [result.clip, clip].map((c) => course(c, joint));
    for (let f = 0; f < clip.frameCount; f++)
      through = Math.max(through, 100 * (Math.min(0.02, was[f * 3 + 1]) - now[f * 3 + 1] + surface(shapes, now[f * 3], now[f * 3 + 2])));
  }
  for (const limb of base.character.rig.limbs.filter((l) => base.points.some((p) => p.bears && p.joint === l.end))) {
    const [a, k, b, c, l, d] = [result.clip, clip].flatMap((of) => [limb.upper, limb.lower, limb.end].map((joint) => course(of, joint)));
    for (let f = 0; f < clip.frameCount; f++) {
      const [now, was] = [apart(a, b, f), apart(c, d, f)];
      stretch = Math.max(stretch, now / limb.length);
      fold = Math.min(fold, now / was);
      const bent = angleIn(apart(a, k, f), apart(k, b, f), now);
      if (bent < angleIn(apart(c, l, f), apart(l, d, f), was)) sharpest = Math.min(sharpest, bent);
    }
  }
  const legs = limbJoints(character);
  const limit = 3 * quantile(angularAccelerations(clip, legs), 0.999);
  const pops = angularAccelerations(result.clip, legs).filter((v) => v > limit).length;
  return { name, slideMax: slide, heightP95: quantile(heights, 0.95), through, stretch, fold, sharpest, pops };
}

/** Angle between two sides of a triangle, degrees, by the side across from it (law of cosines). */
function angleIn(one: number, other: number, across: number): number {
  return (180 / Math.PI) * Math.acos(Math.max(-1, Math.min(1, (one * one + other * other - across * across) / (2 * one * other))));
}

function apart(a: Float64Array, b: Float64Array, f: number): number {
  return Math.hypot(...[0, 1, 2].map((i) => a[f * 3 + i] - b[f * 3 + i]));
}

function frames(start: number, end: number, p: Float64Array, axis: number): number[] {
  return Array.from({ length: end - start + 1 }, (_, i) => p[(start + i) * 3 + axis]);
}

function feet({ roles }: Character, truth: Performance): number[] {
  return [...new Set(truth.contacts.map((c) => restingJoint(roles, c.point)))];
}

/** Height of one shape's surface by arithmetic of its own, metres. */
function surface([shape]: readonly GroundShape[], x: number, z: number): number {
  const [ox, oz] = placeOnShape(shape, 0, 0);
  const [ux, uz] = placeOnShape(shape, 1, 0);
  const along = (x - ox) * (ux - ox) + (z - oz) * (uz - oz);
  const across = Math.abs((x - ox) * (uz - oz) - (z - oz) * (ux - ox));
  if (along < 0 || across > shape.width / 2) return 0;
  if (shape.shape === "slope") return Math.tan((shape.degrees * Math.PI) / 180) * Math.min(along, shape.length);
  if (shape.shape === "steps") return shape.rise * Math.min(shape.count, 1 + Math.trunc(along / shape.tread));
  return along <= shape.length ? shape.height : 0;
}
