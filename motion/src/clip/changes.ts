import { CHUNK_FRAMES, CHUNK_MASK, type Clip, ClipDraft, type Track } from "./clip.ts";

/** Frames first..last, both inclusive. */
export type FrameWindow = readonly [number, number];

/** Marks [frame] the frames on which any of `joints`, or any position, differs in its bits between two clips of one shape. Shared chunks cost nothing. */
export function changedFrames(a: Clip, b: Clip, joints: readonly number[]): Uint8Array {
  const marks = new Uint8Array(a.frameCount);
  const compare = (from: Track, to: Track, size: number) => {
    if (from === to) return;
    from.forEach((chunk, c) => {
      const other = to[c];
      if (chunk === other) return;
      for (let i = 0; i < chunk.length; i++) if (chunk[i] !== other[i]) marks[c * CHUNK_FRAMES + Math.floor(i / size)] = 1;
    });
  };
  a.positions.forEach((track, s) => {
    compare(track, b.positions[s], 3);
  });
  for (const joint of joints) compare(a.rotations[joint], b.rotations[joint], 4);
  return marks;
}

/** The stretches on which two clips of one shape differ in their bits, in order; those with fewer than `gap` frames between them count as one. */
export function changedWindows(a: Clip, b: Clip, gap: number): FrameWindow[] {
  if (a === b) return [];
  const marks = changedFrames(
    a,
    b,
    a.rotations.map((_, joint) => joint),
  );
  const windows: FrameWindow[] = [];
  for (let f = 0; f < marks.length; f++) if (marks[f]) windows.push([f, f]);
  return mergedWindows(windows, gap);
}

/** Windows in order, with those that overlap or lie closer than `gap` frames made one. */
export function mergedWindows(windows: readonly FrameWindow[], gap: number): FrameWindow[] {
  const out: [number, number][] = [];
  for (const [start, end] of [...windows].sort((a, b) => a[0] - b[0])) {
    const last = out.at(-1);
    if (last && start - last[1] <= gap) last[1] = Math.max(last[1], end);
    else out.push([start, end]);
  }
  return out;
}

/** Windows widened by so many frames before and after, within a clip. */
export function widened(windows: readonly FrameWindow[], before: number, after: number, frameCount: number): FrameWindow[] {
  return windows.map(([start, end]) => [Math.max(0, start - before), Math.min(frameCount - 1, end + after)]);
}

/** Frames that some windows hold, together. */
export function frameTotal(windows: readonly FrameWindow[]): number {
  return windows.reduce((sum, [start, end]) => sum + end - start + 1, 0);
}

/** A clip with some of its frames taken from pieces of another, each beginning at frame `offset`; what is alike stays shared. */
export function splicedClip(clip: Clip, pieces: readonly { readonly piece: Clip; readonly offset: number; readonly window: FrameWindow }[]): Clip {
  const draft = ClipDraft.of(clip);
  for (const { piece, offset, window } of pieces) {
    for (let j = 0; j < clip.jointCount; j++) spliceTrack(clip.rotations[j], piece.rotations[j], 4, offset, window, (f) => draft.rotationChunk(j, f));
    for (let s = 0; s < clip.positions.length; s++) spliceTrack(clip.positions[s], piece.positions[s], 3, offset, window, (f) => draft.positionChunk(s, f));
  }
  return draft.done();
}

/** Writes what differs of a track's frames in a window. */
function spliceTrack(track: Track, piece: Track, size: number, offset: number, [start, end]: FrameWindow, chunkAt: (frame: number) => Float32Array): void {
  for (let f = start; f <= end; f++) {
    const old = track[Math.floor(f / CHUNK_FRAMES)];
    const fresh = piece[Math.floor((f - offset) / CHUNK_FRAMES)];
    if (old === fresh && (f & CHUNK_MASK) === ((f - offset) & CHUNK_MASK)) continue;
    const o = (f & CHUNK_MASK) * size;
    const p = ((f - offset) & CHUNK_MASK) * size;
    let same = true;
    for (let i = 0; i < size; i++) if (old[o + i] !== fresh[p + i]) same = false;
    if (same) continue;
    const chunk = chunkAt(f);
    for (let i = 0; i < size; i++) chunk[o + i] = fresh[p + i];
  }
}
