import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { type Contact, sortContacts } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { conjugateQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat, slerpQuatFlat } from "../math/quat.ts";
import { quinticHermite, quinticStep } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { coupleSole } from "../plants/anchors.ts";
import { limbEnds } from "../plants/plants.ts";
import { followedTravel } from "../travel/groundTravels.ts";

/** How two motions of one body are made one: the second one's frame 0 comes at frame `at` of the result. */
export interface JoinPlan {
  readonly how: "crossfade" | "handOver";
  readonly at: number;
  /** frames over which both play, or over which the difference decays */
  readonly overlap: number;
}

/** Tracks of one clip followed by those of another from frame `at` on. */
function followed(a: Clip, b: Clip, at: number): ClipDraft {
  const frameCount = at + b.frameCount;
  const draft = ClipDraft.make(a.name, a.fps, frameCount, a.jointCount, a.positionJoints);
  const q = new Float64Array(4);
  for (let f = 0; f < frameCount; f++) {
    const [clip, frame] = f < at ? [a, f] : [b, f - at];
    for (let j = 0; j < a.jointCount; j++) {
      readRotation(clip, j, frame, q, 0);
      draft.setRotation(j, f, q);
    }
    for (let s = 0; s < a.positionJoints.length; s++) {
      readPosition(clip, s, frame, q, 0);
      draft.setPosition(s, f, q);
    }
  }
  return draft;
}

/** Both clips over the overlap, the second one coming in by a quintic: at the first frame all of the one, at the last all of the other. */
function crossfaded(a: Clip, b: Clip, { at, overlap }: JoinPlan): Clip {
  const draft = followed(a, b, at);
  const [p, q] = [new Float64Array(4), new Float64Array(4)];
  for (let k = 0; k < overlap; k++) {
    const w = quinticStep(k / overlap);
    const f = at + k;
    for (let j = 0; j < a.jointCount; j++) {
      readRotation(a, j, f, p, 0);
      readRotation(b, j, k, q, 0);
      slerpQuatFlat(q, 0, p, 0, q, 0, w);
      draft.setRotation(j, f, q);
    }
    for (let s = 0; s < a.positionJoints.length; s++) {
      readPosition(a, s, f, p, 0);
      readPosition(b, s, k, q, 0);
      draft.setPosition(
        s,
        f,
        [0, 1, 2].map((i) => p[i] + w * (q[i] - p[i])),
      );
    }
  }
  return draft.done();
}

/**
 * The second clip at once, with what the first one ended in as a difference that decays: per joint and axis a quintic that starts with the difference's own value and speed
 * and ends in nothing, at rest. (Inertial hand-over, as Bollo published it in 2018 for games, here for all three axes of a rotation vector.)
 */
function handedOver(a: Clip, b: Clip, { at, overlap }: JoinPlan): Clip {
  const draft = followed(a, b, at);
  const over = Math.min(overlap, b.frameCount - 1);
  if (over < 1) return draft.done();
  const [p, q, d] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  const [v0, v1] = [new Float64Array(3), new Float64Array(3)];
  const decay = (k: number, i: number) => quinticHermite(v0[i], (v0[i] - v1[i]) * over, 0, 0, k / over);
  // Speeds are the difference of the last two frames of the first clip and of the first two of the second.
  const before = Math.max(0, at - 1);
  for (let j = 0; j < a.jointCount; j++) {
    const between = (dst: Float64Array, from: number, to: number) => {
      readRotation(b, j, to, q, 0);
      readRotation(a, j, from, p, 0);
      conjugateQuatFlat(q, 0, q, 0);
      multiplyQuatFlat(d, 0, q, 0, p, 0);
      logQuatFlat(dst, 0, d, 0);
    };
    between(v0, at, 0);
    if (v0.every((v) => Math.abs(v) < NOTHING) && b.frameCount < 2) continue;
    // What the difference was a frame earlier: the first clip's pose then, and the second one's taken back by its own speed.
    readRotation(b, j, 0, p, 0);
    readRotation(b, j, 1, q, 0);
    conjugateQuatFlat(d, 0, q, 0);
    multiplyQuatFlat(d, 0, d, 0, p, 0);
    multiplyQuatFlat(q, 0, p, 0, d, 0);
    readRotation(a, j, before, p, 0);
    conjugateQuatFlat(q, 0, q, 0);
    multiplyQuatFlat(d, 0, q, 0, p, 0);
    logQuatFlat(v1, 0, d, 0);
    for (let k = 0; k < over; k++) {
      for (let i = 0; i < 3; i++) d[i] = decay(k, i);
      expQuatFlat(p, 0, d, 0);
      readRotation(b, j, k, q, 0);
      multiplyQuatFlat(q, 0, q, 0, p, 0);
      normalizeQuatFlat(q, 0);
      draft.setRotation(j, at + k, q);
    }
  }
  for (let s = 0; s < a.positionJoints.length; s++) {
    readPosition(a, s, at, p, 0);
    readPosition(b, s, 0, q, 0);
    for (let i = 0; i < 3; i++) v0[i] = p[i] - q[i];
    readPosition(b, s, 1, d, 0);
    const back = [0, 1, 2].map((i) => 2 * q[i] - d[i]);
    readPosition(a, s, before, p, 0);
    for (let i = 0; i < 3; i++) v1[i] = p[i] - back[i];
    for (let k = 0; k < over; k++) {
      readPosition(b, s, k, q, 0);
      draft.setPosition(
        s,
        at + k,
        [0, 1, 2].map((i) => q[i] + decay(k, i)),
      );
    }
  }
  return draft.done();
}

