import { cropClip } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { apartBetween, featuresOf } from "../cycles/features.ts";
import { strideSeconds } from "../cycles/find.ts";
import type { Motion } from "../motion.ts";
import { type Course, hipsCourse } from "../travel/course.ts";
import type { LevelMove } from "../travel/level.ts";
import { turnedLevel } from "../travel/level.ts";
import { travelCourse } from "./sway.ts";

/** Where one motion goes over into another: frames of either, and over how many. */
export interface Seam {
  /** frame of the first motion at which the overlap begins */
  readonly leave: number;
  /** frame of the second motion that comes there */
  readonly enter: number;
  readonly overlap: number;
}

/** A body that goes less far than this over a stretch has no way of travel there, metres. */
const NO_WAY = 0.08;
/** Ways of travel are read over at least so long, seconds. */
const READ_OVER = 0.5;

/** The way that a body goes over a stretch, or faces where it stays; radians about +Y from +Z. */
function headingOver(course: Course, first: number, last: number): number {
  const [dx, dz] = [course.x[last] - course.x[first], course.z[last] - course.z[first]];
  const middle = Math.round((first + last) / 2);
  return Math.hypot(dx, dz) < NO_WAY ? course.heading[middle] : Math.atan2(dx, dz);
}

/**
 * How the second motion has to be moved so that it goes on where the first one is: the same heading of travel over the overlap (of the bodies, where either
 * stays), and in the middle of the overlap the hips in one place, or a foot that is planted in both, as near to the middle as there is one. `feet` says whether there was any.
 */
export function alignment(a: Motion, b: Motion, seam: Seam, on: "hips" | "foot"): { readonly move: LevelMove; readonly feet: readonly string[] } {
  const { fps } = a.clip;
  const over = Math.max(seam.overlap, Math.round(READ_OVER * fps));
  const [ca, cb] = [travelCourse(a), travelCourse(b)];
  const [lastA, lastB] = [a.clip.frameCount - 1, b.clip.frameCount - 1];
  const centreA = seam.leave + seam.overlap / 2;
  const centreB = seam.enter + seam.overlap / 2;
  const stretch = (centre: number, last: number): [number, number] => [
    Math.max(0, Math.min(last - 1, Math.round(centre - over / 2))),
    Math.min(last, Math.max(1, Math.round(centre + over / 2))),
  ];
  const [a0, a1] = stretch(centreA, lastA);
  const [b0, b1] = stretch(centreB, lastB);
  const goes = (c: Course, first: number, last: number) => Math.hypot(c.x[last] - c.x[first], c.z[last] - c.z[first]) >= NO_WAY;
  const both = goes(ca, a0, a1) && goes(cb, b0, b1);
  const [fa, fb] = [Math.min(lastA, Math.round(centreA)), Math.min(lastB, Math.round(centreB))];
  const yaw = both ? headingOver(ca, a0, a1) - headingOver(cb, b0, b1) : ca.heading[fa] - cb.heading[fb];
  const [ha, hb] = [hipsCourse(a.character, a.clip), hipsCourse(b.character, b.clip)];
  const { feet, by } = on === "foot" ? standingFeet(a, fa, b, fb, Math.floor(seam.overlap / 2)) : { feet: [], by: 0 };
  let [ax, az, bx, bz] = [ha.x[fa], ha.z[fa], hb.x[fb], hb.z[fb]];
  if (feet.length > 0) {
    const [ta, tb] = [a, b].map((m) => new PointTracks(m.character.skeleton, m.clip, a.points));
    const mean = (tracks: PointTracks, f: number, axis: number) => feet.reduce((sum, id) => sum + (tracks.course(id)?.[f * 3 + axis] ?? 0), 0) / feet.length;
    [ax, az, bx, bz] = [mean(ta, fa + by, 0), mean(ta, fa + by, 2), mean(tb, fb + by, 0), mean(tb, fb + by, 2)];
  }
  const [x, z] = turnedLevel(bx, bz, yaw);
  return { move: { yaw, x: ax - x, y: 0, z: az - z }, feet };
}

/** What stands in both motions at once, as near to the middle of the overlap as may be: the points, and how many frames from the middle. */
function standingFeet(a: Motion, fa: number, b: Motion, fb: number, half: number): { readonly feet: readonly string[]; readonly by: number } {
  for (let k = 0; k <= half; k++)
    for (const by of k === 0 ? [0] : [k, -k]) {
      if (fa + by < 0 || fb + by < 0 || fa + by >= a.clip.frameCount || fb + by >= b.clip.frameCount) continue;
      const feet = plantedInBoth(a, fa + by, b, fb + by);
      if (feet.length > 0) return { feet, by };
    }
  return { feet: [], by: 0 };
}

