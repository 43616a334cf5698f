import { type Clip, jointTrack, quantile, type Skeleton } from "@stride/motion";

/** Slower than this for at least so long, and near its lowest, a toe joint rests: m/s, seconds, metres. */
const SLOW = 0.2;
const LONG = 0.1;
const LOW = 0.04;
/** Left out at either end of such a span, seconds. */
const ENDS = 0.05;

/** Frames [start, end] on which a joint should rest, by a rule that shares nothing with how contacts are found: its own speed and height alone. */
export function stillSpans(skeleton: Skeleton, clip: Clip, joint: number): [number, number][] {
  const { positions: p } = jointTrack(skeleton, clip, joint);
  const n = clip.frameCount;
  const step = Math.max(1, Math.round(clip.fps / 60));
  const low = quantile(
    Array.from({ length: n }, (_, f) => p[f * 3 + 1]),
    0.1,
  );
  const still = (f: number) => {
    const a = Math.max(0, f - step) * 3;
    const b = Math.min(n - 1, f + step) * 3;
    return (Math.hypot(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]) * clip.fps) / ((b - a) / 3) < SLOW && p[f * 3 + 1] < low + LOW;
  };
  const spans: [number, number][] = [];
  const ends = Math.round(ENDS * clip.fps);
  for (let f = 0; f < n; f++) {
    if (!still(f)) continue;
    const start = f;
    while (f + 1 < n && still(f + 1)) f++;
    if ((f - start) / clip.fps >= LONG && f - start > 2 * ends + 1) spans.push([start + ends, f - ends]);
  }
  return spans;
}

/** Level distances of a joint from its spans' middle places in a clip, centimetres, frame by frame. */
export function slidesIn(skeleton: Skeleton, clip: Clip, joint: number, spans: readonly (readonly [number, number])[]): number[] {
  const { positions: p } = jointTrack(skeleton, clip, joint);
  return spans.flatMap(([start, end]) => {
    const frames = Array.from({ length: end - start + 1 }, (_, i) => (start + i) * 3);
    const [x, z] = [0, 2].map((axis) =>
      quantile(
        frames.map((o) => p[o + axis]),
        0.5,
      ),
    );
    return frames.map((o) => 100 * Math.hypot(p[o] - x, p[o + 2] - z));
  });
}
