/** A sole seen from above: rounder at the toes, with the ball of the foot at (x, z). */
export function soleOutline(x: number, z: number, heading: number, long: number, wide: number): [number, number][] {
  const out: [number, number][] = [];
  for (let i = 0; i < 20; i++) {
    const a = (i / 20) * Math.PI * 2;
    const along = (Math.cos(a) * 0.5 - 0.22) * long;
    const waist = 1 - 0.22 * Math.sin(Math.PI * Math.max(0, Math.min(1, 0.65 - Math.cos(a) * 0.5)));
    const across = Math.sin(a) * 0.5 * wide * waist * (Math.cos(a) > 0 ? 1.1 : 0.9);
    out.push([x + along * Math.sin(heading) + across * Math.cos(heading), z + along * Math.cos(heading) - across * Math.sin(heading)]);
  }
  return out;
}

/** How far the step that a foot is shown to stand on goes beyond it, and half its breadth, metres. */
const STEP_BEYOND = 0.06;
const STEP_HALF_BREADTH = 0.17;

/** Corners (x, z), in order, of the step under a foot whose toe is at x, z: `length` from heel to toe (metres), pointing `heading` radians about +Y from +Z. */
export function stepOutline(x: number, z: number, heading: number, length: number): [number, number][] {
  const half = Math.max(0.1, length * 1.25) / 2 + STEP_BEYOND;
  const [cx, cz] = [x - (length / 2) * Math.sin(heading), z - (length / 2) * Math.cos(heading)];
  return [
    [1, 1],
    [1, -1],
    [-1, -1],
    [-1, 1],
  ].map(([along, across]): [number, number] => [
    cx + along * half * Math.sin(heading) + across * STEP_HALF_BREADTH * Math.cos(heading),
    cz + along * half * Math.cos(heading) - across * STEP_HALF_BREADTH * Math.sin(heading),
  ]);
}
