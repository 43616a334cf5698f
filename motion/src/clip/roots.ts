import { multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { type Clip, ClipDraft, readPosition, readRotation } from "./clip.ts";

/** A rigid movement of the world: first the shift (metres), then the turn about the origin; null turns nothing. */
export interface RigidMove {
  readonly shift: ArrayLike<number>;
  readonly turn: Float64Array | null;
}

/**
 * The clip with the whole body moved rigidly, frame by frame; frames for which `moveAt` gives null keep their bits. Moves the roots' positions
 * and rotations alone. The same moves on two clips keep equal frames equal, bit for bit.
 */
export function moveBody(skeleton: Skeleton, clip: Clip, moveAt: (frame: number) => RigidMove | null): Clip {
  const draft = ClipDraft.of(clip);
  const roots = skeleton.names.map((_, j) => j).filter((j) => skeleton.parents[j] < 0);
  const v = new Float64Array(3);
  const q = new Float64Array(4);
  for (let f = 0; f < clip.frameCount; f++) {
    const move = moveAt(f);
    if (!move) continue;
    for (const root of roots) {
      const slot = clip.positionJoints.indexOf(root);
      readPosition(clip, slot, f, v, 0);
      for (let i = 0; i < 3; i++) v[i] += move.shift[i];
      if (move.turn) {
        rotateVecFlat(v, 0, move.turn, 0, v, 0);
        readRotation(clip, root, f, q, 0);
        multiplyQuatFlat(q, 0, move.turn, 0, q, 0);
        draft.setRotation(root, f, q);
      }
      draft.setPosition(slot, f, v);
    }
  }
  return draft.done();
}

/** A place carried along by such a move. */
export function movePlace(place: readonly [number, number, number], move: RigidMove | null): [number, number, number] {
  if (!move) return [...place];
  const v = new Float64Array([0, 1, 2].map((i) => place[i] + move.shift[i]));
  if (move.turn) rotateVecFlat(v, 0, move.turn, 0, v, 0);
  return [v[0], v[1], v[2]];
}
