import { type Clip, type Contact, clipWorld, jointTrack, logQuatFlat, multiplyQuatFlat, pointTrack, quantile, readRotation } from "@stride/motion";
import type { Character } from "./characters.ts";
import type { Performance } from "./performance.ts";

/** How well contacts and a cleaned clip agree with a performance whose truth is known. */
export interface Score {
  /** frame-wise F1 of all parts together */
  readonly f1: number;
  /** 95th percentile of the level distance from each true span's middle place, cm */
  readonly slideP95Cm: number;
  /** 95th percentile of the height difference to the truth within true spans, cm */
  readonly heightP95Cm: number;
  /** mean joint distance to the truth, cm: faulty and cleaned */
  readonly distanceFaultyCm: number;
  readonly distanceCleanedCm: number;
  /** frames whose angular acceleration in root and legs exceeds three times the truth's 99.9th percentile: faulty and cleaned */
  readonly popsFaulty: number;
  readonly popsCleaned: number;
}

export function score(truth: Performance, faulty: Clip, found: readonly Contact[], cleaned: Clip): Score {
  const { character } = truth;
  const slides: number[] = [];
  const heights: number[] = [];
  for (const contact of truth.contacts) {
    const [joint, local] = truePoint(character, contact.point);
    const track = pointTrack(jointTrack(character.skeleton, cleaned, joint), [...local]);
    const right = pointTrack(jointTrack(character.skeleton, truth.clip, joint), [...local]);
    const frames = Array.from({ length: contact.end - contact.start + 1 }, (_, i) => (contact.start + i) * 3);
    const x = quantile(
      frames.map((o) => track[o]),
      0.5,
    );
    const z = quantile(
      frames.map((o) => track[o + 2]),
      0.5,
    );
    for (const o of frames) {
      slides.push(Math.hypot(track[o] - x, track[o + 2] - z) * 100);
      heights.push(Math.abs(track[o + 1] - right[o + 1]) * 100);
    }
  }
  const legs = limbJoints(character);
  const limit = 3 * quantile(angularAccelerations(truth.clip, legs), 0.999);
  const over = (clip: Clip) => angularAccelerations(clip, legs).filter((a) => a > limit).length;
  return {
    f1: f1Score(truth.contacts, found, truth.clip.frameCount),
    slideP95Cm: quantile(slides, 0.95),
    heightP95Cm: quantile(heights, 0.95),
    distanceFaultyCm: meanDistanceCm(character, truth.clip, faulty),
    distanceCleanedCm: meanDistanceCm(character, truth.clip, cleaned),
    popsFaulty: over(faulty),
    popsCleaned: over(cleaned),
  };
}

/** The point of a contact part as the generator rolls it: end joint and place in its frame. */
function truePoint(character: Character, part: string): [number, readonly [number, number, number]] {
  const side = part.startsWith("left") ? "left" : "right";
  const { roles } = character;
  if (part.endsWith("Heel")) return [roles[`${side}Foot`] ?? 0, character.heel ?? character.ball];
  if (part.endsWith("Toe")) return [roles[`${side}Foot`] ?? 0, character.ball];
  const hoof = roles[part.endsWith("Fore") ? (`${side}HandEnd` as const) : (`${side}Toe` as const)] ?? 0;
  return [hoof, [0, 0, 0]];
}

/** A part from its first frame at rest to its last. */
export type Span = Pick<Contact, "point" | "start" | "end">;

/** A point that is so near the place where it rests rests there as far as anyone sees, metres. */
const UNSEEN = 0.0002;

/**
 * Frames beside true spans in which the part still lies, or lies already, within a fifth of a millimetre of where it rests: motion that is
 * eased in and out leaves some, and to count them as resting is neither right nor wrong. `courseOf` gives a span's part through the clip, metres [frame × 3], null where nobody knows. [part] → frames.
 */
