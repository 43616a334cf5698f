import type { Contact } from "../contacts/contact.ts";
import { type FloorPlane, floorHeightAt } from "../contacts/floor.ts";
import type { Sole } from "../contacts/soles.ts";
import { conjugateQuatFlat, expQuatFlat, fromToQuatFlat, logQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { runningMean } from "../signal/filters.ts";
import { type FadeSpan, fadeBetween } from "./fade.ts";

/** Where a leg's end joint shall be at each frame: place [frame][3], rotation [frame][4]; `resting` marks frames inside a contact. */
export interface FootTargets {
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
  readonly resting: Uint8Array;
}

export interface RampFrames {
  readonly landing: number;
  readonly lift: number;
}

/**
 * The course of a foot with its contacts held. In a span the planted point stands exactly on its anchor; with heel and toe both
 * planted the sole lies along the line between their anchors and keeps its own roll; with one planted the foot rolls about it as the
 * source does. What that changes (a displacement of the end joint, a rotation) fades outside the span with continuous speed, and
 * passes directly from one span to the next when they are close. A swinging foot is lifted where it would cut the floor.
 */
export function footTargets(sole: Sole, contacts: readonly Contact[], floor: FloorPlane, ramps: RampFrames, weights: Float64Array): FootTargets {
  const { frameCount: n, positions: p, rotations: q } = sole.track;
  const heel = sole.points[0];
  const toe = sole.points[1];
  const at = (part: string) => {
    const list = contacts.filter((c) => c.part === part && c.anchor.point);
    const index = new Int32Array(n).fill(-1);
    list.forEach((c, i) => {
      index.fill(i, Math.max(0, c.start), Math.min(n - 1, c.end) + 1);
    });
    return { list, index };
  };
  const first = at(heel.part);
  const second = toe ? at(toe.part) : { list: [], index: new Int32Array(n).fill(-1) };

  // Rotation that lays the sole along its anchors, as rotation vectors; known where both ends rest, faded elsewhere.
  const turn = new Float64Array(n * 3);
  const quat = new Float64Array(4);
  const v = new Float64Array(3);
  const both = new Uint8Array(n);
  if (toe) {
    const along = [toe.local[0] - heel.local[0], toe.local[1] - heel.local[1], toe.local[2] - heel.local[2]];
    for (let f = 0; f < n; f++) {
      const a = first.list[first.index[f]]?.anchor.point;
      const b = second.list[second.index[f]]?.anchor.point;
      if (!a || !b) continue;
      both[f] = 1;
      rotateVecFlat(v, 0, q, f * 4, along, 0);
      fromToQuatFlat(quat, 0, v[0], v[1], v[2], b[0] - a[0], b[1] - a[1], b[2] - a[2]);
      logQuatFlat(turn, f * 3, quat, 0);
    }
    fadeBetween(
      turn,
      n,
      spansOf(both, ramps, () => null),
    );
  }
  const rotations = new Float64Array(n * 4);
  const resting = new Uint8Array(n);
  const shift = new Float64Array(n * 3);
  for (let f = 0; f < n; f++) {
    for (let i = 0; i < 3; i++) v[i] = turn[f * 3 + i] * weights[f];
    expQuatFlat(quat, 0, v, 0);
    multiplyQuatFlat(rotations, f * 4, quat, 0, q, f * 4);
    const a = first.list[first.index[f]];
    const b = second.list[second.index[f]];
    const held = a ?? b;
    if (!held?.anchor.point) continue;
    resting[f] = 1;
    const local = a ? heel.local : (toe?.local ?? heel.local);
    rotateVecFlat(v, 0, rotations, f * 4, [...local], 0);
    for (let i = 0; i < 3; i++) shift[f * 3 + i] = held.anchor.point[i] - v[i] - p[f * 3 + i];
  }
  const rampOf = (start: number, end: number) => {
    const all = [...first.list, ...second.list];
    const opens = all.filter((c) => c.start === start).map((c) => c.rampIn);
    const closes = all.filter((c) => c.end === end).map((c) => c.rampOut);
    return { rampIn: opens.find((r) => r !== null) ?? null, rampOut: closes.find((r) => r !== null) ?? null };
  };
  fadeBetween(shift, n, spansOf(resting, ramps, rampOf));
  const positions = new Float64Array(n * 3);
  for (let i = 0; i < n * 3; i++) positions[i] = p[i] + shift[i] * weights[Math.floor(i / 3)];
  keepAboveFloor(sole, positions, rotations, resting, first.index, second.index, floor, weights);
  return { positions, rotations, resting };
}

function spansOf(
  flags: Uint8Array,
  ramps: RampFrames,
  own: (start: number, end: number) => { rampIn: number | null; rampOut: number | null } | null,
): FadeSpan[] {
  const spans: FadeSpan[] = [];
  for (let f = 0; f < flags.length; f++) {
    if (!flags[f]) continue;
    let end = f;
    while (end + 1 < flags.length && flags[end + 1]) end++;
    const set = own(f, end);
    spans.push({ start: f, end, rampIn: set?.rampIn ?? ramps.landing, rampOut: set?.rampOut ?? ramps.lift });
    f = end;
  }
  return spans;
}

/**
 * Swinging: the foot is raised by what its lower end lacks, smoothed over neighbours. Standing on one end: the foot is tipped about it
 * until the other is out of the floor.
 */
function keepAboveFloor(
  sole: Sole,
  positions: Float64Array,
  rotations: Float64Array,
  resting: Uint8Array,
  heelAt: Int32Array,
  toeAt: Int32Array,
  floor: FloorPlane,
  weights: Float64Array,
): void {
  const n = resting.length;
  const lift = new Float64Array(n);
  const v = new Float64Array(3);
  const q = new Float64Array(4);
  const depth = (f: number, local: readonly number[]) => {
    rotateVecFlat(v, 0, rotations, f * 4, [...local], 0);
    return floorHeightAt(floor, positions[f * 3] + v[0], positions[f * 3 + 2] + v[2]) - (positions[f * 3 + 1] + v[1]);
  };
  const [heel, toe] = sole.points;
  for (let f = 0; f < n; f++) {
    if (weights[f] === 0) continue;
    if (!resting[f]) {
      lift[f] = Math.max(0, ...sole.points.map((point) => depth(f, point.local))) * weights[f];
      continue;
    }
    if (!toe || (heelAt[f] >= 0 && toeAt[f] >= 0)) continue;
    const fixed = heelAt[f] >= 0 ? heel.local : toe.local;
    const free = heelAt[f] >= 0 ? toe.local : heel.local;
    const below = depth(f, free);
    if (below <= 0) continue;
    const along = [free[0] - fixed[0], free[1] - fixed[1], free[2] - fixed[2]];
    rotateVecFlat(v, 0, rotations, f * 4, along, 0);
    fromToQuatFlat(q, 0, v[0], v[1], v[2], v[0], v[1] + below, v[2]);
    rotateVecFlat(v, 0, rotations, f * 4, [...fixed], 0);
    for (let i = 0; i < 3; i++) positions[f * 3 + i] += v[i];
    multiplyQuatFlat(rotations, f * 4, q, 0, rotations, f * 4);
    rotateVecFlat(v, 0, rotations, f * 4, [...fixed], 0);
    for (let i = 0; i < 3; i++) positions[f * 3 + i] -= v[i];
  }
  const smooth = runningMean(lift, 1);
  for (let f = 0; f < n; f++) if (!resting[f] && weights[f] > 0) positions[f * 3 + 1] += Math.max(lift[f], smooth[f]);
}

/** Local rotation of a child from two world rotations. */
export function localRotation(dst: Float64Array, parent: Float64Array, child: Float64Array, co: number): void {
  conjugateQuatFlat(dst, 0, parent, 0);
  multiplyQuatFlat(dst, 0, dst, 0, child, co);
}
