import { partKey } from "../character/parts.ts";
import { composed } from "../math/rotationVectors.ts";
import type { Edit, TurnEdit } from "./edits.ts";
import type { Space } from "./spaces.ts";

const round = (v: number) => Math.round(v * 1e6) / 1e6;
type Vector = [number, number, number];

/** An edit with its amounts multiplied; poses have an amount of their own and stay. */
export function scaleEdit(edit: Edit, factor: number): Edit {
  const by = (v: readonly number[]) => v.map((x) => round(x * factor)) as Vector;
  if (edit.op === "turn") return { ...edit, degrees: by(edit.degrees) };
  if (edit.op === "move") return { ...edit, centimetres: by(edit.centimetres) };
  return edit;
}

const keysOf = (edit: Exclude<Edit, { op: "pose" }>) => edit.parts.map(partKey).join();

/** Two edits of the same parts in the same axes are one: turns composed as rotations, ways added. Null where they are two. */
export function mergeEdits(a: Edit, b: Edit): Edit | null {
  if (a.op === "pose" || b.op === "pose" || a.op !== b.op || a.space !== b.space || keysOf(a) !== keysOf(b)) return null;
  if (a.op === "move" && b.op === "move") {
    return { ...a, centimetres: a.centimetres.map((v, i) => round(v + b.centimetres[i])) as Vector };
  }
  if (a.op !== "turn" || b.op !== "turn" || a.shared !== b.shared || JSON.stringify(a.pivot) !== JSON.stringify(b.pivot)) return null;
  return { ...a, degrees: composeTurns(a.space, a.degrees, b.degrees) } satisfies TurnEdit;
}

/** Rotation vector, degrees, of one turn and then another, both given in a space: own axes turn along with the joint, others stay. */
export function composeTurns(space: Space, first: ArrayLike<number>, then: ArrayLike<number>): Vector {
  return space === "own" ? composed(first, then) : composed(then, first);
}
