import type { Character } from "../character/character.ts";
import { type Clip, ClipDraft, readPosition } from "../clip/clip.ts";
import { positionSlots } from "../kinematics/forward.ts";
import { conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import type { Mirror, StrayRootKeys } from "./mirror.ts";
import { mirrorLead } from "./mirrorLead.ts";
import { mirrorPairs, reflect, reflectTurn } from "./pairs.ts";

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
