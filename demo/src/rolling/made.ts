import type { Mat, Vec } from "./matrix.ts";

/** A motion whose truth is known: a skeleton (offsets in metres, each in its parent's frame), local turns [frame][joint], the root's places, and what is down from when to when. */
export interface Made {
  readonly fps: number;
  /** names of the joints, root first, and each one's parent */
  readonly joints: readonly string[];
  readonly parents: readonly number[];
  /** joints of each leg, from the hip or shoulder on */
  readonly legs: readonly (readonly number[])[];
  readonly offsets: readonly Vec[];
  readonly ends: ReadonlyMap<number, Vec>;
  readonly turns: readonly (readonly Mat[])[];
  readonly roots: readonly Vec[];
  readonly contacts: readonly MadeContact[];
}

/** Frames on which a point rests, first and last; `joint` is the one that it is, if it is one, `at` else where it is, in the frame of which joint, metres. */
export interface MadeContact {
  readonly point: string;
  readonly joint?: number;
  readonly at?: { readonly joint: number; readonly place: Vec };
  readonly start: number;
  readonly end: number;
}

/** Frames of `frames` that lie within two moments (seconds), first and last; none where there are none. */
export function framesWithin(from: number, to: number, fps: number, frames: number): { readonly start: number; readonly end: number }[] {
  const [start, end] = [Math.max(0, Math.ceil(from * fps - 1e-6)), Math.min(frames - 1, Math.floor(to * fps + 1e-6))];
  return end >= start ? [{ start, end }] : [];
}
