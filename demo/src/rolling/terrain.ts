/** The ground at a way along a path: its height, metres, and how steeply it rises there, radians. */
export interface Underfoot {
  readonly up: number;
  readonly steep: number;
}
export type Terrain = (s: number) => Underfoot;

export const LEVEL: Terrain = () => ({ up: 0, steep: 0 });

/** A ramp of so many degrees, level again after so long a way along it. */
export function ramp(degrees: number, from: number, long: number): Terrain {
  const steep = (degrees * Math.PI) / 180;
  return (s) => ({ up: Math.tan(steep) * Math.max(0, Math.min(long, s - from)), steep: s > from && s < from + long ? steep : 0 });
}

/** Steps, each as long and as much higher as said; down where that is less than 0. */
export function flight(from: number, tread: number, rise: number, count: number): Terrain {
  return (s) => ({ up: rise * Math.max(0, Math.min(count, Math.floor((s - from) / tread) + 1)), steep: 0 });
}

/** So many samples make the mean that a body follows. */
const SAMPLES = 12;

/** Mean height of a ground over so much to either side of a place. */
export function meanHeight(terrain: Terrain, s: number, reach: number): number {
  let sum = 0;
  for (let k = -SAMPLES; k <= SAMPLES; k++) sum += terrain(s + (k * reach) / SAMPLES).up;
  return sum / (2 * SAMPLES + 1);
}
