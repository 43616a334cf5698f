/** Poses are held for so many frames at most where a motion goes by steps; what lies still for longer rests. */
const LONGEST_HOLD = 6;
/** A motion goes by steps where it repeats so great a share of its frames, and at least one of so many: a joint that is at its limit for a while holds there alone. */
export const STEPPED = 0.15;
const ONE_OF = 8;

/**
 * The frames of a course [frame][stride] on which it shows something new, first and last included, where it goes by steps: each pose held for two or three frames, as drawn motion is, or every fifth repeated, as
 * where a rate has been raised. What repeats is exactly the same. Null where it goes on from frame to frame, for a while at least, or lies still. To read noise off it, that it repeats must be left out: it looks like trembling.
 */
export function newFrames(course: Float64Array, stride: number): Int32Array | null {
  const n = course.length / stride;
  const repeats = (f: number) => {
    for (let o = f * stride, end = o + stride; o < end; o++) if (course[o] !== course[o - stride]) return false;
    return true;
  };
  let [held, since] = [0, 0];
  const kept: number[] = [];
  for (let f = 0; f < n; ) {
    let last = f;
    while (last + 1 < n && repeats(last + 1)) last++;
    const length = last - f + 1;
    if (length <= LONGEST_HOLD) {
      held += length - 1;
      since = length > 1 ? 0 : since + 1;
      if (since > ONE_OF) return null;
      kept.push(f);
    } else for (let g = f; g <= last; g++) kept.push(g);
    f = last + 1;
  }
  return held < STEPPED * n ? null : Int32Array.from(kept);
}

/** Some frames of a course [frame][stride]. */
export function framesOf(course: Float64Array, stride: number, frames: Int32Array): Float64Array {
  const out = new Float64Array(frames.length * stride);
  frames.forEach((f, i) => {
    out.set(course.subarray(f * stride, (f + 1) * stride), i * stride);
  });
  return out;
}

/** Such a course on all of `frameCount` frames again, each held until the next. */
export function heldAgain(course: Float64Array, stride: number, frames: Int32Array, frameCount: number): Float64Array {
  const out = new Float64Array(frameCount * stride);
  for (let f = 0, i = 0; f < frameCount; f++) {
    if (i + 1 < frames.length && frames[i + 1] <= f) i++;
    out.set(course.subarray(i * stride, (i + 1) * stride), f * stride);
  }
  return out;
}
