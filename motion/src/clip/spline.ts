import { normalizeQuatFlat } from "../math/quat.ts";
import { CHUNK_MASK, CHUNK_SHIFT, type Clip, ClipDraft, cropClip, flatTrack, type Track } from "./clip.ts";

/**
 * A clip's poses at these (fractional) frames, as a clip of the same rate. Whole frames keep their bits. Between them each sample follows the
 * cubic spline through all of its track, so that speed and acceleration are continuous across the source's frames (straight lines would break
 * the speed at each); of rotations the four numbers are splined with their signs made continuous, and brought back to unit length. Frames
 * outside are taken for the nearest end.
 */
export function splinedClip(clip: Clip, frames: Float64Array): Clip {
  const last = clip.frameCount - 1;
  const at = frames.map((f) => Math.max(0, Math.min(last, f)));
  const first = at[0];
  if (Number.isInteger(first) && at.every((f, i) => f === first + i)) return cropClip(clip, first, first + at.length - 1);
  const draft = ClipDraft.make(clip.name, clip.fps, at.length, clip.jointCount, clip.positionJoints);
  const put = (track: Track, size: 3 | 4, chunkAt: (frame: number) => Float32Array) => {
    const still = isStill(track, size);
    const spline = still ? null : splineOf(track, size);
    const v = new Float64Array(size);
    at.forEach((frame, f) => {
      const chunk = chunkAt(f);
      const o = (f & CHUNK_MASK) * size;
      const whole = still ? 0 : Math.floor(frame);
      if (!spline || frame === whole) {
        const source = track[whole >> CHUNK_SHIFT];
        for (let i = 0; i < size; i++) chunk[o + i] = source[(whole & CHUNK_MASK) * size + i];
        return;
      }
      splineAt(v, spline, frame);
      if (size === 4) normalizeQuatFlat(v, 0);
      for (let i = 0; i < size; i++) chunk[o + i] = v[i];
    });
  };
  clip.rotations.forEach((track, j) => {
    put(track, 4, (f) => draft.rotationChunk(j, f));
  });
  clip.positions.forEach((track, s) => {
    put(track, 3, (f) => draft.positionChunk(s, f));
  });
  return draft.done();
}

function isStill(track: Track, size: number): boolean {
  const [head] = track;
  return track.every((chunk) => chunk.every((v, i) => v === head[i % size]));
}

interface Spline {
  readonly size: number;
  readonly values: Float64Array;
  /** second derivatives a frame² */
  readonly bends: Float64Array;
}

/** The cubic spline through a track; at its ends the bend is that of the neighbouring frame. */
function splineOf(track: Track, size: 3 | 4): Spline {
  const values = flatTrack(track, size);
  if (size === 4)
    for (let o = 4; o < values.length; o += 4) {
      let dot = 0;
      for (let i = 0; i < 4; i++) dot += values[o + i] * values[o - 4 + i];
      if (dot < 0) for (let i = 0; i < 4; i++) values[o + i] = -values[o + i];
    }
  return { size, values, bends: splineBends(values, size) };
}

/** Second derivatives of the interpolating cubic spline over equidistant samples [frame][size], by elimination of M(k−1) + 4 M(k) + M(k+1) = 6 Δ²(k). */
export function splineBends(values: Float64Array, size: number): Float64Array {
  const n = values.length / size;
  const out = new Float64Array(values.length);
  if (n < 3) return out;
  const upper = new Float64Array(n);
  for (let k = 1; k < n - 1; k++) {
    // The first and the last inner knot stand for the ends as well.
    const diagonal = 4 + (k === 1 ? 1 : 0) + (k === n - 2 ? 1 : 0);
    const pivot = diagonal - (k === 1 ? 0 : upper[k - 1]);
    upper[k] = 1 / pivot;
    for (let i = 0; i < size; i++) {
      const o = k * size + i;
      const second = 6 * (values[o + size] - 2 * values[o] + values[o - size]);
      out[o] = (second - (k === 1 ? 0 : out[o - size])) / pivot;
    }
  }
  for (let k = n - 3; k >= 1; k--) for (let i = 0; i < size; i++) out[k * size + i] -= upper[k] * out[(k + 1) * size + i];
  for (let i = 0; i < size; i++) {
    out[i] = out[size + i];
    out[(n - 1) * size + i] = out[(n - 2) * size + i];
  }
  return out;
}

function splineAt(dst: Float64Array, { size, values, bends }: Spline, frame: number): void {
  const a = Math.floor(frame);
  const t = frame - a;
  const s = 1 - t;
  const [wa, wb] = [(s * s * s - s) / 6, (t * t * t - t) / 6];
  for (let i = 0; i < size; i++) {
    const o = a * size + i;
    dst[i] = s * values[o] + t * values[o + size] + wa * bends[o] + wb * bends[o + size];
  }
}
