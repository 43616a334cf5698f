import { type BodyMap, fingerJoints, multiplyQuatFlat, rotateVecFlat, type Side, type Skeleton, tipOf } from "@stride/motion";

/** A hand with its fingers as strokes, seen onto the palm or from the thumb's side: an SVG path in a box of 100 by 100. */
export function handPath(
  skeleton: Skeleton,
  body: BodyMap,
  side: Side,
  rotations: readonly (readonly [number, Float64Array])[],
  view: "palm" | "side" = "palm",
): string {
  const turn = new Map(rotations);
  const hand = body.roles[`${side}Hand`];
  if (hand === undefined) return "";
  const placed = new Map<number, { at: number[]; q: Float64Array }>([[hand, { at: [0, 0, 0], q: Float64Array.of(0, 0, 0, 1) }]]);
  const strokes: [number[], number[]][] = [];
  // The box is the straight hand's, so that a fist is drawn smaller.
  const length = (joint: number): number =>
    joint === hand ? 0 : Math.hypot(...[0, 1, 2].map((c) => skeleton.offsets[joint * 3 + c])) + length(skeleton.parents[joint]);
  const longest = Math.max(...fingerJoints(body, side).map(({ joint }) => length(joint) + Math.hypot(...(tipOf(skeleton, joint) ?? [0]))), 1e-6);
  for (const { joint } of fingerJoints(body, side)) {
    const parent = placed.get(skeleton.parents[joint]) ?? placed.get(hand);
    if (!parent) continue;
    const at = add(
      parent.at,
      rotateVecFlat(
        [0, 0, 0],
        0,
        parent.q,
        0,
        [0, 1, 2].map((c) => skeleton.offsets[joint * 3 + c]),
        0,
      ) as number[],
    );
    const q = multiplyQuatFlat(new Float64Array(4), 0, parent.q, 0, turn.get(joint) ?? Float64Array.of(0, 0, 0, 1), 0) as Float64Array;
    placed.set(joint, { at, q });
    strokes.push([parent.at, at]);
    const tip = tipOf(skeleton, joint);
    if (tip && Math.hypot(...tip) > 0) strokes.push([at, add(at, rotateVecFlat([0, 0, 0], 0, q, 0, [...tip], 0) as number[])]);
  }
  const out = side === "left" ? 1 : -1;
  // Fingers point up; onto the palm the thumb is towards the body's middle, from the side the palm faces left.
  const flat = ([x, y, z]: number[]): [number, number] => (view === "palm" ? [z * out, -x * out] : [y, -x * out]);
  const size = 1.2 * longest;
  const place = ([x, y]: [number, number]) => `${(50 + (x / size) * 100).toFixed(1)} ${(94 + (y / size) * 100).toFixed(1)}`;
  return strokes.map(([a, b]) => `M${place(flat(a))}L${place(flat(b))}`).join("");
}

function add(a: readonly number[], b: readonly number[]): number[] {
  return a.map((v, i) => v + b[i]);
}
