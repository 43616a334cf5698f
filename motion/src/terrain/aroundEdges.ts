/** A foot takes this long to be up at the first edge before it, and to come down behind the last one, seconds. */
const RAISE_SECONDS = 0.2;
/** The most that a swing is held back before an edge, or hastened to one, as a share of its time: it goes on forward all the while. */
const MOST = 0.18;
const FULL = 0.06;
/** Heights of an edge that count, metres. */
const SLIGHT = 0.004;

/** Where the bump below is highest, and what makes it 1 there. */
const PEAK = 0.4;
const SCALE = 1 / (PEAK ** 2 * (1 - PEAK) ** 3);

/** A bump over u in 0..1, without speed at its ends, early in the swing. */
function bump(u: number): number {
  return SCALE * u * u * (1 - u) ** 3;
}

/**
 * A foot with an edge close before it is lifted first and goes forward then, and one that comes down close behind an edge is over it first: the level course of
 * each swing, positions[frame][3], is passed later at its beginning or sooner at its end, so far as the edges (`lacks` [frame], metres) leave too little time.
 * Its ends and its height stay.
 */
export function passEdges(positions: Float64Array, resting: Uint8Array, lacks: Float64Array, fps: number): void {
  const n = resting.length;
  const raise = RAISE_SECONDS * fps;
  for (let start = 1; start < n; start++) {
    if (resting[start]) continue;
    let end = start;
    while (end + 1 < n && !resting[end + 1]) end++;
    if (end < n - 1) {
      const edges = edgesIn(lacks, start, end);
      const [from, length] = [start - 1, end - start + 2];
      const weight = edges ? Math.min(1, edges.high / FULL) : 0;
      const share = (have: number) => weight * (Math.min(0.5, raise / length) - have);
      const [back, hasten] = edges ? [edges.first - from, end + 1 - edges.last].map((frames) => Math.min(MOST, Math.max(0, share(frames / length)))) : [0, 0];
      if (back > 0 || hasten > 0) pass(positions, from, length, (u) => u - back * bump(u) + hasten * bump(1 - u));
    }
    start = end;
  }
}

function edgesIn(lacks: Float64Array, start: number, end: number): { first: number; last: number; high: number } | null {
  let [first, last, high] = [-1, -1, 0];
  for (let f = start; f <= end; f++) {
    high = Math.max(high, lacks[f]);
    if (lacks[f] <= SLIGHT) continue;
    if (first < 0) first = f;
    last = f;
  }
  return first < 0 ? null : { first, last, high };
}

/** The level course of `length` frames behind `from`, passed at other times. */
function pass(positions: Float64Array, from: number, length: number, time: (u: number) => number): void {
  const was = positions.slice(from * 3, (from + length + 1) * 3);
  for (let i = 1; i < length; i++) {
    const at = time(i / length) * length;
    const k = Math.min(length - 1, Math.max(0, Math.floor(at)));
    for (const axis of [0, 2]) {
      const [a, b] = [was[k * 3 + axis], was[(k + 1) * 3 + axis]];
      positions[(from + i) * 3 + axis] = a + (at - k) * (b - a);
    }
  }
}
