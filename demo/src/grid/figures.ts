import { type Clip, DEFAULT_RECIPE, Evaluator, emptyWork, findingsOf, jointTrack, measure, oneSource, pointTrack, quantile } from "@stride/motion";
import type { Character } from "../characters.ts";
import type { Performance } from "../performance.ts";
import { angularAccelerations, f1Score, frameEitherWay, limbJoints, meanDistanceCm } from "../score.ts";
import type { GridCase } from "./cases.ts";
import { restingJoint } from "./restingJoint.ts";
import { bestTravel } from "./travelBound.ts";

/** What cleaning made of a clip, measured against its truth alone: joints, spans and heights are the generator's. Centimetres. */
export interface Figures {
  readonly name: string;
  readonly f1: number;
  /** the same without the frames beside a span in which the part lies within a fifth of a millimetre of its place */
  readonly f1Seen: number;
  /** level distance of resting joints from their spans' middle places */
  readonly slideP95: number;
  readonly slideMax: number;
  /** height of resting joints against the truth */
  readonly heightP95: number;
  /** frames whose angular acceleration is over the truth's limit and was not before cleaning */
  readonly pops: number;
  /** mean distance of all joints to the truth, with the root's level place taken out */
  readonly apart: number;
  /** mean distance of all joints to the clip as it came */
  readonly moved: number;
  /** mean distance of ends of legs to the truth, as the hips see them, and what it was before cleaning */
  readonly path: number;
  readonly pathBefore: number;
  /** mean level distance of the hips to their true way, with the straight line taken out that a wrong speed makes of it */
  readonly bodyPath: number;
  /** most that a toe joint moves while its heel lifts */
  readonly toeInLift: number;
  /** most that a resting joint moves within spans that begin on the first or end on the last frame */
  readonly edgeSlide: number;
  /** share of the travel taken out, against the share that was put in, as a part of it; NaN where none was */
  readonly travelOff: number;
  /** the same against a twentieth, or two standard errors of what the true stands tell of it at best if that is more */
  readonly travelBeyond: number;
  /** findings of the clip as it came */
  readonly findings: string;
}

const cm = 100;
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;

export function figuresOf({ name, truth, faulty, faults }: GridCase): Figures {
  const { skeleton } = truth.character;
  const evaluator = new Evaluator(oneSource(skeleton, faulty));
  const { base, result } = evaluator.evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const cleaned = result.clip;
  const measures = measure(base);
  const findings = findingsOf(base, measures).map((f) => f.kind);
  const slides: number[] = [];
  const heights: number[] = [];
  let toeInLift = 0;
  let edgeSlide = 0;
  const last = faulty.frameCount - 1;
  for (const contact of truth.contacts) {
    // Only joints: where a heel touches the ground no skeleton says.
    if (contact.point.endsWith("Heel")) continue;
    const track = restingCourse(truth.character, cleaned, contact.point);
    const right = restingCourse(truth.character, truth.clip, contact.point);
    const frames = Array.from({ length: contact.end - contact.start + 1 }, (_, i) => contact.start + i);
    const middle = [0, 2].map((axis) =>
      quantile(
        frames.map((f) => track[f * 3 + axis]),
        0.5,
      ),
    );
    const away = frames.map((f) => Math.hypot(track[f * 3] - middle[0], track[f * 3 + 2] - middle[1]) * cm);
    slides.push(...away);
    heights.push(...frames.map((f) => Math.abs(track[f * 3 + 1] - right[f * 3 + 1]) * cm));
    if (contact.start === 0 || contact.end === last) edgeSlide = Math.max(edgeSlide, ...away);
    const heel = truth.contacts.find(
      (c) => c.point === contact.point.replace("Toe", "Heel") && c.start <= contact.end && c.end >= contact.start && c.end < contact.end,
    );
    if (heel) {
      const lifting = frames.filter((f) => f >= heel.end);
      const from = lifting[0];
      toeInLift = Math.max(toeInLift, ...lifting.map((f) => Math.hypot(...[0, 1, 2].map((i) => track[f * 3 + i] - track[from * 3 + i])) * cm));
    }
  }
  const legs = limbJoints(truth.character);
  const [a, b, c] = [truth.clip, faulty, cleaned].map((clip) => angularAccelerations(clip, legs));
  const limit = 3 * quantile(a, 0.999);
  const off = faults.travel === undefined ? Number.NaN : travelOff(truth.clip, faulty, cleaned, skeleton, truth.character.roles.hips ?? 0);
  return {
    name,
    f1: f1Score(truth.contacts, base.contacts, faulty.frameCount),
    f1Seen: f1Score(truth.contacts, base.contacts, faulty.frameCount, frameEitherWay(truth)),
    slideP95: quantile(slides, 0.95),
    slideMax: Math.max(...slides),
    heightP95: quantile(heights, 0.95),
    pops: c.filter((v, i) => v > limit && Math.max(b[i - 1] ?? 0, b[i], b[i + 1] ?? 0) <= limit).length,
    apart: meanDistanceCm(truth.character, truth.clip, cleaned),
    moved: meanDistanceCm(truth.character, faulty, cleaned),
    path: pathOff(truth, cleaned),
    pathBefore: pathOff(truth, faulty),
    bodyPath: bodyPath(skeleton, truth.character.roles.hips ?? 0, truth.clip, cleaned),
    toeInLift,
    edgeSlide,
    travelOff: off,
    travelBeyond:
      faults.travel === undefined
        ? Number.NaN
        : off / Math.max(MOST_OFF, (2 * bestTravel(truth, faulty, faults.jitter ?? 0).error) / Math.abs(1 - 1 / faults.travel)),
    findings: [...new Set(findings)].sort().join(" "),
  };
}

