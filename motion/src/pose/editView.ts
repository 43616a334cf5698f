import type { PartRef } from "../character/parts.ts";
import { findPart, type Parts } from "../character/parts.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import type { Space } from "./spaces.ts";

/** A pose as it is shown, for edits that are given in one joint's axes and kept in another's. World rotations [joint][4]. */
export interface EditView extends Parts {
  readonly skeleton: Pick<Skeleton, "names" | "parents">;
  readonly rotations: ArrayLike<number>;
  /** of the body, radians about +Y from +Z */
  readonly heading: number;
}

/** World rotation of the axes of a space at a joint. */
function axesOf(view: EditView, joint: number, space: Space): number[] {
  if (space === "body") return axisAngleQuatFlat([0, 0, 0, 1], 0, 0, 1, 0, view.heading) as number[];
  const at = space === "own" ? joint : space === "parent" ? view.skeleton.parents[joint] : -1;
  return at < 0 ? [0, 0, 0, 1] : [0, 1, 2, 3].map((i) => view.rotations[at * 4 + i]);
}

/** A vector given in one space at a joint, in another. */
export function intoSpace(view: EditView, joint: number, vector: readonly number[], from: Space, to: Space): number[] {
  if (from === to) return [...vector];
  const world = rotateVecFlat([0, 0, 0], 0, axesOf(view, joint, from), 0, [...vector], 0);
  const back = conjugateQuatFlat([0, 0, 0, 1], 0, axesOf(view, joint, to), 0);
  return rotateVecFlat([0, 0, 0], 0, back, 0, world, 0) as number[];
}

/** Local rotation of a joint, from the world rotations. */
export function localRotation(view: EditView, joint: number): number[] {
  const back = conjugateQuatFlat([0, 0, 0, 1], 0, axesOf(view, joint, "parent"), 0);
  return multiplyQuatFlat([0, 0, 0, 1], 0, back, 0, axesOf(view, joint, "own"), 0) as number[];
}

/** The joint of a part on the body that is shown; −1 where it has none. */
export function jointIn(view: EditView, part: PartRef): number {
  return findPart(view, part) ?? -1;
}
