import { CHUNK_MASK, CHUNK_SHIFT, type Clip, ClipDraft, clipSeconds, cropClip, flatTrack, type Track } from "./clip.ts";

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
  const places = placesOf(at);
  clip.rotations.forEach((track, j) => {
    follow(track, 4, places, (f) => draft.rotationChunk(j, f));
  });
  clip.positions.forEach((track, s) => {
    follow(track, 3, places, (f) => draft.positionChunk(s, f));
  });
  return draft.done();
}

/** The clip at another frame rate, along the same spline: same start, a last frame at or just before the old one. The same rate returns the clip itself. */
export function resampleClip(clip: Clip, fps: number): Clip {
  if (!(fps > 0 && Number.isFinite(fps))) throw new RangeError(`frame rate must be a positive number, not ${fps}`);
  if (fps === clip.fps) return clip;
  const frameCount = Math.floor(clipSeconds(clip) * fps + 1e-6) + 1;
  const frames = Float64Array.from({ length: frameCount }, (_, f) => {
    const frame = (f * clip.fps) / fps;
    const whole = Math.round(frame);
    return Math.abs(frame - whole) < 1e-6 ? whole : frame;
  });
  return { ...splinedClip(clip, frames), fps };
}

/** Where frames lie between the samples of a track, the same for all of them: the sample before, and the spline's four weights [frame][4]; −1 marks whole frames. */
interface Places {
  readonly count: number;
  readonly before: Int32Array;
  readonly weights: Float64Array;
}

function placesOf(frames: Float64Array): Places {
  const before = new Int32Array(frames.length);
  const weights = new Float64Array(frames.length * 4);
  frames.forEach((frame, f) => {
    const low = Math.floor(frame);
    const t = frame - low;
    const s = 1 - t;
    before[f] = low;
    weights[f * 4] = t === 0 ? -1 : s;
    weights[f * 4 + 1] = t;
    weights[f * 4 + 2] = (s * s * s - s) / 6;
    weights[f * 4 + 3] = (t * t * t - t) / 6;
  });
  return { count: frames.length, before, weights };
}

/** Writes a track's samples at some places: the bits of whole frames, the spline between them. */
function follow(track: Track, size: 3 | 4, { count, before, weights }: Places, chunkAt: (frame: number) => Float32Array): void {
  const still = isStill(track, size);
  const spline = still ? null : splineOf(track, size);
  let chunk = chunkAt(0);
  for (let f = 0, o = 0; f < count; f++, o += size) {
    if ((f & CHUNK_MASK) === 0) {
      chunk = chunkAt(f);
      o = 0;
    }
    const low = still ? 0 : before[f];
    if (!spline || weights[f * 4] === -1) {
      const source = track[low >> CHUNK_SHIFT];
      const from = (low & CHUNK_MASK) * size;
      for (let i = 0; i < size; i++) chunk[o + i] = source[from + i];
      continue;
    }
    const { values, bends } = spline;
    const [s, t, a, b] = [weights[f * 4], weights[f * 4 + 1], weights[f * 4 + 2], weights[f * 4 + 3]];
    let square = 0;
    for (let i = 0, k = low * size; i < size; i++, k++) {
      const v = s * values[k] + t * values[k + size] + a * bends[k] + b * bends[k + size];
      chunk[o + i] = v;
      square += v * v;
    }
    if (size === 3) continue;
    const length = 1 / Math.sqrt(square);
    for (let i = 0; i < 4; i++) chunk[o + i] *= length;
  }
}

function isStill(track: Track, size: number): boolean {
  const [head] = track;
  return track.every((chunk) => chunk.every((v, i) => v === head[i % size]));
}

interface Spline {
  readonly values: Float64Array;
  /** second derivatives a frame² */
  readonly bends: Float64Array;
}

/** Splines of tracks that are still in use: while a beat is dragged the same clip is shown at other moments again and again. */
const known = new WeakMap<Track, Spline>();
/** Tracks of more frames are not remembered: their splines take four times the room that they do. */
const MOST_REMEMBERED = 20_000;

/** The cubic spline through a track; at its ends the bend is that of the neighbouring frame. */
function splineOf(track: Track, size: 3 | 4): Spline {
  const hit = known.get(track);
  if (hit) return hit;
  const spline = throughSamples(track, size);
  if (spline.values.length <= MOST_REMEMBERED * size) known.set(track, spline);
  return spline;
}

function throughSamples(track: Track, size: 3 | 4): Spline {
  const values = flatTrack(track, size);
  if (size === 4)
    for (let o = 4; o < values.length; o += 4) {
      let dot = 0;
      for (let i = 0; i < 4; i++) dot += values[o + i] * values[o - 4 + i];
      if (dot < 0) for (let i = 0; i < 4; i++) values[o + i] = -values[o + i];
    }
  return { values, bends: splineBends(values, size) };
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
