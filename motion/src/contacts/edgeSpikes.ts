import type { Character } from "../character/character.ts";
import type { ContactPoint } from "../character/contactPoints.ts";
import { type Clip, readRotation } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, fromToQuatFlat, logQuatFlat, multiplyQuatFlat, quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import { rotationBetween } from "../signal/spikes.ts";
import { ancestry, boneLength } from "../skeleton/skeleton.ts";
import type { Contact } from "./contact.ts";

/** Frames of a stand that tell where its part rests on the next ones, and the fewest that do. */
const TELL = 6;
const FEWEST = 2;
/** How near the one turn has to bring the part: a share of the leg, and standard errors of what the stand tells. */
const NEAR = 0.001;
const NEAR_SIGMAS = 4.5;
/** Frames beyond a spike rest if they are nearer yet: a share of that. */
const IN_PLACE = 0.5;
/** Stands that tell less exactly than this share of the leg tell nothing. */
const TELLS = 0.045;
/** A part that is off by less than so many times that is not told from one that leaves. */
const FAR = 3;
/** Least turn that is a spike, radians, and share of a joint's bends (squares) that may be left without it. */
const A_SPIKE = { turn: (7 * Math.PI) / 180, left: 0.5 };
/** … where the turn brings the part so exactly home, as a share of how far it is off, that hardly another does. */
const EXACTLY = 1 / 30;
const AN_EXACT_ONE = { turn: (4 * Math.PI) / 180, left: 0.95 };
/** A joint nearer than this to what the frames around it would have has no spike, radians. */
const LEAPS = AN_EXACT_ONE.turn / 2;
/** Frames that a stand has rightly ended early at most before a spike, and those beyond it that are held as well where they are in place. */
const MOST_BEFORE = 1;
const MOST_BEYOND = 3;

/** A clip as it came, and without the spikes that its joints' own courses show. */
export interface Mended {
  readonly came: Clip;
  readonly mended: Clip;
}

/**
 * Contacts that end beside a one-frame spike of their leg, carried over it. A landing has a corner of its own, in which a spike cannot be told by the joint's course alone; but where turning one
 * joint of the leg brings the part to where it rests on the frames beside, to within what these tell, and the joint goes more smoothly so, the part has been there.
 */
export function carriedOverSpikes(character: Character, clips: Mended, contacts: readonly Contact[]): Contact[] {
  const out = contacts.map((contact) => {
    const stand = standOf(character, clips, contact);
    if (!stand) return contact;
    const [start, end] = [reached(stand, contact, -1), reached(stand, contact, 1)];
    if (start === contact.start && end === contact.end) return contact;
    const doubtful = contact.doubtful && ([start < contact.start ? 0 : contact.doubtful[0], end > contact.end ? 0 : contact.doubtful[1]] as const);
    return { ...contact, start, end, ...(doubtful && { doubtful }) };
  });
  return out.every((contact, k) => contact === contacts[k]) ? out : joined(out);
}

/** The last frame, one way, that a stand goes on to over a spike; its own where there is none. */
function reached(stand: Stand, { start, end }: Contact, way: -1 | 1): number {
  const edge = way < 0 ? start : end;
  // The last frame itself may be the spike's.
  for (let k = 0; k <= 1 + MOST_BEFORE; k++) {
    const f = edge + way * k;
    const inside: readonly [number, number] = k === 0 ? [start + (way < 0 ? 1 : 0), end - (way > 0 ? 1 : 0)] : [start, end];
    if (k > 1 && !restsAt(stand, f - way, inside, 1)) break;
    if (spikeAt(stand, f, inside) === null) continue;
    let to = f;
    while (Math.abs(to - f) < MOST_BEYOND && restsAt(stand, to + way, inside, IN_PLACE)) to += way;
    return to;
  }
  return edge;
}

/** Spikes [joint] → frames on the first and last frames of contacts, told by the rest of each. */
export function edgeSpikes(character: Character, clips: Mended, contacts: readonly Contact[]): Map<number, number[]> {
  const out = new Map<number, number[]>();
  for (const contact of contacts) {
    const stand = standOf(character, clips, contact);
    if (!stand) continue;
    const { start, end } = contact;
    // Frames beyond a spike may be held, too.
    for (let k = 0; k <= MOST_BEYOND + MOST_BEFORE; k++)
      for (const f of [start + k, end - k]) {
        const inside: readonly [number, number] = f === start + k ? [f + 1, end] : [start, f - 1];
        const joint = spikeAt(stand, f, inside);
        if (joint !== null && !(out.get(joint) ?? []).includes(f))
          out.set(
            joint,
            [...(out.get(joint) ?? []), f].sort((a, b) => a - b),
          );
      }
  }
  return out;
}