/** Turns smaller than this are none, radians. */
const NOTHING = 1e-9;

/** One motion after another, in place already: clip, contacts and plants. */
export function joinedMotion(a: Motion, b: Motion, plan: JoinPlan, legLength: number, name: string): Motion {
  const clip = plan.how === "crossfade" ? crossfaded(a.clip, b.clip, plan) : handedOver(a.clip, b.clip, plan);
  const overlap = plan.how === "crossfade" ? plan.overlap : 0;
  const extended = (values: Float64Array) => Float64Array.from({ length: clip.frameCount }, (_, f) => values[Math.min(f, values.length - 1)]);
  return {
    ...a,
    clip,
    contacts: contactsOver(a, b, clip, plan, legLength, name),
    plants: a.plants.map((p) => ({ ...p, weights: extended(p.weights) })),
    groundTravel: followedTravel(a.groundTravel, b.groundTravel, { at: plan.at, overlap, apart: apartAt(a, b, plan.at, overlap) }, clip.frameCount),
    settled: null,
  };
}

/** How far the one body is from the other half an overlap in, x and z, metres. */
function apartAt(a: Motion, b: Motion, at: number, overlap: number): [number, number] {
  const half = Math.floor(overlap / 2);
  const [p, q] = [new Float64Array(3), new Float64Array(3)];
  readPosition(a.clip, Math.max(0, a.clip.positionJoints.indexOf(a.character.rig.mover)), Math.min(a.clip.frameCount - 1, at + half), p, 0);
  readPosition(b.clip, Math.max(0, b.clip.positionJoints.indexOf(a.character.rig.mover)), Math.min(b.clip.frameCount - 1, half), q, 0);
  return [p[0] - q[0], p[2] - q[2]];
}

/** A foot whose two places are further apart than this share of the leg does not stand in one of them through the seam. */
const ONE_PLACE = 0.12;
/** While both motions play a foot stands where one of them has it as long as the mix has it no further from there, share of the leg. */
const STANDS_WITHIN = 0.04;
/** A contact cut down to less is dropped, seconds. */
const SLIVER = 0.07;

/**
 * Contacts through a seam. A point that is planted in both motions stays where it is as one contact, and what else of its foot rests comes along; where the two places are too far
 * apart, and where a point is planted in one of them only, it is let go, or caught, when the mix takes it away from its place, or brings it there.
 */
