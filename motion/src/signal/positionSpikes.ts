/** A position that jumps by less than this share of the body's height in a frame is taken for movement. */
export const LEAST_JUMP_SHARE = 0.02;

/** A frame at which a course jumps, and by how much (metres). */
export interface PositionSpike {
  readonly frame: number;
  readonly size: number;
}

/**
 * Frames at which a course [frame][3] jumps: away for one frame and back (off the middle of its neighbours), or a step that stays (off the
 * movement before and after it), by at least `least` and over four times what the frames around show. A quick but smooth movement, which is
 * off by much the same for several frames, does not count.
 */
export function positionSpikes(course: Float64Array, frameCount: number, least: number): PositionSpike[] {
  // Size of the second difference: a spike of size s shows s, 2s, s; a step s shows s, s.
  const off = new Float64Array(frameCount);
  for (let f = 1; f + 1 < frameCount; f++) {
    const o = f * 3;
    off[f] = Math.hypot(...[0, 1, 2].map((i) => course[o - 3 + i] - 2 * course[o + i] + course[o + 3 + i]));
  }
  const spikes: PositionSpike[] = [];
  for (let f = 1; f + 1 < frameCount; f++) {
    const spike = off[f] / 2;
    const step = f + 2 < frameCount ? Math.min(off[f], off[f + 1]) : 0;
    const size = Math.max(spike, step);
    if (size < least) continue;
    let around = 0;
    let count = 0;
    for (const d of [-5, -4, -3, 4, 5, 6]) {
      if (f + d < 1 || f + d + 1 >= frameCount) continue;
      around += off[f + d];
      count++;
    }
    if (count > 0 && size <= 4 * (around / count)) continue;
    const last = spikes[spikes.length - 1];
    // One jump shows on up to three frames: the one that is farthest off its neighbours stands for it.
    if (last && f - last.frame <= 2) {
      if (off[f] > off[last.frame]) spikes[spikes.length - 1] = { frame: f, size: Math.max(size, last.size) };
    } else spikes.push({ frame: f, size });
  }
  return spikes;
}