export function framesEitherWay<S extends Span>(spans: readonly S[], frameCount: number, courseOf: (span: S) => Float64Array | null): Map<string, Uint8Array> {
  const out = new Map<string, Uint8Array>();
  for (const span of spans) {
    const course = courseOf(span);
    if (!course) continue;
    const { point, start, end } = span;
    const frames = out.get(point) ?? new Uint8Array(frameCount);
    out.set(point, frames);
    const near = (f: number, rest: number) => Math.hypot(...[0, 1, 2].map((i) => course[f * 3 + i] - course[rest * 3 + i])) < UNSEEN;
    for (let f = start - 1; f >= 0 && near(f, start); f--) frames[f] = 1;
    for (let f = end + 1; f < frameCount && near(f, end); f++) frames[f] = 1;
  }
  return out;
}

/** Frames beside the spans of a performance that count either way. */
export function frameEitherWay({ character, clip, contacts }: Performance): Map<string, Uint8Array> {
  return framesEitherWay(contacts, clip.frameCount, ({ point }) => {
    const [joint, local] = truePoint(character, point);
    return pointTrack(jointTrack(character.skeleton, clip, joint), [...local]);
  });
}

/** Agreement of spans frame by frame, all parts together; frames that may count as either are left out. */
export function f1Score(truth: readonly Span[], found: readonly Span[], frameCount: number, eitherWay?: ReadonlyMap<string, Uint8Array>): number {
  let [both, onlyFound, onlyTrue] = [0, 0, 0];
  for (const part of new Set(truth.map((c) => c.point))) {
    const mark = (list: readonly Span[]) => {
      const frames = new Uint8Array(frameCount);
      for (const c of list) if (c.point === part) frames.fill(1, c.start, c.end + 1);
      return frames;
    };
    const a = mark(truth);
    const b = mark(found);
    const open = eitherWay?.get(part);
    for (let f = 0; f < frameCount; f++) {
      if (open?.[f]) continue;
      if (a[f] && b[f]) both++;
      else if (b[f]) onlyFound++;
      else if (a[f]) onlyTrue++;
    }
  }
  return (2 * both) / (2 * both + onlyFound + onlyTrue);
}

export function meanDistanceCm(character: Character, a: Clip, b: Clip): number {
  const p = clipWorld(character.skeleton, a).positions;
  const q = clipWorld(character.skeleton, b).positions;
  let sum = 0;
  for (let i = 0; i < p.length; i += 3) sum += Math.hypot(p[i] - q[i], p[i + 1] - q[i + 1], p[i + 2] - q[i + 2]);
  return (sum / (p.length / 3)) * 100;
}

/** Root and legs, fore legs too. */
export function limbJoints({ plan, roles }: Character): number[] {
  const parts = ["Thigh", "Shin", "Foot", ...(plan === "quadruped" ? (["UpperArm", "Forearm", "Hand"] as const) : [])] as const;
  return [roles.hips ?? 0, ...(["left", "right"] as const).flatMap((side) => parts.map((part) => roles[`${side}${part}`] ?? 0))];
}

/** Angular acceleration of joints at every inner frame, radians a second². */
export function angularAccelerations(clip: Clip, joints: readonly number[]): number[] {
  const out: number[] = [];
  const next = [0, 0, 0, 1];
  const turn = (f: number, joint: number) => {
    const q = [0, 0, 0, 1];
    readRotation(clip, joint, f, q, 0);
    readRotation(clip, joint, f + 1, next, 0);
    for (let i = 0; i < 3; i++) q[i] *= -1;
    multiplyQuatFlat(q, 0, q, 0, next, 0);
    return logQuatFlat([0, 0, 0], 0, q, 0);
  };
  for (const joint of joints) {
    for (let f = 1; f + 1 < clip.frameCount; f++) {
      const a = turn(f - 1, joint);
      const b = turn(f, joint);
      out.push(Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]) * clip.fps * clip.fps);
    }
  }
  return out;
}
