import type { Character } from "../character/character.ts";
import { CHUNK_FRAMES, type Clip, ClipDraft, cropClip, readPosition } from "../clip/clip.ts";
import { planeHeight } from "../ground/ground.ts";
import { clipWorld, positionSlots, type WorldClip } from "../kinematics/forward.ts";
import { conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat, slerpQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { ancestry, type Skeleton } from "../skeleton/skeleton.ts";
import { type Twist, twistMutable } from "./twists.ts";

/** How a joint gets its rotation in the world: with A of W = W_partner · A of its partner; between two of them; or by a share of a bone's twist. */
export type Turning =
  | { readonly partner: number; readonly change: Float64Array }
  | { readonly first: number; readonly second: number; readonly share: number; readonly changes: readonly [Float64Array, Float64Array] }
  | { readonly twist: Twist; readonly partner: number; readonly change: Float64Array };

/**
 * The source's clip as the body of `like` does it: joints turned as `turnings` [joint] says (null: as they rest), the hips' way over the ground times `scale`. Chunk by chunk, and in it joint by joint.
 */
export function carriedClip(source: Motion, like: Motion, turnings: readonly (Turning | null)[], scale: number): Clip {
  const { skeleton, rig } = like.character;
  const { clip } = source;
  const { parents, restRotations } = skeleton;
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, skeleton.names.length, like.clip.positionJoints);
  // Joints that neither turn nor carry one that does stay as they rest.
  const moves = new Set(turnings.flatMap((turning, j) => (turning ? ancestry(skeleton, j) : [])));
  for (const j of skeleton.names.keys()) if (!turnings[j]) draft.holdRotation(j, restRotations.subarray(j * 4, j * 4 + 4));
  const moving = [...moves].sort((a, b) => a - b);
  const worlds = skeleton.names.map((_, j) => new Float64Array(moves.has(j) ? CHUNK_FRAMES * 4 : 0));
  const hips = new HipsCourse(skeleton, like.clip, rig);
  for (let first = 0; first < clip.frameCount; first += CHUNK_FRAMES) {
    const frames = Math.min(CHUNK_FRAMES, clip.frameCount - first);
    const from = clipWorld(source.character.skeleton, cropClip(clip, first, first + frames - 1));
    for (const j of moving) {
      const above = parents[j] < 0 ? null : worlds[parents[j]];
      const turning = turnings[j];
      if (!turning) {
        restOn(worlds[j], above, restRotations, j * 4, frames);
        continue;
      }
      turn(worlds[j], worlds, turning, from);
      localOf(draft.rotationChunk(j, first), worlds[j], above, frames);
    }
    for (let i = 0, lead = source.character.rig.hips * 3; i < frames; i++, lead += from.jointCount * 3) {
      const [x, y, z] = [from.positions[lead], from.positions[lead + 1], from.positions[lead + 2]];
      const height = scale * (y - planeHeight(source.ground, x, z)) + planeHeight(like.ground, x * scale, z * scale);
      hips.put(draft, first + i, worlds, i, [x * scale, height, z * scale]);
    }
  }
  return draft.done();
}

const _a = /*@__PURE__*/ new Float64Array(4);

/** World rotations of a joint over the frames of a chunk [frame][4]. */
function turn(out: Float64Array, worlds: readonly Float64Array[], turning: Turning, { rotations, jointCount, frameCount }: WorldClip): void {
  for (let i = 0, o = 0, there = 0; i < frameCount; i++, o += 4, there += jointCount) {
    if ("twist" in turning) {
      multiplyQuatFlat(_a, 0, rotations, (there + turning.partner) * 4, turning.change, 0);
      twistMutable(out, o, turning.twist, worlds[turning.twist.bone], o, _a, 0);
    } else if ("partner" in turning) multiplyQuatFlat(out, o, rotations, (there + turning.partner) * 4, turning.change, 0);
    else {
      multiplyQuatFlat(out, o, rotations, (there + turning.first) * 4, turning.changes[0], 0);
      multiplyQuatFlat(_a, 0, rotations, (there + turning.second) * 4, turning.changes[1], 0);
      slerpQuatFlat(out, o, out, o, _a, 0, turning.share);
    }
  }
}

/** World rotations of a joint that stays as it rests on what it hangs on. */
function restOn(out: Float64Array, above: Float64Array | null, rest: Float64Array, r: number, frames: number): void {
  for (let o = 0; o < frames * 4; o += 4) {
    if (above) multiplyQuatFlat(out, o, above, o, rest, r);
    else for (let c = 0; c < 4; c++) out[o + c] = rest[r + c];
  }
}

/** Local rotations [frame][4] of world ones under those of what the joint hangs on. */
function localOf(out: Float32Array, world: Float64Array, above: Float64Array | null, frames: number): void {
  for (let o = 0; o < frames * 4; o += 4) {
    if (above) multiplyQuatFlat(_a, 0, conjugateQuatFlat(_a, 0, above, o), 0, world, o);
    else for (let c = 0; c < 4; c++) _a[c] = world[o + c];
    normalizeQuatFlat(_a, 0);
    for (let c = 0; c < 4; c++) out[o + c] = _a[c];
  }
}

/** Where the hips of a body are by the world rotations of what leads to them, and how its mover takes them elsewhere. */
class HipsCourse {
  private readonly chain: readonly number[];
  private readonly slots: Int16Array;
  /** [slot][3] */
  private readonly positions: Float64Array;
  private readonly place = new Float64Array(3);
  private readonly v = new Float64Array(3);
  private readonly q = new Float64Array(4);

  /** `clip` has the position samples that a body without motion has. */
  constructor(
    private readonly skeleton: Skeleton,
    clip: Clip,
    private readonly rig: Character["rig"],
  ) {
    this.chain = ancestry(skeleton, rig.hips).sort((a, b) => a - b);
    this.slots = positionSlots(clip);
    this.positions = new Float64Array(clip.positionJoints.length * 3);
    for (const slot of clip.positionJoints.keys()) readPosition(clip, slot, 0, this.positions, slot * 3);
  }

  /** Writes every position sample of a frame, the mover's so that the hips are at a place: `worlds` are rotations [joint][frame of the chunk][4]. */
  put(draft: ClipDraft, frame: number, worlds: readonly Float64Array[], i: number, to: readonly number[]): void {
    const { place, positions, v, q, slots } = this;
    const { parents, offsets } = this.skeleton;
    place.fill(0);
    for (const joint of this.chain) {
      const [from, o] = slots[joint] >= 0 ? [positions, slots[joint] * 3] : [offsets, joint * 3];
      if (parents[joint] < 0) for (let c = 0; c < 3; c++) place[c] = from[o + c];
      else {
        rotateVecFlat(v, 0, worlds[parents[joint]], i * 4, from, o);
        for (let c = 0; c < 3; c++) place[c] += v[c];
      }
    }
    const { mover } = this.rig;
    for (let c = 0; c < 3; c++) v[c] = to[c] - place[c];
    if (parents[mover] >= 0) rotateVecFlat(v, 0, conjugateQuatFlat(q, 0, worlds[parents[mover]], i * 4), 0, v, 0);
    for (let c = 0; c < 3; c++) positions[slots[mover] * 3 + c] += v[c];
    for (let slot = 0; slot * 3 < positions.length; slot++) draft.setPosition(slot, frame, positions, slot * 3);
  }
}
