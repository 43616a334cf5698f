import { betweenAxes } from "../character/betweenAxes.ts";
import type { Character } from "../character/character.ts";
import { legLengthOf } from "../character/legLength.ts";
import { type PartRef, partOf } from "../character/parts.ts";
import { alignment, restDirections } from "../character/restDirections.ts";
import type { Role } from "../character/roles.ts";
import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { groundHeight } from "../ground/ground.ts";
import { conjugateQuatFlat, multiplyQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { median } from "../signal/robust.ts";
import { ancestry, restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import { atRate } from "../time/through.ts";
import { carriedClip, type Turning } from "./carriedClip.ts";
import { betweenJoints } from "./chains.ts";
import { contactsOnto } from "./contactsOnto.ts";
import { withFlatSoles } from "./flatSoles.ts";
import { onSameBody } from "./sameBody.ts";
import { twistsOf } from "./twists.ts";

/** A motion on another body. */
export interface Carried {
  readonly motion: Motion;
  /** joints of the body that move as the other's do; all where the bodies are one */
  readonly joints: ReadonlySet<number>;
  /** parts of the other body that move in its clip and have no partner here */
  readonly without: readonly PartRef[];
  /** are the two one body, so that nothing had to be changed? */
  readonly same: boolean;
}

const known = new WeakMap<Motion, { readonly like: Motion; readonly carried: Carried }>();

/**
 * A motion as the body of another motion does it, at that one's frame rate. On the same skeleton it keeps its bits. On another one every part that both know (by
 * role, else by the joint's name) is turned in the world as its partner is, its rest pose aligned: bones of limbs point the same way whatever pose either rests in.
 * The hips' way is scaled by leg length, contacts of points that both have come along, and find their places anew.
 */
export function carriedOnto(source: Motion, like: Motion): Carried {
  const before = known.get(source);
  if (
    before &&
    before.like.character === like.character &&
    before.like.clip.fps === like.clip.fps &&
    JSON.stringify(before.like.ground) === JSON.stringify(like.ground)
  )
    return before.carried;
  const motion = atRate(source, like.clip.fps);
  const carried = onSameBody(motion, like) ?? onOtherBody(motion, like);
  known.set(source, { like, carried });
  return carried;
}

/** Trunk, feet and collars rest upright and flat on any body: only where they rest quite otherwise is that made up for, radians. */
const RESTS_OTHERWISE = (50 * Math.PI) / 180;
const UPRIGHT = /^(hips|spine|chest|neck|head|.*(Collar|Foot|Toe)$)/;

/** Each joint's partner on the other body; −1 where it has none. */
export function castPartners({ skeleton, body }: Character, other: Character): Int16Array {
  const roleOf = new Map((Object.entries(body.roles) as [Role, number][]).map(([role, joint]) => [joint, role]));
  const taken = new Set(Object.values(other.body.roles));
  return Int16Array.from(skeleton.names, (name, joint) => {
    const role = roleOf.get(joint);
    if (role) return other.body.roles[role] ?? -1;
    const same = other.skeleton.names.indexOf(name);
    return same >= 0 && !taken.has(same) ? same : -1;
  });
}

/**
 * For a joint and its partner the rotation A with W = W_partner · A, W the joint's rotation in the world: A = R_partner⁻¹ · C · T⁻¹ · R, with R the rotations at rest (as a person says that it rests, where one does), C
 * from this body's axes to the other's, and T the turn from the way the bone rests there to the way it rests here. `upright` joints are of the trunk, whatever their role.
 */
export function castChange(target: Character, source: Character): (joint: number, partner: number, upright?: boolean) => Float64Array {
  const [here, there] = [restWorld(target.posed).rotations, restWorld(source.posed).rotations];
  const [ways, others] = [restDirections({ ...target, skeleton: target.posed }), restDirections({ ...source, skeleton: source.posed })];
  const c = betweenAxes(target.rig, source.rig);
  const roleOf = new Map((Object.entries(target.body.roles) as [Role, number][]).map(([role, joint]) => [joint, role]));
  return (j, p, upright = UPRIGHT.test(roleOf.get(j) ?? "")) => {
    const [way, other] = [ways.get(j), others.get(p)];
    const apart = way && other ? Math.acos(Math.max(-1, Math.min(1, way[0] * other[0] + way[1] * other[1] + way[2] * other[2]))) : 0;
    const leave = upright && apart < RESTS_OTHERWISE;
    const q = conjugateQuatFlat(new Float64Array(4), 0, alignment(leave ? undefined : other, way, target.rig), 0);
    multiplyQuatFlat(q, 0, c, 0, q, 0);
    multiplyQuatFlat(q, 0, conjugateQuatFlat(new Float64Array(4), 0, there, p * 4), 0, q, 0);
    multiplyQuatFlat(q, 0, q, 0, here, j * 4);
    return q as Float64Array;
  };
}

function onOtherBody(source: Motion, like: Motion): Carried {
  const { character: target } = like;
  const { skeleton, rig } = target;
  const partner = castPartners(target, source.character);
  const change = withFlatSoles(castChange(target, source.character), like, source);
  const turnings: (Turning | null)[] = Array.from(partner, (p, j) => (p < 0 ? null : { partner: p, change: change(j, p) }));
  // A partner of its own, by name, goes before a share.
  for (const twist of twistsOf(target)) {
    const end = turnings[twist.end];
    if (partner[twist.joint] < 0 && end && "partner" in end) turnings[twist.joint] = { twist, partner: partner[twist.end], change: end.change };
  }
  const between = betweenJoints(target, source.character);
  for (const [joint, { first, second, share }] of between)
    turnings[joint] = { first, second, share, changes: [change(joint, first, true), change(joint, second, true)] };
  const scale = legLengthOf(target) / legLengthOf(source.character);
  const contacts = contactsOnto(source, like, partner);
  const motion: Motion = {
    ...source,
    character: target,
    clip: onItsSoles(carriedClip(source, like, turnings, scale), contacts, like, source, scale),
    points: like.points,
    contacts,
    ground: like.ground,
    plants: [],
    settled: null,
    groundTravel: source.groundTravel && { x: source.groundTravel.x.map((v) => v * scale), z: source.groundTravel.z.map((v) => v * scale) },
  };
  const used = new Set([...partner, ...[...between.values()].flatMap(({ first, second }) => [first, second])]);
  const without = movingJoints(source).filter((j) => !used.has(j) && !throughTrunk(source.character.skeleton, source.character, j));
  return {
    motion,
    joints: new Set(
      [...ancestry(skeleton, rig.hips), ...skeleton.names.keys()].filter((j) => partner[j] >= 0 || between.has(j) || ancestry(skeleton, rig.hips).includes(j)),
    ),
    without: without.map((j) => partOf(source.character, j)),
    same: false,
  };
}

/**
 * The clip as much higher or lower as its soles are off where they should rest, in the middle: feet of another height hang on legs of another length. They should rest as high over the ground as the source's
 * do, times the scale: on it, or on steps that nobody has said are there.
 */
function onItsSoles(clip: Clip, contacts: readonly Contact[], { character, points, ground }: Motion, source: Motion, scale: number): Clip {
  const tracks = new PointTracks(character.skeleton, clip, points);
  const others = new PointTracks(source.character.skeleton, source.clip, source.points);
  const over = (from: PointTracks, on: Motion["ground"], { point: id, start, end }: Contact): number | null => {
    const point = from.point(id);
    const course = point?.bears ? from.course(id) : undefined;
    if (!point || !course) return null;
    const o = 3 * Math.round((start + end) / 2);
    return course[o + 1] - groundHeight(on, course[o], course[o + 2]) - point.clearance;
  };
  const heights = contacts.flatMap((c) => {
    if (c.on !== "ground") return [];
    const [here, there] = [over(tracks, ground, c), over(others, source.ground, c)];
    return here === null || there === null ? [] : [here - scale * there];
  });
  if (heights.length === 0) return clip;
  const move = { shift: [0, -median(heights), 0], turn: null };
  return moveBody(character.skeleton, clip, () => move);
}

/** Joints that turn at all in a motion. */
function movingJoints({ clip }: Motion): number[] {
  return clip.rotations.flatMap((track, joint) => (track.some((chunk) => chunk.some((v, i) => v !== track[0][i % 4])) ? [joint] : []));
}

/** Does a joint lie between two that are carried over, so that its turning comes along in the one below it? */
function throughTrunk(skeleton: Skeleton, { body }: Character, joint: number): boolean {
  const carried = Object.values(body.roles) as number[];
  return carried.some((j) => j !== joint && ancestry(skeleton, j).includes(joint));
}
