import type { Character } from "../character/character.ts";
import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { type JointTrack, jointTracks } from "../contacts/tracks.ts";
import { positionSlots } from "../kinematics/forward.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { headingOf } from "../pose/spaces.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import { mirrorPairs, reflect } from "./pairs.ts";

/** An upright mirror in the world: its unit normal and a place on it, x and z, metres. */
export interface Mirror {
  readonly normal: readonly [number, number, number];
  readonly x: number;
  readonly z: number;
}

/** Where the mirrored body faces and stands on its first frame: as the source's does there, or as seen across the world's x = 0. */
export interface MirrorPlace {
  readonly heading: "keep" | "mirror";
  readonly place: "keep" | "mirror";
}

/** What becomes of keys on joints above the hips: they go along as their own axes see them, or are dropped and the hips carry the body. */
export type StrayRootKeys = "turn" | "drop";

/**
 * The mirror that a clip's first frame and a choice of place ask for, and the shift along the ground (x, z) that follows it. To keep the heading the mirror
 * stands along it; to keep the place it goes through the hips.
 */
export function mirrorFor(
  character: Character,
  clip: Clip,
  { heading, place }: MirrorPlace,
): { readonly mirror: Mirror; readonly shift: readonly [number, number] } {
  const pose = new PoseFrame(character.skeleton, clip);
  pose.load(clip, 0);
  const { hips } = character.rig;
  const angle = heading === "keep" ? headingOf(pose, character.rig) : 0;
  const normal: Mirror["normal"] = [Math.cos(angle), 0, -Math.sin(angle)];
  const [x, z] = [pose.worldPositions[hips * 3], pose.worldPositions[hips * 3 + 2]];
  if (place === "keep") return { mirror: { normal, x, z }, shift: [0, 0] };
  // Through the hips and then to where they are seen across x = 0.
  return { mirror: { normal, x, z }, shift: [-2 * x, 0] };
}

/** dst = S·q·S of a rotation, S the mirror with unit normal a: its axis reflected, its turn the other way round. */
function reflectTurn(dst: Float64Array, d: number, q: ArrayLike<number>, o: number, a: ArrayLike<number>): void {
  const w = q[o + 3];
  reflect(dst, d, q, o, a);
  for (let i = 0; i < 3; i++) dst[d + i] = -dst[d + i];
  dst[d + 3] = w;
}

/**
 * A clip as an upright mirror shows it, on the same body: joints of the two sides change over, and every bone points where the bone of its partner
 * points in the mirror. With T the turning of a joint from its rest in the world (W = T·R), S_w the mirror, S_b the one across the body's left at rest, and A the turn
 * of `mirrorPairs`: W' = S_w·T(partner)·S_b·A·R. Against its parent a joint then turns by R⁻¹A⁻¹ of the parent · S_b(R of the partner's parent · its local turn · R⁻¹ of
 * the partner)S_b · A·R: constants on both sides of the partner's own turn, reflected. Twice is the clip again.
 * Joints above the hips are seen in mirrors of their own that stand in their first frame, so that one that reads zero goes on reading zero.
 */
export function mirroredClip(character: Character, clip: Clip, mirror: Mirror, shift: readonly [number, number] = [0, 0], stray: StrayRootKeys = "turn"): Clip {
  const { skeleton, rig } = character;
  const { partner, turns } = mirrorPairs(character);
  const { rotations: rest } = restWorld(skeleton);
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, clip.jointCount, clip.positionJoints);
  const slots = positionSlots(clip);
  const led = ledJoints(character);
  const left = rig.left;
  const inverse = (list: Float64Array, joint: number) => conjugateQuatFlat(new Float64Array(4), 0, list, joint * 4) as Float64Array;
  const product = (...list: ArrayLike<number>[]) => {
    const q = new Float64Array([0, 0, 0, 1]);
    for (const next of list) multiplyQuatFlat(q, 0, q, 0, next as Float64Array, 0);
    return q;
  };
  const seen = (q: Float64Array) => {
    const out = new Float64Array(4);
    reflectTurn(out, 0, q, 0, left);
    return out;
  };
  const at = (list: Float64Array, joint: number) => list.slice(joint * 4, joint * 4 + 4);
  for (let j = 0; j < clip.jointCount; j++) {
    if (led.includes(j)) continue;
    const p = partner[j];
    const [parent, across] = [skeleton.parents[j], skeleton.parents[p]];
    // What the joint hangs on, and what its partner does.
    const before = product(inverse(rest, parent), inverse(turns, parent), seen(at(rest, across)));
    const behind = product(seen(inverse(rest, p)), at(turns, j), at(rest, j));
    mirrorTrack(draft, clip, j, p, left, before, behind);
    if (slots[j] >= 0) mirrorPlaces(draft, clip, skeleton, slots, j, p, left, product(inverse(rest, parent), inverse(turns, parent)), at(rest, across));
  }
  mirrorLead(character, clip, draft, slots, led, mirror, shift, stray);
  return draft.done();
}

