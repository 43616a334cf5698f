import type { Character } from "../character/character.ts";
import { type Clip, ClipDraft, readPose } from "../clip/clip.ts";
import { poseWorldFlat, positionSlots } from "../kinematics/forward.ts";
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

const worldOf = (character: Character, clip: Clip) => {
  const { skeleton } = character;
  const rotations = new Float64Array(clip.jointCount * 4);
  const positions = new Float64Array(clip.positionJoints.length * 3);
  const places = new Float64Array(clip.jointCount * 3);
  const turns = new Float64Array(clip.jointCount * 4);
  const slots = positionSlots(clip);
  return {
    rotations,
    positions,
    places,
    turns,
    slots,
    load(frame: number) {
      readPose(clip, frame, rotations, positions);
      for (let j = 0; j < clip.jointCount; j++) normalizeQuatFlat(rotations, j * 4);
      poseWorldFlat(skeleton, slots, rotations, 0, positions, 0, places, 0, turns, 0);
    },
  };
};

/**
 * The mirror that a clip's first frame and a choice of place ask for, and the shift along the ground (x, z) that follows it. To keep the heading the mirror
 * stands along it; to keep the place it goes through the hips.
 */
export function mirrorFor(
  character: Character,
  clip: Clip,
  { heading, place }: MirrorPlace,
): { readonly mirror: Mirror; readonly shift: readonly [number, number] } {
  const world = worldOf(character, clip);
  world.load(0);
  const { hips } = character.rig;
  const angle = heading === "keep" ? headingOf({ worldRotations: world.turns }, character.rig) : 0;
  const normal: Mirror["normal"] = [Math.cos(angle), 0, -Math.sin(angle)];
  const [x, z] = [world.places[hips * 3], world.places[hips * 3 + 2]];
  if (place === "keep") return { mirror: { normal, x, z }, shift: [0, 0] };
  // Through the hips and then to where they are seen across x = 0.
  return { mirror: { normal, x, z }, shift: [-2 * x, 0] };
}

/**
 * A clip as an upright mirror shows it, on the same body: joints of the two sides change over, and every bone points where the bone of its partner
 * points in the mirror. With T the turning of a joint from its rest in the world (W = T·R), S_w the mirror, S_b the one across the body's left at rest, and A the turn
 * of `mirrorPairs`: W' = S_w·T(partner)·S_b·A·R. Twice is the clip again.
 * Joints above the hips are seen in mirrors of their own that stand in their first frame, so that one that reads zero goes on reading zero.
 */
