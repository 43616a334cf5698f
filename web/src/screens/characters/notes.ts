import { type CharacterNotes, type ContactPoint, emptyNotes, type JointRange, type LimitWay, type Role } from "@stride/motion";

/** A change of what is said of a character; none of them alters the notes that it is given. */
export type Change = (notes: CharacterNotes) => CharacterNotes;

/** A part is a joint by its name, or no joint of the body. */
export function partIs(role: Role, joint: string | null): Change {
  return (notes) => ({ ...notes, body: { ...notes.body, [role]: joint } });
}

export function partAsFound(role: Role): Change {
  return (notes) => ({ ...notes, body: without(notes.body, role) });
}

/** A joint is turned about one of its axes (0, 1, 2), degrees, to come into the pose in which bodies are alike. */
export function restTurned(joint: string, axis: number, degrees: number): Change {
  return (notes) => {
    const turn = [...(notes.rest[joint] ?? [0, 0, 0])] as [number, number, number];
    turn[axis] = degrees;
    return { ...notes, rest: turn.every((v) => v === 0) ? without(notes.rest, joint) : { ...notes.rest, [joint]: turn } };
  };
}

export function pointAt(id: string, local: readonly [number, number, number]): Change {
  return pointsAt({ [id]: local });
}

/** Several points at once, metres in their joints' frames. */
export function pointsAt(points: Readonly<Record<string, readonly [number, number, number]>>): Change {
  // Tenths of a millimetre are plenty.
  const rounded = Object.entries(points).map(([id, local]) => [id, local.map((v) => Math.round(v * 1e4) / 1e4) as [number, number, number]] as const);
  return (notes) => ({ ...notes, points: { ...notes.points, ...Object.fromEntries(rounded) } });
}

export function pointAsFound(id: string): Change {
  return (notes) => ({ ...notes, points: without(notes.points, id) });
}

/** A body's points where a person says that they lie, before the body has been read again with it. */
export function saidPoints(points: readonly ContactPoint[], { points: said }: Pick<CharacterNotes, "points">): ContactPoint[] {
  return points.map((point) => (Object.hasOwn(said, point.id) ? { ...point, local: said[point.id], placed: true } : point));
}

/** What a joint may do where nothing has been said yet: anything. */
export const FREE: CharacterNotes["limits"][string] = { bend: [-180, 180], side: [-180, 180], twist: [-180, 180] };

/** One bound of what a joint may do: the lower (0) or the upper (1). The other gives way where it would be passed. */
export function boundIs(joint: string, way: LimitWay, end: 0 | 1, degrees: number): Change {
  return (notes) => {
    const known = notes.limits[joint] ?? FREE;
    const [low, high] = known[way];
    const range: [number, number] = end === 0 ? [degrees, Math.max(degrees, high)] : [Math.min(degrees, low), degrees];
    return { ...notes, limits: { ...notes.limits, [joint]: { ...known, [way]: range } } };
  };
}

export function limitsAre(limits: Readonly<Record<string, JointRange>>): Change {
  const copied = Object.entries(limits).map(
    ([joint, { bend, side, twist }]) =>
      [joint, { bend: [...bend] as [number, number], side: [...side] as [number, number], twist: [...twist] as [number, number] }] as const,
  );
  return (notes) => ({ ...notes, limits: Object.fromEntries(copied) });
}

export function freeOf(joint: string): Change {
  return (notes) => ({ ...notes, limits: without(notes.limits, joint) });
}

/** What is kept: notes that say nothing are none. */
export function kept(notes: CharacterNotes): CharacterNotes | null {
  return JSON.stringify(notes) === JSON.stringify(emptyNotes()) ? null : notes;
}

/** A place in the world as a joint's frame has it, metres. `positions` [joint][3] and `rotations` [joint][4] are the pose's. */
export function inJoint(place: readonly number[], joint: number, positions: ArrayLike<number>, rotations: ArrayLike<number>): [number, number, number] {
  const [x, y, z, w] = [0, 1, 2, 3].map((c) => rotations[joint * 4 + c]);
  const d = place.map((v, c) => v - positions[joint * 3 + c]);
  // By the conjugate: d + 2w(d×u) + 2u×(u×d), with u = (x, y, z).
  const t = [2 * (z * d[1] - y * d[2]), 2 * (x * d[2] - z * d[0]), 2 * (y * d[0] - x * d[1])];
  return [d[0] + w * t[0] + t[1] * z - t[2] * y, d[1] + w * t[1] + t[2] * x - t[0] * z, d[2] + w * t[2] + t[0] * y - t[1] * x];
}

/** Does a place that a joint moves most belong to a point of another joint? To its own, those above and below next to it, and all below. */
export function belongsTo(joint: number, point: number, parents: ArrayLike<number>): boolean {
  if (joint === parents[point]) return true;
  for (let j = joint; j >= 0; j = parents[j]) if (j === point) return true;
  return false;
}

function without<T>(record: Readonly<Record<string, T>>, key: string): Record<string, T> {
  return Object.fromEntries(Object.entries(record).filter(([own]) => own !== key));
}