/** Bearing points that rest in the first motion on one frame and in the second on another; those of one limb only, the one that does so longest. */
function plantedInBoth(a: Motion, fa: number, b: Motion, fb: number): string[] {
  const rests = (m: Motion, f: number) => new Map(m.contacts.filter((c) => c.start <= f && c.end >= f).map((c) => [c.point, c]));
  const [ra, rb] = [rests(a, fa), rests(b, fb)];
  const both = a.points.filter((p) => p.bears && ra.has(p.id) && rb.has(p.id));
  if (both.length === 0) return [];
  const length = (c: Contact | undefined, f: number) => (c ? Math.min(c.end - f, f - c.start) : 0);
  const staying = (id: string) => length(ra.get(id), fa) + length(rb.get(id), fb);
  const best = both.reduce((p, q) => (staying(q.id) > staying(p.id) ? q : p));
  return both.filter((p) => p.limb === best.limb).map((p) => p.id);
}

/** A way to go over from one motion to another, and how well it fits: places of the body's parts and their speeds there. */
export interface SeamChoice {
  /** seconds of the first and of the second motion */
  readonly leave: number;
  readonly enter: number;
  readonly apart: number;
  readonly poseCm: number;
  readonly speedCm: number;
  /** contacts in which the two differ there */
  readonly contacts: number;
}

/** Steps of the search, as many as this over a stride. */
const STEPS = 40;

/**
 * The best places to go over from one motion to another of the same body: within the first one's last stride and the second one's first, both seen a half overlap in.
 * Poses, speeds and contacts as alike as possible, so that the same foot leads. `overlap` in seconds.
 */
export function findSeams(a: Motion, b: Motion, overlap: number, most: number): SeamChoice[] {
  const { fps } = a.clip;
  const [fa, fb] = [featuresOf(a), featuresOf(b)];
  const half = Math.round((overlap * fps) / 2);
  const [lastA, lastB] = [a.clip.frameCount - 1, b.clip.frameCount - 1];
  const strideA = Math.round((strideSeconds(a) ?? 1) * fps);
  const strideB = Math.round((strideSeconds(b) ?? 1) * fps);
  const step = Math.max(1, Math.round(Math.max(strideA, strideB) / STEPS));
  const found: SeamChoice[] = [];
  for (let i = Math.max(half, lastA - half - strideA); i <= lastA - half; i += step)
    for (let k = half; k <= Math.min(lastB - half, half + strideB); k += step) {
      const { apart, pose, speed, contacts } = apartBetween(fa, i, fb, k);
      found.push({ leave: (i - half) / fps, enter: (k - half) / fps, apart, poseCm: 100 * pose, speedCm: 100 * speed, contacts });
    }
  found.sort((p, q) => p.apart - q.apart);
  const kept: SeamChoice[] = [];
  for (const choice of found) {
    if (kept.length >= most) break;
    if (kept.some((c) => Math.abs(c.leave - choice.leave) < APART_SECONDS && Math.abs(c.enter - choice.enter) < APART_SECONDS)) continue;
    kept.push(choice);
  }
  return kept;
}

/** Seams nearer than this are one, seconds. */
const APART_SECONDS = 0.15;

/** How a seam fits as it is. Seconds of either motion, half an overlap in. */
export function seamFigures(a: Motion, b: Motion, leave: number, enter: number, overlap: number): Omit<SeamChoice, "leave" | "enter"> {
  const { fps } = a.clip;
  const at = (m: Motion, moment: number) => Math.max(0, Math.min(m.clip.frameCount - 1, Math.round((moment + overlap / 2) * fps)));
  const { apart, pose, speed, contacts } = apartBetween(featuresOf(a), at(a, leave), featuresOf(b), at(b, enter));
  return { apart, poseCm: 100 * pose, speedCm: 100 * speed, contacts };
}

/** The frames of a motion as a motion of its own, contacts cut to them. */
export function framesOf(motion: Motion, first: number, last: number): Motion {
  if (first === 0 && last === motion.clip.frameCount - 1) return motion;
  const contacts = motion.contacts.flatMap((c) =>
    c.end < first || c.start > last ? [] : [{ ...c, start: Math.max(0, c.start - first), end: Math.min(last, c.end) - first }],
  );
  const cut = (list: Float64Array) => list.slice(first, last + 1);
  const clip = cropClip(motion.clip, first, last);
  return {
    ...motion,
    clip,
    contacts,
    plants: motion.plants.map((p) => ({ ...p, weights: cut(p.weights) })),
    groundTravel: motion.groundTravel && { x: cut(motion.groundTravel.x), z: cut(motion.groundTravel.z) },
    settled: motion.settled === motion.clip ? clip : null,
  };
}
