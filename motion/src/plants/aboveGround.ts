import type { Contact } from "../contacts/contact.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { fromToQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";
import { runningMean, smoothEnvelope } from "../signal/filters.ts";
import type { EndTargets, Holding } from "./footTargets.ts";
import type { LimbEnd } from "./plants.ts";

const scratch = new Float64Array(3);

/** How far a point of a limb's end lies under where the surface carries it, metres; negative over it. */
export function depthUnder(
  { local, clearance }: LimbEnd["points"][number],
  { positions, rotations }: Pick<EndTargets, "positions" | "rotations">,
  frame: number,
  ground: Ground,
): number {
  const v = rotateVecFlat(scratch, 0, rotations, frame * 4, local, 0);
  const o = frame * 3;
  return clearance + groundHeight(ground, positions[o] + v[0], positions[o + 2] + v[2]) - (positions[o + 1] + v[1]);
}

/** Between edges a raised foot comes down no quicker than over this long, seconds. */
const EDGE_SECONDS = 0.05;
/** What a foot lacks by less than this is a surface that it skims, not an edge before it, metres. */
const SLIGHT = 0.004;

/**
 * Raises a limb's end by what it `lacks` [frame], metres, over the ground while it swings: over a plane by little more than that; over edges from its lift
 * on, so as to be up at the first of them, and down again at its landing. Nothing where it rests.
 */
export function raiseSmoothly(lacks: Float64Array, resting: Uint8Array, edges: boolean, fps: number): Float64Array {
  const n = lacks.length;
  if (!edges) {
    const smooth = runningMean(lacks, 1);
    return lacks.map((lack, f) => (resting[f] ? 0 : Math.max(lack, smooth[f])));
  }
  const envelope = smoothEnvelope(lacks, Math.max(1, Math.round(EDGE_SECONDS * fps)));
  const raised = new Float64Array(n);
  for (let start = 0; start < n; start++) {
    if (resting[start]) continue;
    let end = start;
    while (end + 1 < n && !resting[end + 1]) end++;
    let [first, last] = [-1, -1];
    for (let f = start; f <= end; f++) {
      if (lacks[f] <= SLIGHT) continue;
      if (first < 0) first = f;
      last = f;
    }
    // All the time that there is before the first edge and behind the last one; beyond the clip nothing rests.
    const [up, down] = [start === 0 ? 1 : 0, end === n - 1 ? 1 : 0];
    for (let f = start; f <= end; f++) {
      if (first < 0) {
        raised[f] = lacks[f];
        continue;
      }
      const before = up || f >= first ? 1 : quinticStep((f - start + 1) / (first - start + 1));
      const behind = down || f <= last ? 1 : quinticStep((end - f + 1) / (end - last + 1));
      const height = f < first ? envelope[first] : f > last ? envelope[last] : envelope[f];
      raised[f] = Math.max(lacks[f], height * before * behind);
    }
    start = end;
  }
  return raised;
}

/**
 * How far under the ground a limb's end may go at each frame, metres: as far as the places of its own lie under it on which it rests there, or before and after it. One that walks
 * down steps of which nothing is known is over them, not under the ground that it comes from.
 */
export function placesBelow(end: Pick<LimbEnd, "points">, contacts: readonly Contact[], ground: Ground, frameCount: number): Float64Array {
  const below = new Float64Array(frameCount);
  const rests = new Uint8Array(frameCount);
  for (const { on, point: id, anchor, start, end: last } of contacts) {
    const point = end.points.find((p) => p.id === id);
    if (!point || !anchor.point) continue;
    const [x, y, z] = anchor.point;
    const depth = on === "place" ? Math.max(0, groundHeight(ground, x, z) + point.clearance - y) : 0;
    for (let f = Math.max(0, start); f <= Math.min(frameCount - 1, last); f++) {
      rests[f] = 1;
      below[f] = Math.max(below[f], depth);
    }
  }
  // A heel and its toes that stand by turns are one stand: what is allowed of a foot does not change while it rests.
  for (const stands of [1, 0])
    for (let from = 0, to = 0; from < frameCount; from = to) {
      while (to < frameCount && rests[to] === rests[from]) to++;
      if (rests[from] !== stands) continue;
      const depth = stands ? below.subarray(from, to).reduce((deepest, depth) => Math.max(deepest, depth)) : Math.max(below[from - 1] ?? 0, below[to] ?? 0);
      below.fill(depth, from, to);
    }
  return below;
}

/**
 * Swinging: the foot is raised by what its lower end lacks, smoothed over neighbours. Standing on one end: the foot is tipped about it
 * until the other is out of the ground. `heldAt` are the contacts' indices [frame] of its first and second point, −1 for none.
 */
export function keepAboveGround(
  end: LimbEnd,
  targets: EndTargets,
  heldAt: readonly [Int32Array, Int32Array],
  { contacts, ground, weights, fps }: Holding,
): void {
  const { positions, rotations, resting } = targets;
  const n = resting.length;
  const lacks = new Float64Array(n);
  const below = placesBelow(end, contacts, ground, n);
  const v = new Float64Array(3);
  const q = new Float64Array(4);
  const [heel, toe] = end.points;
  const [heelAt, toeAt] = heldAt;
  for (let f = 0; f < n; f++) {
    if (weights[f] === 0) continue;
    if (!resting[f]) {
      lacks[f] = Math.max(0, ...end.points.map((point) => depthUnder(point, targets, f, ground) - below[f])) * weights[f];
      continue;
    }
    // On both ends, or on neither but what lies beyond them.
    if (!toe || heelAt[f] >= 0 === toeAt[f] >= 0) continue;
    const fixed = heelAt[f] >= 0 ? heel.local : toe.local;
    const swinging = heelAt[f] >= 0 ? toe : heel;
    const free = swinging.local;
    const deep = depthUnder(swinging, targets, f, ground) - below[f];
    if (deep <= 0) continue;
    const along = [free[0] - fixed[0], free[1] - fixed[1], free[2] - fixed[2]];
    rotateVecFlat(v, 0, rotations, f * 4, along, 0);
    fromToQuatFlat(q, 0, v[0], v[1], v[2], v[0], v[1] + deep, v[2]);
    rotateVecFlat(v, 0, rotations, f * 4, fixed, 0);
    for (let i = 0; i < 3; i++) positions[f * 3 + i] += v[i];
    multiplyQuatFlat(rotations, f * 4, q, 0, rotations, f * 4);
    rotateVecFlat(v, 0, rotations, f * 4, fixed, 0);
    for (let i = 0; i < 3; i++) positions[f * 3 + i] -= v[i];
  }
  const raised = raiseSmoothly(lacks, resting, ground.shapes.length > 0, fps);
  for (let f = 0; f < n; f++) if (weights[f] > 0) positions[f * 3 + 1] += raised[f];
}
