import { type Clip, jointTrack } from "@stride/motion";
import type { Performance } from "../performance.ts";
import { restingJoint } from "./restingJoint.ts";

/** A wrong travel as the true stands show it at best: share of the clip's own travel, and its standard error. */
export interface BestTravel {
  readonly share: number;
  readonly error: number;
}

/** Places of a stand that nothing trembles differ by this, metres: rounding of files. */
const ROUNDING = 1e-5;

/**
 * How exactly a clip whose joints tremble by `degrees` lets its wrong travel be known by anyone: best linear unbiased estimate (generalised least squares; Aitken 1935, Cramér–Rao's bound for normal noise)
 * from the generator's own stands. Within one the resting joint is at one unknown place p on level ground, at frame f at p + share · (hips' way since its first frame) + Σ r × n, with r the ways to it from the joints that carry it
 * and each n three normal angles of (degrees/√3)². The finder's contacts, weights and code have no part in it.
 */
export function bestTravel({ character, contacts }: Performance, clip: Clip, degrees: number): BestTravel {
  const { skeleton, roles } = character;
  const courses = new Map<number, Float64Array>();
  const courseOf = (joint: number): Float64Array => {
    const known = courses.get(joint) ?? jointTrack(skeleton, clip, joint).positions;
    courses.set(joint, known);
    return known;
  };
  const angle = ((degrees * Math.PI) / 180) ** 2 / 3;
  const hips = courseOf(roles.hips ?? 0);
  let [lever, pull] = [0, 0];
  for (const { point, start, end } of contacts) {
    if (point.endsWith("Heel")) continue;
    const joint = restingJoint(roles, point);
    const carriers: Float64Array[] = [];
    for (let above = skeleton.parents[joint]; above >= 0; above = skeleton.parents[above]) carriers.push(courseOf(above));
    const place = courseOf(joint);
    // Sums of W, W·way, W·place, wayᵀ·W·way and wayᵀ·W·place over the frames, W being the inverse covariance of a place.
    const all = new Float64Array(9);
    const [onWay, onPlace] = [new Float64Array(3), new Float64Array(3)];
    let [ways, both] = [0, 0];
    for (let f = start; f <= end; f++) {
      const o = f * 3;
      const covariance = [ROUNDING ** 2, 0, 0, 0, ROUNDING ** 2, 0, 0, 0, ROUNDING ** 2];
      for (const of of carriers) {
        const r = [0, 1, 2].map((i) => place[o + i] - of[o + i]);
        const square = r[0] ** 2 + r[1] ** 2 + r[2] ** 2;
        for (let i = 0; i < 9; i++) covariance[i] += angle * ((i % 4 === 0 ? square : 0) - r[Math.floor(i / 3)] * r[i % 3]);
      }
      const w = inverse(covariance);
      const way = [0, 1, 2].map((i) => (i === 1 ? 0 : hips[o + i] - hips[start * 3 + i]));
      for (let i = 0; i < 9; i++) {
        const [row, column] = [Math.floor(i / 3), i % 3];
        all[i] += w[i];
        onWay[row] += w[i] * way[column];
        onPlace[row] += w[i] * place[o + column];
        ways += way[row] * w[i] * way[column];
        both += way[row] * w[i] * place[o + column];
      }
    }
    // The unknown place is eliminated.
    const known = inverse([...all]);
    for (let i = 0; i < 9; i++) {
      ways -= onWay[Math.floor(i / 3)] * known[i] * onWay[i % 3];
      both -= onWay[Math.floor(i / 3)] * known[i] * onPlace[i % 3];
    }
    lever += ways;
    pull += both;
  }
  return { share: pull / lever, error: 1 / Math.sqrt(lever) };
}

/** Of a 3×3 matrix, by cofactors. */
function inverse([a, b, c, d, e, f, g, h, i]: readonly number[]): number[] {
  const [p, q, r] = [e * i - f * h, f * g - d * i, d * h - e * g];
  const det = a * p + b * q + c * r;
  return [p, c * h - b * i, b * f - c * e, q, a * i - c * g, c * d - a * f, r, b * g - a * h, a * e - b * d].map((v) => v / det);
}
