import type { Clip } from "../clip/clip.ts";
import { CHUNK_SHIFT } from "../clip/clip.ts";
import { type Contact, keepsHeight } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import type { Motion } from "../motion.ts";
import { quantileMutable } from "../signal/robust.ts";
import { ancestry, type Skeleton } from "../skeleton/skeleton.ts";

export interface SpanMeasure {
  readonly contact: Contact;
  /** greatest distance between two places of the part within the span: level in the world, any way on another part */
  readonly slideCm: number;
  /** mean height over the ground; below zero it sinks; 0 on a place of its own, on another part, or where it keeps its own height */
  readonly heightCm: number;
  /** level distance from the span's middle place at each frame, cm: the shading of its bar */
  readonly course: Float32Array;
}

/** A measure with all that it was read off: the samples of what carries the part over the span, the ground, and where in the joint the point is. */
interface Read {
  readonly samples: readonly Float32Array[];
  readonly ground: Ground;
  readonly point: object;
  readonly measure: SpanMeasure;
}

/** Measures of a contact in the motions that it was seen in last. */
const KNOWN = new WeakMap<Contact, Read[]>();
/** So many motions of one contact are remembered: before and after a patch, the result and one over. */
const MOST_READ = 4;

/** How contacts rest, each measured anew only where what carries it over its span has changed since. */
export class SpanMeasurer {
  private readonly tracks: PointTracks;
  private readonly chains = new Map<number, readonly number[]>();

  constructor(private readonly motion: Motion) {
    this.tracks = new PointTracks(motion.character.skeleton, motion.clip, motion.points);
  }

  /** Undefined where the character has no such point. */
  measure(contact: Contact): SpanMeasure | undefined {
    const { clip, character, ground } = this.motion;
    const point = this.tracks.point(contact.point);
    if (!point) return undefined;
    const under = typeof contact.on === "object" ? this.chain(character.skeleton, contact.on.joint) : [];
    const samples = samplesOf(clip, [...this.chain(character.skeleton, point.joint), ...under], contact);
    const known = KNOWN.get(contact) ?? [];
    const hit = known.find((r) => r.point === point && r.ground === ground && r.samples.every((chunk, i) => chunk === samples[i]));
    if (hit) return hit.measure;
    const measure = spanMeasure(this.motion, contact, this.tracks);
    if (measure) KNOWN.set(contact, [{ samples, ground, point, measure }, ...known].slice(0, MOST_READ));
    return measure;
  }

  private chain(skeleton: Skeleton, joint: number): readonly number[] {
    const known = this.chains.get(joint) ?? ancestry(skeleton, joint);
    this.chains.set(joint, known);
    return known;
  }
}

/** The chunks of samples that some joints have over a contact's span, positions and rotations. */
function samplesOf(clip: Clip, joints: readonly number[], { start, end }: Contact): Float32Array[] {
  const out: Float32Array[] = [];
  for (let c = start >> CHUNK_SHIFT; c <= end >> CHUNK_SHIFT; c++) {
    for (const joint of joints) out.push(clip.rotations[joint][c]);
    for (const track of clip.positions) out.push(track[c]);
  }
  return out;
}

function spanMeasure(motion: Motion, contact: Contact, tracks: PointTracks): SpanMeasure | undefined {
  const course = tracks.spanCourse(contact);
  if (!course) return undefined;
  const n = course.length / 3;
  const axis = (i: number) => Float64Array.from({ length: n }, (_, k) => course[k * 3 + i]);
  const [xs, ys, zs] = [axis(0), axis(1), axis(2)];
  const onPart = typeof contact.on === "object";
  const point = tracks.point(contact.point);
  const clearance = point?.clearance ?? 0;
  let height = 0;
  if (contact.on === "ground" && !keepsHeight(contact, point))
    for (let i = 0; i < n; i++) height += (ys[i] - clearance - (contact.height ?? 0) - groundHeight(motion.ground, xs[i], zs[i])) / n;
  const middle = (values: Float64Array) => quantileMutable(values.slice(), 0.5);
  const [mx, my, mz] = [middle(xs), onPart ? middle(ys) : 0, middle(zs)];
  const off = Float32Array.from(xs, (x, i) => Math.hypot(x - mx, onPart ? ys[i] - my : 0, zs[i] - mz) * 100);
  return { contact, slideCm: widest(xs, onPart ? ys : null, zs) * 100, heightCm: height * 100, course: off };
}

/** Greatest distance between two points of a course; exact for up to 400 points, among every second, third … of more. */
function widest(xs: Float64Array, ys: Float64Array | null, zs: Float64Array): number {
  const n = xs.length;
  const step = Math.max(1, Math.ceil(n / 400));
  let most = 0;
  for (let i = 0; i < n; i += step)
    for (let j = i + 1; j < n; j += step) most = Math.max(most, (xs[i] - xs[j]) ** 2 + (ys ? (ys[i] - ys[j]) ** 2 : 0) + (zs[i] - zs[j]) ** 2);
  return Math.sqrt(most);
}