function contactsOver(a: Motion, b: Motion, mixed: Clip, { at, overlap }: JoinPlan, legLength: number, name: string): Contact[] {
  const { fps } = a.clip;
  const end = at + overlap;
  const middle = at + Math.round(overlap / 2);
  const tracks = [a.clip, b.clip, mixed].map((clip) => new PointTracks(a.character.skeleton, clip, a.points));
  const placeOf = (track: PointTracks, c: Contact, f: number): readonly number[] | null => {
    if (typeof c.on === "object") return null;
    if (c.anchor.point) return c.anchor.point;
    const course = track.course(c.point);
    return course ? Array.from(course.subarray(f * 3, f * 3 + 3)) : null;
  };
  const level = (p: readonly number[], q: ArrayLike<number>) => Math.hypot(p[0] - q[0], p[2] - q[2]);
  const near = (c: Contact, place: readonly number[] | null, f: number) => {
    const course = place && tracks[2].course(c.point);
    return !course || level(place, course.subarray(f * 3, f * 3 + 3)) <= STANDS_WITHIN * legLength;
  };
  const first = a.contacts.filter((c) => c.start < end);
  const second = b.contacts.map((c): Contact => ({ ...c, start: c.start + at, end: c.end + at, of: c.of ?? name })).filter((c) => c.end >= at);
  const out: Contact[] = [];
  const gone = new Set<Contact>();
  const limbOf = new Map(a.points.map((p) => [p.id, p.limb]));
  const fixed: Contact[] = [];
  for (const c of first) {
    const next = second.find(
      (d) => d.point === c.point && !gone.has(d) && typeof d.on === typeof c.on && d.start <= Math.min(end, c.end + 2) && d.end >= Math.max(at, c.start),
    );
    const frame = Math.max(at, Math.min(middle, c.end));
    const [p, q] = [
      placeOf(tracks[0], c, Math.min(a.clip.frameCount - 1, frame)),
      next ? placeOf(tracks[1], next, Math.max(0, Math.max(next.start, frame) - at)) : null,
    ];
    if (next && p && q && level(p, q) <= ONE_PLACE * legLength) {
      gone.add(next);
      // As long as both stand, and on while the mix leaves it there; behind the overlap the second one alone has the say.
      let until = Math.min(c.end, next.end);
      while (until < Math.max(c.end, next.end) && (until + 1 > end ? until < next.end : near(c, p, until + 1))) until++;
      const one = { ...c, end: until, rampOut: until === next.end ? next.rampOut : null };
      out.push(one);
      fixed.push(one);
      // The rest of its foot stands as far off as it does.
      second.forEach((d, i) => {
        if (d === next || gone.has(d) || limbOf.get(d.point) !== limbOf.get(c.point) || d.start > next.end || d.end < next.start || !d.anchor.point) return;
        const [x, y, z] = d.anchor.point;
        second[i] = { ...d, anchor: { ...d.anchor, point: [x + p[0] - q[0], y, z + p[2] - q[2]] } };
      });
      continue;
    }
    let last = Math.min(c.end, end);
    for (let f = Math.max(at, c.start); f <= last; f++) if (!near(c, p, f)) last = f - 1;
    out.push({ ...c, end: last, rampOut: last < c.end ? null : c.rampOut });
  }
  for (const d of second) {
    if (gone.has(d)) continue;
    const place = placeOf(tracks[1], d, Math.max(0, d.start - at));
    let start = d.start;
    if (d.start < end) for (let f = Math.min(d.end, end); f >= start; f--) if (!near(d, place, f)) start = f + 1;
    out.push({ ...d, start, rampIn: start > d.start ? null : d.rampIn });
  }
  const kept = out.filter((c) => c.end - c.start >= SLIVER * fps || (!cutShort(c, a.contacts, 0) && !cutShort(c, b.contacts, at)));
  return sortContacts(onOneSole(kept, fixed, a));
}

/** Is a contact less than what it was? */
function cutShort(c: Contact, were: readonly Contact[], offset: number): boolean {
  return (
    were.some((w) => w.point === c.point && w.start + offset <= c.start && w.end + offset >= c.end && w.end - w.start > c.end - c.start) || c.end < c.start
  );
}

/** Heel and toe of a foot a sole's length apart again, those that stand through the seam where they are. */
function onOneSole(contacts: readonly Contact[], fixed: readonly Contact[], like: Motion): Contact[] {
  const stays = contacts.map((c) => fixed.includes(c));
  const coupled = contacts.map((c, i) => (stays[i] ? { ...c, anchor: { ...c.anchor, mode: "set" as const } } : c));
  for (const { points } of limbEnds(like.character, like.points)) if (points.length === 2) coupleSole(coupled, points, like.ground);
  return coupled.map((c, i) => (stays[i] ? contacts[i] : c));
}
