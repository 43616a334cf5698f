import { type Clip, ClipDraft, quatAngleFlat, readRotation, type Skeleton } from "@stride/motion";

/** Widths of the windows tried, frames (1 σ of a Gaussian): none to far wider than any gait bears. */
const WIDTHS = [0, 0.4, 0.5, 0.6, 0.7, 0.8, 1, 1.2, 1.5, 1.9, 2.4, 3, 4, 6];

/**
 * A trembling clip as the best that smoothing its joints one by one can make of it: each joint's rotations with the window that brings them nearest to the truth, which no program knows. Windows are local parabolas
 * with Gaussian weights (Cleveland & Devlin 1988), which cut a corner least; none of it is the program's own smoothing. What is still off then is trembling as slow as the movement itself.
 */
export function bestSmoothed(skeleton: Skeleton, truth: Clip, faulty: Clip): Clip {
  const draft = ClipDraft.of(faulty);
  const n = faulty.frameCount;
  for (let joint = 0; joint < skeleton.names.length; joint++) {
    const [right, wrong] = [lane(truth, joint), lane(faulty, joint)];
    let [best, least] = [wrong, Number.POSITIVE_INFINITY];
    for (const width of WIDTHS) {
      const smooth = width === 0 ? wrong : parabolas(wrong, n, width);
      let off = 0;
      for (let f = 0; f < n; f++) off += quatAngleFlat(right, f * 4, smooth, f * 4) ** 2;
      if (off < least) [best, least] = [smooth, off];
    }
    for (let f = 0; f < n; f++) draft.setRotation(joint, f, best.subarray(f * 4, f * 4 + 4));
  }
  return draft.done();
}

/** A joint's rotations [frame][4], each with the sign of the one before. */
function lane(clip: Clip, joint: number): Float64Array {
  const out = new Float64Array(clip.frameCount * 4);
  for (let f = 0; f < clip.frameCount; f++) {
    readRotation(clip, joint, f, out, f * 4);
    const same = f === 0 ? 1 : [0, 1, 2, 3].reduce((sum, i) => sum + out[f * 4 + i] * out[f * 4 - 4 + i], 0);
    if (same < 0) for (let i = 0; i < 4; i++) out[f * 4 + i] *= -1;
  }
  return out;
}

/** Each frame's value of the parabola through those around it (weighted least squares by its normal equations), made a unit quaternion again. */
function parabolas(rotations: Float64Array, n: number, width: number): Float64Array {
  const out = new Float64Array(n * 4);
  const reach = Math.ceil(4 * width);
  for (let f = 0; f < n; f++) {
    const moments = [0, 0, 0, 0, 0];
    const sums = Array.from({ length: 4 }, () => [0, 0, 0]);
    for (let g = Math.max(0, f - reach); g <= Math.min(n - 1, f + reach); g++) {
      const d = g - f;
      const w = Math.exp(-0.5 * (d / width) ** 2);
      for (let p = 0; p < 5; p++) moments[p] += w * d ** p;
      for (let i = 0; i < 4; i++) for (let p = 0; p < 3; p++) sums[i][p] += w * d ** p * rotations[g * 4 + i];
    }
    const [a, b, c, d, e] = moments;
    const [first, second, third] = [c * e - d * d, b * e - c * d, b * d - c * c];
    let size = 0;
    for (let i = 0; i < 4; i++) {
      out[f * 4 + i] = (sums[i][0] * first - sums[i][1] * second + sums[i][2] * third) / (a * first - b * second + c * third);
      size += out[f * 4 + i] ** 2;
    }
    for (let i = 0; i < 4; i++) out[f * 4 + i] /= Math.sqrt(size);
  }
  return out;
}
