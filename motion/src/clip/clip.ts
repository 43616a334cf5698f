import { type Floats, quatAngleFlat } from "../math/quat.ts";

/** Frames a chunk of a track holds: 64, a power of two, so that frame → chunk is a shift and frame → place in it a mask. */
export const CHUNK_SHIFT = 6;
export const CHUNK_FRAMES = 1 << CHUNK_SHIFT;
export const CHUNK_MASK = CHUNK_FRAMES - 1;

/** Samples of one joint over time: [chunk][frame in the chunk][4 or 3]; the last chunk is as long as what is left. */
export type Track = readonly Float32Array[];

/**
 * A motion as dense samples, a track a joint. Never mutated once made, so that clips share whatever chunks they have in common.
 * rotations: [joint], local, x y z w. positions: [slot], metres, local to the parent, for the joints listed in positionJoints (the root is
 * always one of them, and always first).
 */
export interface Clip {
  readonly name: string;
  readonly fps: number;
  readonly frameCount: number;
  readonly jointCount: number;
  readonly rotations: readonly Track[];
  readonly positions: readonly Track[];
  readonly positionJoints: Int16Array;
}

/** Seconds between the first and the last frame. */
export function clipSeconds(clip: Pick<Clip, "frameCount" | "fps">): number {
  return (clip.frameCount - 1) / clip.fps;
}

/** Copies a joint's rotation at a frame: dst[d..d+3]. */
export function readRotation(clip: Clip, joint: number, frame: number, dst: Floats, d: number): void {
  const chunk = clip.rotations[joint][frame >> CHUNK_SHIFT];
  const o = (frame & CHUNK_MASK) * 4;
  dst[d] = chunk[o];
  dst[d + 1] = chunk[o + 1];
  dst[d + 2] = chunk[o + 2];
  dst[d + 3] = chunk[o + 3];
}

/** Copies a position sample at a frame: dst[d..d+2]. */
export function readPosition(clip: Clip, slot: number, frame: number, dst: Floats, d: number): void {
  const chunk = clip.positions[slot][frame >> CHUNK_SHIFT];
  const o = (frame & CHUNK_MASK) * 3;
  dst[d] = chunk[o];
  dst[d + 1] = chunk[o + 1];
  dst[d + 2] = chunk[o + 2];
}

/** Copies a whole frame: rotations [joint][4], positions [slot][3]. */
export function readPose(clip: Clip, frame: number, rotations: Floats, positions: Floats): void {
  for (let j = 0; j < clip.jointCount; j++) readRotation(clip, j, frame, rotations, j * 4);
  for (let s = 0; s < clip.positionJoints.length; s++) readPosition(clip, s, frame, positions, s * 3);
}

/** Angle in radians between a joint's rotations at two frames, of one clip or two. */
export function rotationBetween(a: Clip, frameA: number, b: Clip, frameB: number, joint: number): number {
  return quatAngleFlat(
    a.rotations[joint][frameA >> CHUNK_SHIFT],
    (frameA & CHUNK_MASK) * 4,
    b.rotations[joint][frameB >> CHUNK_SHIFT],
    (frameB & CHUNK_MASK) * 4,
  );
}

/** A whole track as one new array [frame][size], in doubles. */
export function flatTrack(track: Track, size: 3 | 4): Float64Array {
  const length = track.reduce((sum, chunk) => sum + chunk.length, 0);
  const out = new Float64Array(length);
  track.forEach((chunk, c) => {
    out.set(chunk, c * CHUNK_FRAMES * size);
  });
  return out;
}

/** Are all samples finite? */
export function isFiniteClip(clip: Clip): boolean {
  return [...clip.rotations, ...clip.positions].every((track) => track.every((chunk) => chunk.every(Number.isFinite)));
}

function freshTrack(frameCount: number, size: number): Float32Array[] {
  // One buffer for a track, its chunks views of it: a tenth of the time that a buffer a chunk takes.
  const samples = new Float32Array(frameCount * size);
  return freshTrackLengths(frameCount).map((frames, c) => samples.subarray(c * CHUNK_FRAMES * size, (c * CHUNK_FRAMES + frames) * size));
}

/**
 * A clip that is being written: begins as another clip, or empty (all zeros), and copies a chunk when it is first written to. `done` hands
 * the clip out; the draft is spent then. Reading through `clip` shows what has been written so far.
 */
export class ClipDraft {
  private readonly rotationTracks: Float32Array[][];
  private readonly positionTracks: Float32Array[][];
  private spent = false;
  private written = false;

  private constructor(
    private readonly shape: Clip,
    private readonly base: Clip | null,
  ) {
    this.rotationTracks = [...shape.rotations] as Float32Array[][];
    this.positionTracks = [...shape.positions] as Float32Array[][];
  }