/** Joints whose place and turn in the world are reckoned themselves: those above the hips, the hips, and any other root. */
function ledJoints({ skeleton, rig }: Character): number[] {
  const above: number[] = [];
  for (let j = skeleton.parents[rig.hips]; j >= 0; j = skeleton.parents[j]) above.unshift(j);
  const roots = [...skeleton.parents.keys()].filter((j) => skeleton.parents[j] < 0 && j !== rig.hips && !above.includes(j));
  return [...above, rig.hips, ...roots];
}

/** Writes before · (the partner's turn, reflected) · behind into a joint's track. */
function mirrorTrack(draft: ClipDraft, clip: Clip, joint: number, partner: number, a: Float64Array, before: Float64Array, behind: Float64Array): void {
  const q = new Float64Array(4);
  const plain = Math.abs(Math.abs(before[3]) - 1) < PLAIN && Math.abs(Math.abs(behind[3]) - 1) < PLAIN;
  let f = 0;
  for (const chunk of clip.rotations[partner]) {
    const out = draft.rotationChunk(joint, f);
    for (let o = 0; o < chunk.length; o += 4, f++) {
      const along = 2 * (chunk[o] * a[0] + chunk[o + 1] * a[1] + chunk[o + 2] * a[2]);
      q[0] = along * a[0] - chunk[o];
      q[1] = along * a[1] - chunk[o + 1];
      q[2] = along * a[2] - chunk[o + 2];
      q[3] = chunk[o + 3];
      if (!plain) {
        multiplyQuatFlat(q, 0, before, 0, q, 0);
        multiplyQuatFlat(q, 0, q, 0, behind, 0);
      }
      normalizeQuatFlat(q, 0);
      out[o] = q[0];
      out[o + 1] = q[1];
      out[o + 2] = q[2];
      out[o + 3] = q[3];
    }
  }
}

/** Turns nearer to none than this are none. */
const PLAIN = 1e-15;

/** Places that a joint below the hips carries of its own: what they differ from its bone by, reflected. `into` leads from the mirrored rest into the joint's parent. */
function mirrorPlaces(
  draft: ClipDraft,
  clip: Clip,
  skeleton: Character["skeleton"],
  slots: Int16Array,
  joint: number,
  partner: number,
  left: Float64Array,
  into: Float64Array,
  restAcross: Float64Array,
): void {
  const v = new Float64Array(3);
  for (let f = 0; f < clip.frameCount; f++) {
    if (slots[partner] >= 0) {
      readPosition(clip, slots[partner], f, v, 0);
      for (let i = 0; i < 3; i++) v[i] -= skeleton.offsets[partner * 3 + i];
      rotateVecFlat(v, 0, restAcross, 0, v, 0);
      reflect(v, 0, v, 0, left);
      rotateVecFlat(v, 0, into, 0, v, 0);
    } else v.fill(0);
    for (let i = 0; i < 3; i++) v[i] += skeleton.offsets[joint * 3 + i];
    draft.setPosition(slots[joint], f, v);
  }
}

