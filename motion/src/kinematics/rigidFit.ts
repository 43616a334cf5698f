import { expQuatFlat, multiplyQuatFlat, rotateVecFlat, setIdentityQuatFlat } from "../math/quat.ts";
import { solveSymmetricMutable } from "../math/solve.ts";

const ROUNDS = 12;
/** Turns below this are no longer worth a round, radians; what the places say nothing of (a turn about their line) stays out by this share of their spread. */
const DONE = 1e-9;
const UNSAID = 1e-9;

/** A rigid movement: places are turned about `from` and taken to `to`. */
export interface RigidFit {
  readonly turn: Float64Array;
  readonly from: readonly [number, number, number];
  readonly to: readonly [number, number, number];
}

/**
 * The rigid movement that brings places nearest to others, one for one, in least squares: their means onto each other, turned by Gauss–Newton steps
 * from no turn at all, so that of all turns that serve alike the least is taken. One place alone is moved without a turn. Metres.
 */
export function rigidFit(places: readonly ArrayLike<number>[], targets: readonly ArrayLike<number>[]): RigidFit {
  const mean = (list: readonly ArrayLike<number>[], i: number) => list.reduce((sum, p) => sum + p[i], 0) / list.length;
  const from: [number, number, number] = [mean(places, 0), mean(places, 1), mean(places, 2)];
  const to: [number, number, number] = [mean(targets, 0), mean(targets, 1), mean(targets, 2)];
  const turn = setIdentityQuatFlat(new Float64Array(4), 0) as Float64Array;
  if (places.length < 2) return { turn, from, to };
  const a = new Float64Array(3);
  const step = new Float64Array(4);
  for (let round = 0; round < ROUNDS; round++) {
    const m = new Float64Array(9);
    const r = new Float64Array(3);
    let spread = 0;
    places.forEach((place, k) => {
      for (let i = 0; i < 3; i++) a[i] = place[i] - from[i];
      rotateVecFlat(a, 0, turn, 0, a, 0);
      const b = [0, 1, 2].map((i) => targets[k][i] - to[i]);
      const size = a[0] * a[0] + a[1] * a[1] + a[2] * a[2];
      spread += size;
      for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) m[i * 3 + j] += (i === j ? size : 0) - a[i] * a[j];
      r[0] += a[1] * b[2] - a[2] * b[1];
      r[1] += a[2] * b[0] - a[0] * b[2];
      r[2] += a[0] * b[1] - a[1] * b[0];
    });
    for (let i = 0; i < 3; i++) m[i * 4] += UNSAID * spread + Number.MIN_VALUE;
    if (!solveSymmetricMutable(m, r, 3) || Math.hypot(r[0], r[1], r[2]) < DONE) break;
    expQuatFlat(step, 0, r, 0);
    multiplyQuatFlat(turn, 0, step, 0, turn, 0);
  }
  return { turn, from, to };
}
