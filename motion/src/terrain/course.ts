import type { JointTrack } from "../contacts/tracks.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { multiplyQuatFlat, rotateVecFlat, slerpQuatFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";
import { depthUnder, raiseSmoothly } from "../plants/aboveGround.ts";
import type { EndTargets } from "../plants/footTargets.ts";
import type { LimbEnd } from "../plants/plants.ts";
import { passEdges } from "./aroundEdges.ts";
import type { Carry, Stand } from "./stands.ts";

/** A foot in flight keeps its own height over the ground, or at least this much, metres. */
const CLEAR = 0.02;

/**
 * The course of a limb's end over a new ground: carried by its stands' moves while it stands, between two of them from the one to the other,
 * before the first and behind the last as there; raised where it would come nearer to the new ground than it was to the old (to 2 cm), and no more: what is
 * lifted for edges that it clears anyway folds the leg up.
 */
export function carriedCourse(end: LimbEnd, track: JointTrack, stands: readonly Stand[], to: Ground, fps: number): EndTargets {
  const { frameCount: n } = track;
  const targets: EndTargets = { positions: new Float64Array(n * 3), rotations: new Float64Array(n * 4), resting: new Uint8Array(n) };
  const { positions, rotations, resting } = targets;
  for (const stand of stands) resting.fill(1, stand.start, stand.end + 1);
  const [a, b] = [new Float64Array(3), new Float64Array(3)];
  const turn = new Float64Array(4);
  let next = 0;
  for (let f = 0; f < n; f++) {
    while (next < stands.length && stands[next].end < f) next++;
    const after = stands[Math.min(next, stands.length - 1)].carry;
    const before = next > 0 && (next === stands.length || f < stands[next].start) ? stands[next - 1].carry : after;
    const u = before === after || next === stands.length ? 1 : (f - stands[next - 1].end) / (stands[next].start - stands[next - 1].end);
    carried(a, before, track.positions, f * 3);
    carried(b, after, track.positions, f * 3);
    const w = quinticStep(u);
    for (let i = 0; i < 3; i++) positions[f * 3 + i] = a[i] + w * (b[i] - a[i]);
    slerpQuatFlat(turn, 0, before.turn, 0, after.turn, 0, w);
    multiplyQuatFlat(rotations, f * 4, turn, 0, track.rotations, f * 4);
  }
  if (end.bears) clearInFlight(end, targets, track, stands, to, fps);
  return targets;
}

function carried(dst: Float64Array, carry: Carry, positions: Float64Array, o: number): void {
  for (let i = 0; i < 3; i++) dst[i] = positions[o + i] - carry.from[i];
  rotateVecFlat(dst, 0, carry.turn, 0, dst, 0);
  for (let i = 0; i < 3; i++) dst[i] += carry.to[i];
}

function clearInFlight(end: LimbEnd, targets: EndTargets, track: JointTrack, stands: readonly Stand[], to: Ground, fps: number): void {
  passEdges(targets.positions, targets.resting, lacksInFlight(end, targets, track, stands, to), fps);
  raiseInFlight(end, targets, track, stands, to, fps);
}

/** Raises an end in flight where it is nearer to the ground than it was to its own, or than 2 cm. */
export function raiseInFlight(end: LimbEnd, targets: EndTargets, track: JointTrack, stands: readonly Stand[], to: Ground, fps: number): void {
  const { positions, resting } = targets;
  const raised = raiseSmoothly(lacksInFlight(end, targets, track, stands, to), resting, to.shapes.length > 0, fps);
  for (let f = 0; f < resting.length; f++) positions[f * 3 + 1] += raised[f];
}

function lacksInFlight(end: LimbEnd, targets: EndTargets, track: JointTrack, stands: readonly Stand[], to: Ground): Float64Array {
  const { resting } = targets;
  const was = { positions: track.positions, rotations: Float64Array.from(track.rotations) };
  let next = 0;
  return Float64Array.from({ length: resting.length }, (_, f) => {
    if (resting[f]) return 0;
    while (next < stands.length && stands[next].end < f) next++;
    const [before, after] = [stands[next - 1], stands[next]];
    // It flew over what it left or what it came to, whichever is nearer in time.
    const { stoodOn } = !before || (after && after.start - f < f - before.end) ? after : before;
    return Math.max(0, ...end.points.map((point) => depthUnder(point, targets, f, to) + Math.max(0, Math.min(CLEAR, -depthUnder(point, was, f, stoodOn)))));
  });
}

/** How far a place is taken up by going from one ground to another, metres: for bodies of which nothing stands. */
export function groundRise(from: Ground, to: Ground, x: number, z: number): number {
  return groundHeight(to, x, z) - groundHeight(from, x, z);
}
