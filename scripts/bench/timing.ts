/** Median milliseconds of some runs, after one to warm up. */
export function time(runs: number, work: () => void): number {
  work();
  const took: number[] = [];
  for (let i = 0; i < runs; i++) {
    const started = performance.now();
    work();
    took.push(performance.now() - started);
  }
  return took.sort((a, b) => a - b)[Math.floor(runs / 2)];
}

/** Either piece of work is run so long before it counts, milliseconds: the engine translates what it finds busy, and again when it has seen more of it. */
const WARM = 500;

/**
 * Best milliseconds of two pieces of work run in turns, both warmed up alike: what else the machine does slows both, and neither
 * at its best.
 */
export function race(runs: number, ours: () => void, theirs: () => void, oursEach = 4): { ours: number; theirs: number } {
  const best = { ours: Number.POSITIVE_INFINITY, theirs: Number.POSITIVE_INFINITY };
  const run = (who: keyof typeof best, work: () => void) => {
    const started = performance.now();
    work();
    best[who] = Math.min(best[who], performance.now() - started);
  };
  for (const work of [ours, theirs]) for (const started = performance.now(); performance.now() - started < WARM; ) work();
  for (let i = 0; i < runs; i++) {
    for (let k = 0; k < oursEach; k++) run("ours", ours);
    run("theirs", theirs);
  }
  return best;
}

export function row(what: string, value: string, target: string): void {
  console.log(`${what.padEnd(52)} ${value.padStart(14)}   target ${target}`);
}

/** The value that 95 of a hundred do not exceed. */
export function p95(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(0.95 * (values.length - 1))] ?? Number.NaN;
}
