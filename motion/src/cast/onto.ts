import { betweenAxes } from "../character/betweenAxes.ts";
import type { Character } from "../character/character.ts";
import { legLengthOf } from "../character/legLength.ts";
import { type PartRef, partOf } from "../character/parts.ts";
import { alignment, restDirections } from "../character/restDirections.ts";
import type { Role } from "../character/roles.ts";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { groundHeight, planeHeight } from "../ground/ground.ts";
import { positionSlots } from "../kinematics/forward.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat, slerpQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { median } from "../signal/robust.ts";
import { ancestry, restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import { atRate } from "../time/through.ts";
import { betweenJoints } from "./chains.ts";
import { contactsOnto } from "./contactsOnto.ts";
import { withFlatSoles } from "./flatSoles.ts";
import { onSameBody } from "./sameBody.ts";
import { twistMutable, twistsOf } from "./twists.ts";

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
  const changes = Array.from(partner, (p, j) => (p < 0 ? null : change(j, p)));
  const between = new Map(
    [...betweenJoints(target, source.character)].map(([joint, { first, second, share }]) => [
      joint,
      { first, second, share, changes: [change(joint, first, true), change(joint, second, true)] },
    ]),
  );
  // A partner of its own, by name, goes before a share.
  const twists = new Map(twistsOf(target).flatMap((t) => (partner[t.joint] < 0 ? [[t.joint, t] as const] : [])));
  const end = new Float64Array(4);
  const scale = legLengthOf(target) / legLengthOf(source.character);
  const { clip } = source;
  const from = new PoseFrame(source.character.skeleton, clip);
  const to = new PoseFrame(skeleton, like.clip);
  to.load(like.clip, 0);
  for (const joint of skeleton.names.keys()) to.setLocal(joint, skeleton.restRotations.subarray(joint * 4, joint * 4 + 4));
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, skeleton.names.length, like.clip.positionJoints);
  const world = new Float64Array((skeleton.names.length + 1) * 4);
  const q = new Float64Array(4);
  // What a joint hangs on: nothing turned, behind them all, for a root.
  const above = Int32Array.from(skeleton.parents, (parent) => (parent < 0 ? skeleton.names.length : parent) * 4);
  world.set([0, 0, 0, 1], skeleton.names.length * 4);
  const lead = source.character.rig.hips * 3;
  // Joints that neither turn nor carry one that does stay as they rest.
  const moves = new Set(skeleton.names.flatMap((_, j) => (changes[j] || between.has(j) || twists.has(j) ? ancestry(skeleton, j) : [])));
  for (const joint of skeleton.names.keys()) if (!moves.has(joint)) draft.holdRotation(joint, skeleton.restRotations.subarray(joint * 4, joint * 4 + 4));
  const moving = [...moves].sort((a, b) => a - b);
  const toHips = new HipsCourse(skeleton, like.clip, rig);
  for (let f = 0; f < clip.frameCount; f++) {
    from.load(clip, f);
    for (const joint of moving) {
      const change = changes[joint];
      const pair = between.get(joint);
      if (change || pair) {
        if (pair) {
          multiplyQuatFlat(world, joint * 4, from.worldRotations, pair.first * 4, pair.changes[0], 0);
          multiplyQuatFlat(q, 0, from.worldRotations, pair.second * 4, pair.changes[1], 0);
          slerpQuatFlat(world, joint * 4, world, joint * 4, q, 0, pair.share);
        } else if (change) multiplyQuatFlat(world, joint * 4, from.worldRotations, partner[joint] * 4, change, 0);
        multiplyQuatFlat(q, 0, conjugateQuatFlat(q, 0, world, above[joint]), 0, world, joint * 4);
        normalizeQuatFlat(q, 0);
        to.putLocal(joint, q);
      } else {
        const twist = twists.get(joint);
        const ending = twist && changes[twist.end];
        if (twist && ending) {
          multiplyQuatFlat(end, 0, from.worldRotations, partner[twist.end] * 4, ending, 0);
          twistMutable(world, joint * 4, twist, world, twist.bone * 4, end, 0);
          multiplyQuatFlat(q, 0, conjugateQuatFlat(q, 0, world, above[joint]), 0, world, joint * 4);
          normalizeQuatFlat(q, 0);
          to.putLocal(joint, q);
        } else multiplyQuatFlat(world, joint * 4, world, above[joint], to.rotations, joint * 4);
      }
    }
    const places = from.worldPositions;
    const [x, y, z] = [places[lead], places[lead + 1], places[lead + 2]];
    const height = scale * (y - planeHeight(source.ground, x, z)) + planeHeight(like.ground, x * scale, z * scale);
    toHips.put(to.positions, world, x * scale, height, z * scale);
    to.storeAll(draft, f, moving);
  }
  const contacts = contactsOnto(source, like, partner);
  const motion: Motion = {
    ...source,
    character: target,
    clip: onItsSoles({ ...draft.done(), name: clip.name }, contacts, like, source, scale),
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

/** Where the hips of a body are by the world rotations of what leads to them, and how its mover takes them elsewhere. */
class HipsCourse {
  private readonly chain: readonly number[];
  private readonly slots: Int16Array;
  private readonly place = new Float64Array(3);
  private readonly v = new Float64Array(3);
  private readonly q = new Float64Array(4);

  constructor(
    private readonly skeleton: Skeleton,
    clip: Clip,
    private readonly rig: Character["rig"],
  ) {
    this.chain = ancestry(skeleton, rig.hips).sort((a, b) => a - b);
    this.slots = positionSlots(clip);
  }

  /** Moves the mover's sample, of `positions` [slot][3], so that the hips are at a place: `world` are rotations [joint][4]. */
  put(positions: Float64Array, world: Float64Array, x: number, y: number, z: number): void {
    const { place, v, q, slots } = this;
    const { parents, offsets } = this.skeleton;
    place.fill(0);
    for (const joint of this.chain) {
      const [from, o] = slots[joint] >= 0 ? [positions, slots[joint] * 3] : [offsets, joint * 3];
      if (parents[joint] < 0) for (let c = 0; c < 3; c++) place[c] = from[o + c];
      else {
        rotateVecFlat(v, 0, world, parents[joint] * 4, from, o);
        for (let c = 0; c < 3; c++) place[c] += v[c];
      }
    }
    const { mover } = this.rig;
    v[0] = x - place[0];
    v[1] = y - place[1];
    v[2] = z - place[2];
    if (parents[mover] >= 0) rotateVecFlat(v, 0, conjugateQuatFlat(q, 0, world, parents[mover] * 4), 0, v, 0);
    for (let c = 0; c < 3; c++) positions[slots[mover] * 3 + c] += v[c];
  }
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