/** A wrong travel is measured to within such a share of itself. */
const MOST_OFF = 0.05;

function restingCourse(character: Character, clip: Clip, point: string): Float64Array {
  const joint = restingJoint(character.roles, point);
  const track = jointTrack(character.skeleton, clip, joint);
  const toeless = point.endsWith("Toe") && !Object.values(character.roles).some((j) => character.skeleton.parents[j] === joint);
  return toeless && character.roles.leftToe === undefined ? pointTrack(track, [...character.ball]) : track.positions;
}

/** Mean distance of the ends of legs to the truth, as the hips see them, cm. */
export function pathOff({ character, clip, contacts }: Performance, other: Clip): number {
  const ends = [...new Set(contacts.map((contact) => restingJoint(character.roles, contact.point)))];
  return mean(pathDistances(character.skeleton, character.roles.hips ?? 0, ends, clip, other));
}

function pathDistances(skeleton: Parameters<typeof jointTrack>[0], hips: number, ends: readonly number[], a: Clip, b: Clip): number[] {
  const [ha, hb] = [a, b].map((clip) => jointTrack(skeleton, clip, hips).positions);
  return ends.flatMap((end) => {
    const [pa, pb] = [a, b].map((clip) => jointTrack(skeleton, clip, end).positions);
    return Array.from(
      { length: a.frameCount },
      (_, f) => Math.hypot(...[0, 1, 2].map((i) => pa[f * 3 + i] - ha[f * 3 + i] - pb[f * 3 + i] + hb[f * 3 + i])) * cm,
    );
  });
}

function bodyPath(skeleton: Parameters<typeof jointTrack>[0], hips: number, truth: Clip, cleaned: Clip): number {
  const [t, c] = [truth, cleaned].map((clip) => jointTrack(skeleton, clip, hips).positions);
  const n = truth.frameCount;
  const [x, z] = [0, 2].map((axis) => {
    const off = Array.from({ length: n }, (_, f) => (c[f * 3 + axis] - t[f * 3 + axis]) * cm);
    const middle = (n - 1) / 2;
    const level = mean(off);
    const slope = off.reduce((sum, v, f) => sum + (f - middle) * v, 0) / off.reduce((sum, _, f) => sum + (f - middle) ** 2, 0);
    return off.map((v, f) => v - level - slope * (f - middle));
  });
  return mean(x.map((v, f) => Math.hypot(v, z[f])));
}

/** How far the distance travelled is from the true one, as a share of the error that was put in. */
function travelOff(truth: Clip, faulty: Clip, cleaned: Clip, skeleton: Parameters<typeof jointTrack>[0], hips: number): number {
  const [t, f, c] = [truth, faulty, cleaned].map((clip) => {
    const p = jointTrack(skeleton, clip, hips).positions;
    const o = (clip.frameCount - 1) * 3;
    return Math.hypot(p[o] - p[0], p[o + 2] - p[2]);
  });
  return Math.abs((c - t) / (f - t));
}
