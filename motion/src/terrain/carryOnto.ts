import { jointLabels } from "../character/jointLabels.ts";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { moveBody, movePlace, type RigidMove } from "../clip/roots.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint } from "../contacts/segment.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import type { LivePlant, Motion } from "../motion.ts";
import { hipsDrop } from "../plants/hipsDrop.ts";
import { limbCourses } from "../plants/limbCourses.ts";
import { type LimbEnd, limbEnds } from "../plants/plants.ts";
import { PLANT_DEFAULTS } from "../plants/settings.ts";
import { writeLimb } from "../plants/solve.ts";
import { swingAside } from "./aside.ts";
import { bodyMoves, type Carrier } from "./bodyCourse.ts";
import { carriedCourse, groundRise, raiseInFlight } from "./course.ts";
import { troubleInWords, troubleOf } from "./outOfReach.ts";
import { carriedPoint, type Stand, standsOf } from "./stands.ts";

/** The furthest that hips come down so that every leg reaches its foothold, cm. */
const HIPS_MAY_DROP_CM = 60;
/** Legs that climb stay as bent as this, unless they came straighter: one that locks straight as it pushes off snaps when it lets go. */
const SOFT_KNEE_DEGREES = 160;
/** A part that lies on the ground carries as much as so many legs. */
const LYING_SHARE = 3;
/** A point within this of the surface rests on it, metres; a sole over a crease bridges it. */
const ON_SURFACE = 0.006;

/**
 * A motion taken from the ground that it stands on onto another. Each stand of a foot, a hoof or a hand goes rigidly onto the surface of its foothold,
 * in flight it passes smoothly from the one to the next and stays clear of edges; the body goes along with what carries it, and the hips come down
 * where a leg would not reach, so that no bone is stretched. Where the two grounds are alike nothing moves. `lean`: see `bodyMoves`;
 * `tell` is told what the legs cannot do.
 */
export function carryOnto(motion: Motion, to: Ground, lean: number, tell: (message: string) => void): Motion {
  const { character, clip, ground: from, points } = motion;
  const { skeleton, rig } = character;
  const { fps, frameCount: n } = clip;
  const tracks = new PointTracks(skeleton, clip, points);
  const carriedEnds = limbEnds(character, points).flatMap((end) => {
    const stands = standsOf(end, motion.contacts, tracks, from, to);
    return stands.length === 0 ? [] : [{ end, stands, targets: carriedCourse(end, tracks.joint(end.limb.end), stands, to, fps) }];
  });
  const legs = carriedEnds.filter(({ end }) => end.bears);
  const carriers: Carrier[] = legs.map(({ end, targets }) => {
    const own = tracks.joint(end.limb.end).positions;
    return { displaced: targets.positions.map((v, i) => v - own[i]), share: () => 1, fore: end.limb.kind === "arm" };
  });
  const hips = tracks.joint(rig.hips);
  for (const contact of motion.contacts) {
    const lies = contact.on === "ground" && points.some((p) => p.id === contact.point && p.limb < 0);
    if (lies) carriers.push(lyingOn(contact, tracks, from, to, n));
  }
  if (carriers.length === 0) carriers.push(floating(hips.positions, from, to));
  const foreLimb = rig.limbs.find((l) => l.kind === "arm");
  const foreEnd = tracks.joint(legs.some(({ end }) => end.limb.kind === "arm") && foreLimb ? foreLimb.upper : rig.chest);
  const moves = bodyMoves(character, hips, foreEnd, carriers, lean, fps);
  const moveAt = (f: number) => moves[f];
  const moved = moveBody(skeleton, clip, moveAt);
  const reaching = carriedEnds.filter(({ end, targets }) => end.bears || differs(targets.positions, tracks.joint(end.limb.end).positions));
  const lowered = lowerHips(motion, moved, reaching);
  const draft = ClipDraft.of(lowered);
  const none = new Float64Array(n);
  const courses = limbCourses(
    skeleton,
    lowered,
    reaching.map(({ end }) => end),
  );
  for (const [i, { end, targets, stands }] of reaching.entries()) {
    const across = reaching.findIndex((other) => other.end.limb.kind === end.limb.kind && other.end.limb.side !== end.limb.side);
    if (!end.bears || across < 0 || !swingAside(targets, courses[i], courses[across].hip, fps)) continue;
    raiseInFlight(end, targets, tracks.joint(end.limb.end), stands, to, fps);
  }
  const labels = jointLabels(character.body, skeleton.names);
  for (const [i, { end, targets }] of reaching.entries()) {
    const trouble = end.bears ? troubleOf(courses[i], targets) : null;
    if (trouble) tell(troubleInWords(labels[end.limb.end], trouble));
  }
  for (const [i, { end, targets }] of reaching.entries()) writeLimb(skeleton, draft, end.limb, courses[i], targets, none, null);
  const result = draft.done();
  const stands = carriedEnds.flatMap((e) => e.stands);
  return {
    ...motion,
    clip: result,
    ground: to,
    contacts: motion.contacts.map((contact) => carriedContact(contact, stands, tracks, to, moveAt)),
    settled: motion.settled === clip ? result : null,
  };
}

