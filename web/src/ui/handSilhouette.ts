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
  const points = strokes.flatMap(([a, b]) => [flat(a), flat(b)]);
  const size = 0.2 * (Math.max(...points.map(([, y]) => -y)) > 0.12 ? 1.1 : 1);
  const place = ([x, y]: [number, number]) => `${(50 + (x / size) * 90).toFixed(1)} ${(92 + (y / size) * 90).toFixed(1)}`;
  return strokes.map(([a, b]) => `M${place(flat(a))}L${place(flat(b))}`).join("");
}

function add(a: readonly number[], b: readonly number[]): number[] {
  return a.map((v, i) => v + b[i]);
}