/** The joints that carry the body: hips and other roots as the world's mirror shows them, those above the hips as their own. */
function mirrorLead(
  character: Character,
  clip: Clip,
  draft: ClipDraft,
  slots: Int16Array,
  led: readonly number[],
  mirror: Mirror,
  shift: readonly [number, number],
  stray: StrayRootKeys,
): void {
  const { skeleton, rig } = character;
  const { partner, turns: askew } = mirrorPairs(character);
  const { rotations: rest } = restWorld(skeleton);
  const { normal } = mirror;
  const b = rig.left;
  const above = led.slice(0, led.indexOf(rig.hips));
  // S_w·S_b: the turn from the one normal to the other, twice.
  const between = new Float64Array([
    b[1] * normal[2] - b[2] * normal[1],
    b[2] * normal[0] - b[0] * normal[2],
    b[0] * normal[1] - b[1] * normal[0],
    b[0] * normal[0] + b[1] * normal[1] + b[2] * normal[2],
  ]);
  const tracks = new Map(jointTracks(skeleton, clip, [...led]).map((track, i) => [led[i], track] as const));
  const n = clip.jointCount;
  const [W, P, local] = [new Float64Array(n * 4), new Float64Array(n * 3), new Float64Array(n * 4)];
  const [q, r, own, first] = [new Float64Array(4), new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  const [v, start, place] = [new Float64Array(3), new Float64Array(3), new Float64Array(3)];
  const image = (dst: Float64Array, d: number, src: ArrayLike<number>, o: number) => {
    v[0] = src[o] - mirror.x;
    v[1] = src[o + 1];
    v[2] = src[o + 2] - mirror.z;
    reflect(v, 0, v, 0, normal);
    dst[d] = v[0] + mirror.x + shift[0];
    dst[d + 1] = v[1];
    dst[d + 2] = v[2] + mirror.z + shift[1];
  };
  const restInverse = (joint: number) => conjugateQuatFlat(new Float64Array(4), 0, rest, joint * 4) as Float64Array;
  const inverses = new Map([...led, ...led.map((j) => partner[j])].map((j) => [j, restInverse(j)] as const));
  /** The body's left at rest, in a joint's own frame. */
  const ownLeft = new Map(above.map((j) => [j, rotateVecFlat(new Float64Array(3), 0, restInverse(j), 0, b, 0) as Float64Array] as const));
  const samples = new Float64Array(clip.positionJoints.length * 3);
  for (let f = 0; f < clip.frameCount; f++) {
    for (const j of led) {
      const parent = skeleton.parents[j];
      const slot = slots[j];
      const left = ownLeft.get(j);
      if (left) {
        if (stray === "drop") for (let i = 0; i < 4; i++) local[j * 4 + i] = skeleton.restRotations[j * 4 + i];
        else {
          readRotation(clip, j, 0, first, 0);
          readRotation(clip, j, f, own, 0);
          conjugateQuatFlat(q, 0, first, 0);
          multiplyQuatFlat(q, 0, q, 0, own, 0);
          reflectTurn(q, 0, q, 0, left);
          multiplyQuatFlat(local, j * 4, first, 0, q, 0);
        }
        if (slot >= 0) {
          if (stray === "drop") for (let i = 0; i < 3; i++) place[i] = skeleton.offsets[j * 3 + i];
          else {
            // Its way from the first frame, seen across its own left there.
            readPosition(clip, slot, 0, start, 0);
            readPosition(clip, slot, f, place, 0);
            readRotation(clip, j, 0, first, 0);
            for (let i = 0; i < 3; i++) place[i] -= start[i];
            conjugateQuatFlat(q, 0, first, 0);
            rotateVecFlat(place, 0, q, 0, place, 0);
            reflect(place, 0, place, 0, left);
            rotateVecFlat(place, 0, first, 0, place, 0);
            for (let i = 0; i < 3; i++) place[i] += start[i];
          }
        }
      } else {
        const p = partner[j];
        const track = tracks.get(p) ?? tracks.get(j);
        if (!track) continue;
        for (let i = 0; i < 4; i++) q[i] = track.rotations[f * 4 + i];
        normalizeQuatFlat(q, 0);
        multiplyQuatFlat(q, 0, q, 0, inverses.get(p) as Float64Array, 0);
        reflectTurn(q, 0, q, 0, normal);
        multiplyQuatFlat(q, 0, q, 0, between, 0);
        multiplyQuatFlat(q, 0, q, 0, askew, j * 4);
        multiplyQuatFlat(q, 0, q, 0, rest, j * 4);
        image(place, 0, track.positions, f * 3);
        if (parent < 0) local.set(q, j * 4);
        else {
          conjugateQuatFlat(r, 0, W, parent * 4);
          multiplyQuatFlat(local, j * 4, r, 0, q, 0);
          for (let i = 0; i < 3; i++) place[i] -= P[parent * 3 + i];
          rotateVecFlat(place, 0, r, 0, place, 0);
        }
      }
      normalizeQuatFlat(local, j * 4);
      if (parent < 0) W.set(local.subarray(j * 4, j * 4 + 4), j * 4);
      else multiplyQuatFlat(W, j * 4, W, parent * 4, local, j * 4);
      if (slot < 0) for (let i = 0; i < 3; i++) place[i] = skeleton.offsets[j * 3 + i];
      else samples.set(place, slot * 3);
      if (parent < 0) P.set(place, j * 3);
      else {
        rotateVecFlat(v, 0, W, parent * 4, place, 0);
        for (let i = 0; i < 3; i++) P[j * 3 + i] = P[parent * 3 + i] + v[i];
      }
      draft.setRotation(j, f, local, j * 4);
    }
    // Hips that carry no places of their own are brought where they belong by the joint above them that does.
    const mover = slots[rig.hips] >= 0 ? -1 : slots[rig.mover];
    if (mover >= 0) {
      image(r, 0, (tracks.get(rig.hips) as JointTrack).positions, f * 3);
      for (let i = 0; i < 3; i++) r[i] -= P[rig.hips * 3 + i];
      const parent = skeleton.parents[rig.mover];
      if (parent >= 0) {
        conjugateQuatFlat(q, 0, W, parent * 4);
        rotateVecFlat(r, 0, q, 0, r, 0);
      }
      for (let i = 0; i < 3; i++) samples[mover * 3 + i] += r[i];
    }
    for (const j of led) if (slots[j] >= 0) draft.setPosition(slots[j], f, samples, slots[j] * 3);
  }
}
