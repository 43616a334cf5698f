import type { Character } from "../character/character.ts";
import type { RigidMove } from "../clip/roots.ts";
import type { JointTrack } from "../contacts/tracks.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";

/** The body follows its feet by the mean of this long to either side, taken twice, seconds. */
const FOLLOW_SECONDS = 0.17;
/** The way over which a body sees how steep its course is, to either side, seconds, and the least way that says so, metres. */
const GRADE_SECONDS = 0.3;
const LEAST_WAY = 0.15;
/** Moves and turns below these are none. */
const NO_MOVE = 1e-9;
const NO_TURN = 1e-9;

/** How something that carries the body is displaced, [frame][3] metres, and its share of the body's weight at each frame. */
export interface Carrier {
  readonly displaced: Float64Array;
  readonly share: (frame: number) => number;
  /** carries a body's fore end (a fore leg), rather than its hips */
  readonly fore: boolean;
}

/** Mean over `half` frames to either side, twice; beyond the ends a course goes on as it came (mirrored through its end), so that an even climb stays one. */
export function followed(values: Float64Array, half: number): Float64Array {
  const n = values.length;
  if (half < 1 || n < 2) return values.slice();
  const at = (list: Float64Array, i: number) =>
    i < 0 ? 2 * list[0] - list[Math.min(n - 1, -i)] : i >= n ? 2 * list[n - 1] - list[Math.max(0, 2 * n - 2 - i)] : list[i];
  const once = (list: Float64Array) => {
    const out = new Float64Array(n);
    let sum = 0;
    for (let i = -half; i <= half; i++) sum += at(list, i);
    for (let f = 0; f < n; f++) {
      out[f] = sum / (2 * half + 1);
      sum += at(list, f + half + 1) - at(list, f - half);
    }
    return out;
  };
  return once(once(values));
}

/**
 * How a body goes along with what carries it onto a new ground, as rigid moves [frame], null where it stays: the smoothed mean of their displacements;
 * on four legs turned as fore and hind legs come to stand apart; on two leaning into the climb by `lean` (a share of how steep its course is).
 */
export function bodyMoves(
  character: Character,
  hips: JointTrack,
  foreEnd: JointTrack,
  carriers: readonly Carrier[],
  lean: number,
  fps: number,
): (RigidMove | null)[] {
  const n = hips.frameCount;
  const half = Math.round(FOLLOW_SECONDS * fps);
  const mean = (of: readonly Carrier[], axis: number) =>
    followed(
      Float64Array.from({ length: n }, (_, f) => {
        let [sum, weight] = [0, 0];
        for (const carrier of of) {
          const share = carrier.share(f);
          sum += share * carrier.displaced[f * 3 + axis];
          weight += share;
        }
        return weight > 0 ? sum / weight : 0;
      }),
      half,
    );
  const fore = carriers.filter((c) => c.fore);
  const hind = carriers.filter((c) => !c.fore);
  const main = hind.length > 0 ? hind : fore;
  const shift = [0, 1, 2].map((axis) => mean(main, axis));
  const turns = fore.length > 0 && hind.length > 0 ? pitches(hips, foreEnd, shift[1], mean(fore, 1)) : leans(character, hips, shift[1], lean, fps);
  return Array.from({ length: n }, (_, f) => {
    const by = shift.map((s) => s[f]);
    const turn = turns[f];
    if (!turn && Math.hypot(by[0], by[1], by[2]) < NO_MOVE) return null;
    if (!turn) return { shift: by, turn: null };
    // Turned about the hips: they go by the shift alone.
    const back = conjugateQuatFlat(new Float64Array(4), 0, turn, 0);
    const to = new Float64Array([0, 1, 2].map((i) => hips.positions[f * 3 + i] + by[i]));
    rotateVecFlat(to, 0, back, 0, to, 0);
    return { shift: [0, 1, 2].map((i) => to[i] - hips.positions[f * 3 + i]), turn };
  });
}

function turnAbout(x: number, z: number, angle: number): Float64Array | null {
  if (Math.abs(angle) < NO_TURN) return null;
  return axisAngleQuatFlat(new Float64Array(4), 0, x, 0, z, angle) as Float64Array;
}

/** On four legs: the line from hips to shoulders is as much steeper as the one's displacement is over the other's. */
function pitches(hips: JointTrack, foreEnd: JointTrack, hind: Float64Array, fore: Float64Array): (Float64Array | null)[] {
  return Array.from(hind, (_, f) => {
    const [dx, dy, dz] = [0, 1, 2].map((i) => foreEnd.positions[f * 3 + i] - hips.positions[f * 3 + i]);
    const level = Math.hypot(dx, dz) || 1e-9;
    const angle = Math.atan2(dy + fore[f] - hind[f], level) - Math.atan2(dy, level);
    // From the way forward towards up: about forward × up.
    return turnAbout(-dz / level, dx / level, angle);
  });
}

/** On two legs: the body leans the way it climbs, and back as it goes down. */
function leans({ rig }: Character, hips: JointTrack, rise: Float64Array, lean: number, fps: number): (Float64Array | null)[] {
  const n = rise.length;
  const reach = Math.max(1, Math.round(GRADE_SECONDS * fps));
  const angles = new Float64Array(n);
  const ways = Array.from({ length: n }, (_, f) => {
    const [a, b] = [Math.max(0, f - reach), Math.min(n - 1, f + reach)];
    const [dx, dz] = [0, 2].map((i) => hips.positions[b * 3 + i] - hips.positions[a * 3 + i]);
    const way = Math.hypot(dx, dz);
    angles[f] = lean * Math.atan((rise[b] - rise[a]) / Math.max(LEAST_WAY, way));
    return way > 1e-6 ? [dx / way, dz / way] : [rig.forward[0], rig.forward[2]];
  });
  const smooth = followed(angles, Math.round(FOLLOW_SECONDS * fps));
  // From up towards the way: about up × way.
  return ways.map(([x, z], f) => turnAbout(z, -x, smooth[f]));
}