/** What is looked at: a part of a leg. */
interface Stand {
  readonly clips: Mended;
  readonly pose: PoseFrame;
  readonly point: ContactPoint;
  /** joints of the leg that carry the part, the part's own first */
  readonly chain: readonly number[];
  readonly legLength: number;
  /** places of the part without the spikes, by frame, as far as they were asked for */
  readonly seen: Map<number, readonly number[]>;
}

function standOf({ skeleton, rig, contactPoints }: Character, clips: Mended, { point: id, on }: Contact): Stand | null {
  const point = contactPoints.find((p) => p.id === id);
  if (!point?.bears || !point.modelled || point.limb < 0 || on !== "ground") return null;
  const all = ancestry(skeleton, point.joint);
  const chain = all.slice(0, all.indexOf(rig.limbs[point.limb].upper) + 1);
  const legLength = chain.slice(0, -1).reduce((sum, joint) => sum + boneLength(skeleton, joint), 0);
  const carries = Math.hypot(...point.local) > 0;
  return { clips, pose: new PoseFrame(skeleton, clips.mended), point, chain: carries ? chain : chain.slice(1), legLength, seen: new Map() };
}

/** Where a part is on a frame; the stand's pose is left on it. */
function placeIn({ pose, point }: Stand, clip: Clip, f: number): number[] {
  pose.load(clip, f);
  const out = [0, 0, 0];
  rotateVecFlat(out, 0, pose.worldRotations, point.joint * 4, point.local, 0);
  return out.map((v, i) => v + pose.worldPositions[point.joint * 3 + i]);
}

/** The same without the spikes. */
function mendedPlace(stand: Stand, f: number): readonly number[] {
  const place = stand.seen.get(f) ?? placeIn(stand, stand.clips.mended, f);
  stand.seen.set(f, place);
  return place;
}

/** Where a part would rest on a frame outside its stand, and how exactly it is told: the line through its nearest frames, carried on, as far as they agree. */
function restAt(stand: Stand, f: number, [start, end]: readonly [number, number]): { place: number[]; tolerance: number } | null {
  const { mended } = stand.clips;
  const n = Math.min(TELL, end - start + 1);
  if (n < FEWEST || f < 1 || f > mended.frameCount - 2) return null;
  const first = f < start ? start : end - n + 1;
  const places = Array.from({ length: n }, (_, k) => mendedPlace(stand, first + k));
  const middle = (n - 1) / 2;
  const spread = (n * (n * n - 1)) / 12;
  const away = f - first - middle;
  let left = 0;
  const place = [0, 1, 2].map((i) => {
    const mean = places.reduce((sum, p) => sum + p[i], 0) / n;
    const slope = places.reduce((sum, p, k) => sum + (k - middle) * p[i], 0) / spread;
    places.forEach((p, k) => {
      left += (p[i] - mean - slope * (k - middle)) ** 2;
    });
    return mean + slope * away;
  });
  const sigma = Math.sqrt(left / (3 * Math.max(1, n - 2)));
  const tolerance = Math.max(NEAR * stand.legLength, NEAR_SIGMAS * sigma * Math.sqrt(1 + 1 / n + away ** 2 / spread));
  return tolerance > TELLS * stand.legLength ? null : { place, tolerance };
}

/** Does a part rest on a frame outside its stand where the stand says, to within so much of its tolerance? */
function restsAt(stand: Stand, f: number, inside: readonly [number, number], within: number): boolean {
  const rest = restAt(stand, f, inside);
  if (!rest) return false;
  const at = mendedPlace(stand, f);
  return Math.hypot(...rest.place.map((v, i) => v - at[i])) <= within * rest.tolerance;
}

