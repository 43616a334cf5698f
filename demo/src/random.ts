/** Small seeded generator (mulberry32): the demo world is the same on every machine. Returns numbers in 0..1. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Standard normal numbers from a uniform source (Box–Muller). */
export function normal(random: () => number): () => number {
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** A slow wandering curve in −1..1: three sines of unrelated periods (seconds) with seeded phases. For breath, gaze, idle hands. */
export function wander(random: () => number, period: number): (t: number) => number {
  const parts = [1, 0.618, 0.371].map((share) => ({ w: (2 * Math.PI) / (period * share), phase: random() * 2 * Math.PI, size: share }));
  return (t) => parts.reduce((sum, p) => sum + p.size * Math.sin(p.w * t + p.phase), 0) / 1.6;
}