/** The body with its hips let down as far as its legs need it to reach. */
function lowerHips(motion: Motion, moved: Clip, legs: readonly { readonly end: LimbEnd; readonly targets: ReturnType<typeof carriedCourse> }[]): Clip {
  const { skeleton } = motion.character;
  const bearing = legs.filter(({ end }) => end.bears);
  if (bearing.length === 0) return moved;
  const reach: LivePlant = {
    settings: { ...PLANT_DEFAULTS, hipsMayDropCm: HIPS_MAY_DROP_CM, softKneeDegrees: SOFT_KNEE_DEGREES },
    weights: new Float64Array(moved.frameCount).fill(1),
    trembles: 0,
  };
  const drop = hipsDrop(
    moved,
    limbCourses(
      skeleton,
      moved,
      bearing.map(({ end }) => end),
    ),
    bearing.map(({ targets }) => targets),
    [reach],
    reach.weights,
    bearing.map(() => null),
  );
  return moveBody(skeleton, moved, (f) => (drop[f] === 0 ? null : { shift: [0, -drop[f], 0], turn: null }));
}

function lyingOn(contact: Contact, tracks: PointTracks, from: Ground, to: Ground, n: number): Carrier {
  const course = tracks.course(contact.point) as Float64Array;
  const [x, , z] = middlePoint(course, contact.start, contact.end);
  const displaced = new Float64Array(n * 3);
  for (let f = contact.start; f <= contact.end; f++) displaced[f * 3 + 1] = groundRise(from, to, x, z);
  return { displaced, share: (f) => (f >= contact.start && f <= contact.end ? LYING_SHARE : 0), fore: false };
}

function floating(hips: Float64Array, from: Ground, to: Ground): Carrier {
  const displaced = hips.map((_, i) => (i % 3 === 1 ? groundRise(from, to, hips[i - 1], hips[i + 1]) : 0));
  return { displaced, share: () => 1, fore: false };
}

function differs(a: Float64Array, b: Float64Array): boolean {
  return a.some((v, i) => Math.abs(v - b[i]) > 1e-9);
}

/** A contact where the carried body has it: with its stand, or with the body as a whole. What has no surface under it any more keeps its own height. */
function carriedContact(contact: Contact, stands: readonly Stand[], tracks: PointTracks, to: Ground, moveAt: (frame: number) => RigidMove | null): Contact {
  if (typeof contact.on === "object") return contact;
  const stand = stands.find((s) => s.contacts.includes(contact));
  const { point } = contact.anchor;
  if (!stand) {
    if (contact.on === "place" || !point) return contact;
    return { ...contact, anchor: { ...contact.anchor, point: movePlace(point, moveAt(Math.round((contact.start + contact.end) / 2))) } };
  }
  const course = tracks.course(contact.point);
  const rest = carriedPoint(stand.carry, point ?? (course ? middlePoint(course, contact.start, contact.end) : [0, 0, 0]));
  const over = rest[1] - (tracks.point(contact.point)?.clearance ?? 0) - groundHeight(to, rest[0], rest[2]);
  const bears = tracks.point(contact.point)?.bears === true;
  return {
    ...contact,
    on: !bears ? contact.on : Math.abs(over) <= ON_SURFACE ? "ground" : "place",
    anchor: { ...contact.anchor, point: point ? rest : null },
  };
}