/** The joint of a leg whose spike takes a part off its stand on a frame outside it; null where there is none. */
function spikeAt(stand: Stand, f: number, inside: readonly [number, number]): number | null {
  if (f < 1 || f > stand.clips.mended.frameCount - 2 || !stand.chain.some((joint) => leaps(stand.clips, joint, f))) return null;
  const rest = restAt(stand, f, inside);
  if (!rest) return null;
  const { place, tolerance } = rest;
  // As it came: a spike that its joint's course has shown was mended without knowing of the stand.
  const at = placeIn(stand, stand.clips.came, f);
  const off = Math.hypot(...place.map((v, i) => v - at[i]));
  if (off < FAR * tolerance) return null;
  const { pose } = stand;
  let found: number | null = null;
  const asked = tolerance < EXACTLY * off ? AN_EXACT_ONE : A_SPIKE;
  let least = asked.left;
  for (const joint of stand.chain) {
    const [came, wanted] = [at, place].map((p) => [0, 1, 2].map((i) => p[i] - pose.worldPositions[joint * 3 + i]));
    if (Math.abs(Math.hypot(...came) - Math.hypot(...wanted)) > tolerance) continue;
    const turn = turnTo(stand, joint, f, came, wanted);
    if (quatAngleFlat(turn, 0, pose.rotations, joint * 4) < asked.turn) continue;
    const share = bendsLeft(stand.clips, joint, f, turn);
    if (share < least) [found, least] = [joint, share];
  }
  return found;
}

/** Is a joint's turn on a frame at all off what the frames around would have? Most are not, and nothing else needs to be asked. */
function leaps({ came, mended }: Mended, joint: number, f: number): boolean {
  const [usual, is] = [new Float64Array(4), new Float64Array(4)];
  rotationBetween(mended, joint, f, usual);
  readRotation(came, joint, f, is, 0);
  return quatAngleFlat(usual, 0, is, 0) > LEAPS;
}

/**
 * The turn of a joint, in its parent's frame, that brings a part from one place seen from the joint to another: of all that do, the nearest to what the frames around would have. The pose is that
 * of the frame as it came.
 */
function turnTo({ pose, clips }: Stand, joint: number, f: number, came: readonly number[], wanted: readonly number[]): Float64Array {
  const [usual, q, v] = [new Float64Array(4), new Float64Array(4), new Float64Array(3)];
  const parent = pose.skeleton.parents[joint];
  rotationBetween(clips.mended, joint, f, usual);
  if (parent >= 0) multiplyQuatFlat(usual, 0, pose.worldRotations, parent * 4, usual, 0);
  conjugateQuatFlat(q, 0, pose.worldRotations, joint * 4);
  multiplyQuatFlat(q, 0, usual, 0, q, 0);
  rotateVecFlat(v, 0, q, 0, came, 0);
  fromToQuatFlat(q, 0, v[0], v[1], v[2], wanted[0], wanted[1], wanted[2]);
  multiplyQuatFlat(q, 0, q, 0, usual, 0);
  if (parent < 0) return q;
  conjugateQuatFlat(usual, 0, pose.worldRotations, parent * 4);
  return multiplyQuatFlat(q, 0, usual, 0, q, 0) as Float64Array;
}

/** What is left of a joint's bends (second differences of its turns around a frame, squared) with another turn on that frame, as a share. */
function bendsLeft({ came, mended }: Mended, joint: number, f: number, turn: Float64Array): number {
  const from = Math.max(0, f - 2);
  const turns = Array.from({ length: Math.min(mended.frameCount - 1, f + 2) - from + 1 }, (_, k) => {
    const q = new Float64Array(4);
    readRotation(from + k === f ? came : mended, joint, from + k, q, 0);
    return q;
  });
  const bends = (of: readonly Float64Array[]) => {
    const steps = of.slice(1).map((next, k) => {
      const [q, v] = [new Float64Array(4), new Float64Array(3)];
      conjugateQuatFlat(q, 0, of[k], 0);
      multiplyQuatFlat(q, 0, q, 0, next, 0);
      return logQuatFlat(v, 0, q, 0);
    });
    return steps.slice(1).reduce((sum, v, k) => sum + [0, 1, 2].reduce((own, i) => own + (v[i] - steps[k][i]) ** 2, 0), 0);
  };
  return bends(turns.map((q, k) => (from + k === f ? turn : q))) / bends(turns);
}

/** Contacts of a point that have come to touch, as one. */
function joined(contacts: readonly Contact[]): Contact[] {
  const out: Contact[] = [];
  for (const contact of contacts) {
    const at = out.findIndex((o) => o.point === contact.point && o.start <= contact.end + 1 && contact.start <= o.end + 1);
    if (at < 0) {
      out.push(contact);
      continue;
    }
    const [first, second] = out[at].start <= contact.start ? [out[at], contact] : [contact, out[at]];
    const doubtful = [first.doubtful?.[0] ?? 0, second.doubtful?.[1] ?? 0] as const;
    const { doubtful: _, ...rest } = first;
    out[at] = { ...rest, end: Math.max(first.end, second.end), ...((doubtful[0] > 0 || doubtful[1] > 0) && { doubtful }) };
  }
  return out;
}
