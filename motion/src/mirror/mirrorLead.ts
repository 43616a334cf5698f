import type { Character } from "../character/character.ts";
import { type Clip, type ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { type JointTrack, jointTracks } from "../contacts/tracks.ts";
import { conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import type { Mirror, StrayRootKeys } from "./mirror.ts";
import { mirrorPairs, reflect, reflectTurn } from "./pairs.ts";

/** The joints that carry the body: hips and other roots as the world's mirror shows them, those above the hips as their own. */
export function mirrorLead(
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
