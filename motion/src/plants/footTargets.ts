import { type Contact, heldFrames } from "../contacts/contact.ts";
import { type JointTrack, pointTrack } from "../contacts/tracks.ts";
import type { Ground } from "../ground/ground.ts";
import { conjugateQuatFlat, expQuatFlat, fromToQuatFlat, logQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { keepAboveGround } from "./aboveGround.ts";
import { type FadeSpan, fadeBetween } from "./fade.ts";
import type { LimbEnd, RampFrames } from "./plants.ts";

/** How soon a swinging foot has let go of what only the last trembling frame before it, or the first after it, differs by. */
const SETTLE_SECONDS = 0.1;

/** Where a limb's end joint shall be at each frame: place [frame][3], rotation [frame][4]; `resting` marks frames inside a contact. */
export interface EndTargets {
  readonly positions: Float64Array;
  readonly rotations: Float64Array;
  readonly resting: Uint8Array;
}

/** Those of a foot: `onHeel` marks frames on which the first of its points rests alone, `onTip` those on which only the tip of its toe does. */
export interface FootTargets extends EndTargets {
  readonly onHeel: Uint8Array;
  readonly onTip: Uint8Array;
}

/** What the ends are held against. */
export interface Holding {
  readonly contacts: readonly Contact[];
  readonly ground: Ground;
  readonly fps: number;
  /** ramps of the plant in force at a frame */
  rampsAt(frame: number): RampFrames;
  /** [frame], 0..1 */
  readonly weights: Float64Array;
  /** by how much ends tremble, metres (median) */
  readonly trembles: number;
  /** course of a part that something rests on */
  partTrack(joint: number): JointTrack;
}

/**
 * The course of a limb's end with its contacts held. In a span the planted point stands exactly on its anchor; with heel and toe both
 * planted the sole lies along the line between their anchors and keeps its own roll; with one planted the foot rolls about it as the
 * source does, and so it does about the tip of its toe where that rests alone. What that changes (a displacement of the end joint, a rotation) fades outside the span with continuous speed, and
 * passes directly from one span to the next when they are close. A swinging foot is lifted where it would cut the ground.
 */
export function footTargets(end: LimbEnd, track: JointTrack, holding: Holding): FootTargets {
  const { weights } = holding;
  const { frameCount: n, positions: p, rotations: q } = track;
  const heel = end.points[0];
  const toe = end.points[1];
  const at = (id: string) => {
    const list = holding.contacts.filter((c) => c.point === id && c.anchor.point);
    const index = new Int32Array(n).fill(-1);
    list.forEach((c, i) => {
      const [from, to] = heldFrames(c);
      index.fill(i, Math.max(0, from), Math.min(n - 1, to) + 1);
    });
    return { list, index };
  };
  const first = at(heel.id);
  const none = { list: [], index: new Int32Array(n).fill(-1) };
  const second = toe ? at(toe.id) : none;
  const third = end.tip ? at(end.tip.id) : none;
  const tipCourse = third.list.length > 0 && end.tip ? pointTrack(holding.partTrack(end.tip.joint), [...end.tip.local]) : null;
  const anchor = new Float64Array(3);
  /** World place of a contact's anchor at a frame. */
  const anchorAt = (contact: Contact | undefined, f: number): Float64Array | null => {
    if (!contact?.anchor.point) return null;
    anchor.set(contact.anchor.point);
    if (typeof contact.on === "object") {
      const under = holding.partTrack(contact.on.joint);
      rotateVecFlat(anchor, 0, under.rotations, f * 4, anchor, 0);
      for (let i = 0; i < 3; i++) anchor[i] += under.positions[f * 3 + i];
    }
    return anchor;
  };

  const letting = { frames: Math.round(SETTLE_SECONDS * holding.fps), trembles: holding.trembles };
  // Rotation that lays the sole along its anchors, as rotation vectors; known where both ends rest, faded elsewhere.
  const turn = new Float64Array(n * 3);
  const quat = new Float64Array(4);
  const v = new Float64Array(3);
  const both = new Uint8Array(n);
  if (toe) {
    const along = [toe.local[0] - heel.local[0], toe.local[1] - heel.local[1], toe.local[2] - heel.local[2]];
    for (let f = 0; f < n; f++) {
      const a = anchorAt(first.list[first.index[f]], f)?.slice();
      const b = anchorAt(second.list[second.index[f]], f);
      if (!a || !b) continue;
      both[f] = 1;
      rotateVecFlat(v, 0, q, f * 4, along, 0);
      fromToQuatFlat(quat, 0, v[0], v[1], v[2], b[0] - a[0], b[1] - a[1], b[2] - a[2]);
      logQuatFlat(turn, f * 3, quat, 0);
    }
    fadeBetween(
      turn,
      n,
      spansOf(both, holding, () => null),
      { ...letting, trembles: holding.trembles / Math.hypot(...along) },
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
    const held = anchorAt(a ?? b ?? third.list[third.index[f]], f);
    if (!held) continue;
    resting[f] = 1;
    if (a || b || !tipCourse) rotateVecFlat(v, 0, rotations, f * 4, a ? heel.local : (toe?.local ?? heel.local), 0);
    else {
      // Where the toe is turned to in the foot stays.
      for (let i = 0; i < 3; i++) v[i] = tipCourse[f * 3 + i] - p[f * 3 + i];
      rotateVecFlat(v, 0, conjugateQuatFlat(quat, 0, q, f * 4), 0, v, 0);
      rotateVecFlat(v, 0, rotations, f * 4, v, 0);
    }
    for (let i = 0; i < 3; i++) shift[f * 3 + i] = held[i] - v[i] - p[f * 3 + i];
  }
  const rampOf = (start: number, end: number) => {
    const all = [...first.list, ...second.list, ...third.list];
    const opens = all.filter((c) => heldFrames(c)[0] === start).map((c) => c.rampIn);
    const closes = all.filter((c) => heldFrames(c)[1] === end).map((c) => c.rampOut);
    return { rampIn: opens.find((r) => r !== null) ?? null, rampOut: closes.find((r) => r !== null) ?? null };
  };
  fadeBetween(shift, n, spansOf(resting, holding, rampOf), letting);
  const positions = new Float64Array(n * 3);
  for (let i = 0; i < n * 3; i++) positions[i] = p[i] + shift[i] * weights[(i / 3) | 0];
  if (end.bears) keepAboveGround(end, { positions, rotations, resting }, [first.index, second.index], holding);
  const onHeel = resting.map((rests, f) => (rests && toe && first.index[f] >= 0 && second.index[f] < 0 ? 1 : 0));
  const onTip = resting.map((rests, f) => (rests && first.index[f] < 0 && second.index[f] < 0 ? 1 : 0));
  return { positions, rotations, resting, onHeel, onTip };
}

function spansOf(
  flags: Uint8Array,
  holding: Holding,
  own: (start: number, end: number) => { rampIn: number | null; rampOut: number | null } | null,
): FadeSpan[] {
  const spans: FadeSpan[] = [];
  for (let f = 0; f < flags.length; f++) {
    if (!flags[f]) continue;
    let end = f;
    while (end + 1 < flags.length && flags[end + 1]) end++;
    const set = own(f, end);
    const ramps = holding.rampsAt(Math.round((f + end) / 2));
    spans.push({ start: f, end, rampIn: set?.rampIn ?? ramps.landing, rampOut: set?.rampOut ?? ramps.lift });
    f = end;
  }
  return spans;
}
