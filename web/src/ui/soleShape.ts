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