  /** A draft of a changed clip: everything not written stays shared with it. */
  static of(clip: Clip): ClipDraft {
    return new ClipDraft(clip, clip);
  }

  /** A draft of a new clip, all samples zero. */
  static make(name: string, fps: number, frameCount: number, jointCount: number, positionJoints: Int16Array): ClipDraft {
    const rotations = Array.from({ length: jointCount }, () => freshTrack(frameCount, 4));
    const positions = Array.from(positionJoints, () => freshTrack(frameCount, 3));
    return new ClipDraft({ name, fps, frameCount, jointCount, rotations, positions, positionJoints }, null);
  }

  /** The chunk that holds a joint's rotation at a frame, to be written at (frame & CHUNK_MASK) · 4. */
  rotationChunk(joint: number, frame: number): Float32Array {
    return this.own(this.rotationTracks, this.base?.rotations, joint, frame >> CHUNK_SHIFT);
  }

  /** The chunk that holds a position sample at a frame, to be written at (frame & CHUNK_MASK) · 3. */
  positionChunk(slot: number, frame: number): Float32Array {
    return this.own(this.positionTracks, this.base?.positions, slot, frame >> CHUNK_SHIFT);
  }

  setRotation(joint: number, frame: number, q: ArrayLike<number>, o = 0): void {
    const chunk = this.rotationChunk(joint, frame);
    const at = (frame & CHUNK_MASK) * 4;
    for (let i = 0; i < 4; i++) chunk[at + i] = q[o + i];
  }

  /** Sets a joint to one rotation on all frames. */
  holdRotation(joint: number, q: ArrayLike<number>): void {
    for (let f = 0; f < this.shape.frameCount; f += CHUNK_FRAMES) {
      const chunk = this.rotationChunk(joint, f);
      for (let i = 0; i < chunk.length; i++) chunk[i] = q[i & 3];
    }
  }

  setPosition(slot: number, frame: number, p: ArrayLike<number>, o = 0): void {
    const chunk = this.positionChunk(slot, frame);
    const at = (frame & CHUNK_MASK) * 3;
    for (let i = 0; i < 3; i++) chunk[at + i] = p[o + i];
  }

  /** What is written so far, as a clip to read from; it changes under further writing. */
  get clip(): Clip {
    return { ...this.shape, rotations: this.rotationTracks, positions: this.positionTracks };
  }

  /** The finished clip; the very clip it began as when nothing was written. */
  done(): Clip {
    this.spent = true;
    return this.base && !this.written ? this.base : this.clip;
  }

  private own(tracks: Float32Array[][], base: readonly Track[] | undefined, lane: number, c: number): Float32Array {
    if (this.spent) throw new Error("this draft has been handed out and may not be written any more");
    const from = base?.[lane];
    if (!from) return tracks[lane][c];
    this.written = true;
    if (tracks[lane] === from) tracks[lane] = [...from];
    if (tracks[lane][c] === from[c]) tracks[lane][c] = from[c].slice();
    return tracks[lane][c];
  }
}

/** Frames start..end (inclusive) as a new clip; shares chunks where it begins at one. Throws RangeError when the range is empty or outside. */
export function cropClip(clip: Clip, start: number, end: number): Clip {
  if (!(start >= 0 && end < clip.frameCount && start <= end)) {
    throw new RangeError(`frames ${start}–${end} do not lie inside 0–${clip.frameCount - 1}`);
  }
  if (start === 0 && end === clip.frameCount - 1) return clip;
  const frameCount = end - start + 1;
  const cut = (track: Track, size: number): Track =>
    freshTrackLengths(frameCount).map((frames, c) => {
      const first = start + c * CHUNK_FRAMES;
      if ((first & CHUNK_MASK) === 0) {
        const chunk = track[first >> CHUNK_SHIFT];
        return chunk.length === frames * size ? chunk : chunk.slice(0, frames * size);
      }
      const out = new Float32Array(frames * size);
      const head = track[first >> CHUNK_SHIFT].subarray((first & CHUNK_MASK) * size).subarray(0, out.length);
      out.set(head);
      if (head.length < out.length) out.set(track[(first >> CHUNK_SHIFT) + 1].subarray(0, out.length - head.length), head.length);
      return out;
    });
  return { ...clip, frameCount, rotations: clip.rotations.map((t) => cut(t, 4)), positions: clip.positions.map((t) => cut(t, 3)) };
}

function freshTrackLengths(frameCount: number): number[] {
  return Array.from({ length: Math.ceil(frameCount / CHUNK_FRAMES) }, (_, c) => Math.min(CHUNK_FRAMES, frameCount - c * CHUNK_FRAMES));
}