export function mirroredClip(character: Character, clip: Clip, mirror: Mirror, shift: readonly [number, number] = [0, 0], stray: StrayRootKeys = "turn"): Clip {
  const { skeleton, rig } = character;
  const { partner, turns: askew } = mirrorPairs(character);
  const n = clip.jointCount;
  const rest = restWorld(skeleton);
  const above: number[] = [];
  for (let j = skeleton.parents[rig.hips]; j >= 0; j = skeleton.parents[j]) above.unshift(j);
  const draft = ClipDraft.make(clip.name, clip.fps, clip.frameCount, n, clip.positionJoints);
  const world = worldOf(character, clip);
  world.load(0);
  const first = { rotations: world.rotations.slice(), positions: world.positions.slice() };
  const { normal } = mirror;
  const b = rig.left;
  // S_w·S_b: the turn from the one normal to the other, twice.
  const between = new Float64Array([
    b[1] * normal[2] - b[2] * normal[1],
    b[2] * normal[0] - b[0] * normal[2],
    b[0] * normal[1] - b[1] * normal[0],
    b[0] * normal[0] + b[1] * normal[1] + b[2] * normal[2],
  ]);
  const W = new Float64Array(n * 4);
  const P = new Float64Array(n * 3);
  const q = new Float64Array(4);
  const r = new Float64Array(4);
  const v = new Float64Array(3);
  const local = new Float64Array(n * 4);
  const places = new Float64Array(clip.positionJoints.length * 3);
  const restInverse = new Float64Array(n * 4);
  for (let j = 0; j < n; j++) conjugateQuatFlat(restInverse, j * 4, rest.rotations, j * 4);
  /** dst = S·q·S of a rotation, S the mirror with unit normal a: its axis reflected, its turn the other way round. */
  const reflectTurn = (dst: Float64Array, d: number, o: Float64Array, at: number, a: ArrayLike<number>) => {
    const w = o[at + 3];
    reflect(dst, d, o, at, a);
    for (let i = 0; i < 3; i++) dst[d + i] = -dst[d + i];
    dst[d + 3] = w;
  };
  const image = (dst: Float64Array, d: number, src: Float64Array, o: number) => {
    v[0] = src[o] - mirror.x;
    v[1] = src[o + 1];
    v[2] = src[o + 2] - mirror.z;
    reflect(v, 0, v, 0, normal);
    dst[d] = v[0] + mirror.x + shift[0];
    dst[d + 1] = v[1];
    dst[d + 2] = v[2] + mirror.z + shift[1];
  };
  /** The body's left at rest, in a joint's own frame. */
  const ownLeft = above.map((j) => rotateVecFlat(new Float64Array(3), 0, restInverse, j * 4, b, 0) as Float64Array);

  for (let f = 0; f < clip.frameCount; f++) {
    world.load(f);
    for (let j = 0; j < n; j++) {
      const parent = skeleton.parents[j];
      const up = above.indexOf(j);
      const slot = world.slots[j];
      if (up >= 0) {
        if (stray === "drop") for (let i = 0; i < 4; i++) local[j * 4 + i] = skeleton.restRotations[j * 4 + i];
        else {
          conjugateQuatFlat(q, 0, first.rotations, j * 4);
          multiplyQuatFlat(q, 0, q, 0, world.rotations, j * 4);
          reflectTurn(q, 0, q, 0, ownLeft[up]);
          multiplyQuatFlat(local, j * 4, first.rotations, j * 4, q, 0);
        }
      } else {
        // T of the partner, seen in the mirror.
        const p = partner[j];
        multiplyQuatFlat(q, 0, world.turns, p * 4, restInverse, p * 4);
        reflectTurn(q, 0, q, 0, normal);
        multiplyQuatFlat(q, 0, q, 0, between, 0);
        multiplyQuatFlat(q, 0, q, 0, askew, j * 4);
        multiplyQuatFlat(W, j * 4, q, 0, rest.rotations, j * 4);
        if (parent < 0) local.set(W.subarray(j * 4, j * 4 + 4), j * 4);
        else {
          conjugateQuatFlat(q, 0, W, parent * 4);
          multiplyQuatFlat(local, j * 4, q, 0, W, j * 4);
        }
      }
      normalizeQuatFlat(local, j * 4);
      if (parent < 0) W.set(local.subarray(j * 4, j * 4 + 4), j * 4);
      else multiplyQuatFlat(W, j * 4, W, parent * 4, local, j * 4);
      if (slot >= 0) {
        const at = slot * 3;
        if (up >= 0) {
          if (stray === "drop") for (let i = 0; i < 3; i++) places[at + i] = skeleton.offsets[j * 3 + i];
          else {
            // Its way from the first frame, seen across its own left there.
            for (let i = 0; i < 3; i++) v[i] = world.positions[at + i] - first.positions[at + i];
            conjugateQuatFlat(q, 0, first.rotations, j * 4);
            rotateVecFlat(v, 0, q, 0, v, 0);
            reflect(v, 0, v, 0, ownLeft[up]);
            rotateVecFlat(v, 0, first.rotations, j * 4, v, 0);
            for (let i = 0; i < 3; i++) places[at + i] = first.positions[at + i] + v[i];
          }
        } else if (parent < 0) image(places, at, world.places, partner[j] * 3);
        else if (j === rig.hips) {
          image(places, at, world.places, j * 3);
          for (let i = 0; i < 3; i++) places[at + i] -= P[parent * 3 + i];
          conjugateQuatFlat(r, 0, W, parent * 4);
          rotateVecFlat(places, at, r, 0, places, at);
        } else {
          const p = partner[j];
          const other = world.slots[p];
          for (let i = 0; i < 3; i++) v[i] = other >= 0 ? world.positions[other * 3 + i] - skeleton.offsets[p * 3 + i] : 0;
          rotateVecFlat(v, 0, world.turns, skeleton.parents[p] * 4, v, 0);
          reflect(v, 0, v, 0, normal);
          conjugateQuatFlat(r, 0, W, parent * 4);
          rotateVecFlat(v, 0, r, 0, v, 0);
          for (let i = 0; i < 3; i++) places[at + i] = skeleton.offsets[j * 3 + i] + v[i];
        }
      }
      const offset = slot >= 0 ? places : skeleton.offsets;
      const o = slot >= 0 ? slot * 3 : j * 3;
      if (parent < 0) for (let i = 0; i < 3; i++) P[j * 3 + i] = offset[o + i];
      else {
        rotateVecFlat(v, 0, W, parent * 4, offset, o);
        for (let i = 0; i < 3; i++) P[j * 3 + i] = P[parent * 3 + i] + v[i];
      }
    }
    // Hips that carry no places of their own are brought where they belong by the joint above them that does.
    const mover = world.slots[rig.hips] >= 0 ? -1 : world.slots[rig.mover];
    if (mover >= 0) {
      image(r, 0, world.places, rig.hips * 3);
      for (let i = 0; i < 3; i++) r[i] -= P[rig.hips * 3 + i];
      const parent = skeleton.parents[rig.mover];
      if (parent >= 0) {
        conjugateQuatFlat(q, 0, W, parent * 4);
        rotateVecFlat(r, 0, q, 0, r, 0);
      }
      for (let i = 0; i < 3; i++) places[mover * 3 + i] += r[i];
    }
    for (let j = 0; j < n; j++) draft.setRotation(j, f, local, j * 4);
    for (let s = 0; s < clip.positionJoints.length; s++) draft.setPosition(s, f, places, s * 3);
  }
  return draft.done();
}
