/** The ground at a way along a path: its height, metres, and how steeply it rises there, radians. */
export interface Underfoot {
  readonly up: number;
  readonly steep: number;
}
export type Terrain = (s: number) => Underfoot;

export const LEVEL: Terrain = () => ({ up: 0, steep: 0 });

/** A ramp of so many degrees from one place to another along the way, level before and behind it; at 0 its height is 0. */
export function ramp(degrees: number, from: number, to: number): Terrain {
  const steep = (degrees * Math.PI) / 180;
  const at = (s: number) => Math.tan(steep) * Math.max(from, Math.min(to, s));
  return (s) => ({ up: at(s) - at(0), steep: s > from && s < to ? steep : 0 });
}

/** Steps, each as long and as much higher as said; down where that is less than 0. */
export function flight(from: number, tread: number, rise: number, count: number): Terrain {
  return (s) => ({ up: rise * Math.max(0, Math.min(count, Math.floor((s - from) / tread) + 1)), steep: 0 });
}

/** Something that stands on level ground, or a pit in it, from one place to another along the way. */
export function block(from: number, to: number, up: number): Terrain {
  return (s) => ({ up: s > from && s < to ? up : 0, steep: 0 });
}

/** Level places of the same length, each so much higher, or lower, than the usual height, or as high. */
export function rough(from: number, long: number, by: number): Terrain {
  return (s) => ({ up: by * (((((Math.floor((s - from) / long) * 37) % 3) + 3) % 3) - 1), steep: 0 });
}

/** So many samples make the mean that a body follows. */
const SAMPLES = 60;

/** Height of a ground over so much to either side of a place, weighed by Hann's window: over steps it rises without a kink. */
export function meanHeights(terrain: Terrain, reach: number): (s: number) => number {
  const known = new Map<number, number>();
  return (s) => {
    const height = known.get(s) ?? (terrain === LEVEL ? 0 : meanHeight(terrain, s, reach));
    known.set(s, height);
    return height;
  };
}

function meanHeight(terrain: Terrain, s: number, reach: number): number {
  let [sum, all] = [0, 0];
  for (let k = -SAMPLES; k <= SAMPLES; k++) {
    const weight = 1 + Math.cos((Math.PI * k) / SAMPLES);
    sum += weight * terrain(s + (k * reach) / SAMPLES).up;
    all += weight;
  }
  return sum / all;
}
