import { type Clip, readPosition, readRotation } from "../../clip/clip.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import type { KeyTolerance } from "../format.ts";
import { keptPlaces, keptRotations } from "./thin.ts";

const FLOAT = 5126;
/** What it costs to describe the times of a track of its own, in numbers of four bytes. */
const TIMES_COST = 50;

export interface Written {
  /** its bytes in the buffer's end, and what describes them */
  readonly views: { buffer: number; byteOffset: number; byteLength: number }[];
  readonly accessors: { bufferView: number; componentType: number; count: number; type: string; min?: number[]; max?: number[] }[];
}

/** A clip as keys: bytes, what describes them, and which sampler moves which joint. */
export interface MotionData {
  readonly bytes: Uint8Array;
  readonly data: Written;
  readonly samplers: readonly { readonly input: number; readonly output: number; readonly interpolation: "LINEAR" }[];
  readonly channels: readonly { readonly sampler: number; readonly joint: number; readonly target: { readonly path: "rotation" | "translation" } }[];
}

/** Tracks as bytes behind `start`, with what describes them; indices count from 0. `unit` says how many metres a unit of a joint's translation is. */
export function motionData(skeleton: Skeleton, clip: Clip, start: number, unit: (joint: number) => number, thin?: KeyTolerance): MotionData {
  const pieces: Float32Array[] = [];
  const data: Written = { views: [], accessors: [] };
  let at = start;
  const add = (values: Float32Array, type: "SCALAR" | "VEC3" | "VEC4", bounds: boolean): number => {
    const size = type === "SCALAR" ? 1 : type === "VEC3" ? 3 : 4;
    data.views.push({ buffer: 0, byteOffset: at, byteLength: values.byteLength });
    data.accessors.push({
      bufferView: data.views.length - 1,
      componentType: FLOAT,
      count: values.length / size,
      type,
      ...(bounds && { min: [values[0]], max: [values[values.length - 1]] }),
    });
    pieces.push(values);
    at += values.byteLength;
    return data.accessors.length - 1;
  };
  const frames = clip.frameCount;
  const every = add(
    Float32Array.from({ length: frames }, (_, f) => f / clip.fps),
    "SCALAR",
    true,
  );
  const samplers: { input: number; output: number; interpolation: "LINEAR" }[] = [];
  const channels: { sampler: number; joint: number; target: { path: "rotation" | "translation" } }[] = [];
  // Tracks that keep the same frames share their times.
  const times = new Map<string, number>();
  const timesOf = (kept: readonly number[]): number => {
    if (kept.length === frames) return every;
    const key = kept.join();
    const known =
      times.get(key) ??
      add(
        Float32Array.from(kept, (f) => f / clip.fps),
        "SCALAR",
        true,
      );
    times.set(key, known);
    return known;
  };
  const track = (joint: number, path: "rotation" | "translation", values: Float32Array, rest: ArrayLike<number>) => {
    const size = path === "rotation" ? 4 : 3;
    const same = values.every((v, i) => v === values[i % size]);
    // A joint that never leaves its place at rest needs no track.
    if (same && Array.from(rest).every((v, i) => Math.fround(v) === values[i])) return;
    const thinned = thin && (path === "rotation" ? keptRotations(values, thin.degrees) : keptPlaces(values, thin.metres / unit(joint)));
    // Fewer keys need times of their own: they are left out where that saves something.
    const saves = thinned && thinned.length * (size + 1) + TIMES_COST < frames * size;
    const kept = same && frames > 2 ? [0, frames - 1] : saves ? thinned : null;
    const output = add(
      kept ? Float32Array.from(kept.flatMap((f) => [...values.subarray(f * size, f * size + size)])) : values,
      size === 4 ? "VEC4" : "VEC3",
      false,
    );
    samplers.push({ input: kept ? timesOf(kept) : every, output, interpolation: "LINEAR" });
    channels.push({ sampler: samplers.length - 1, joint, target: { path } });
  };
  const q = new Float64Array(4);
  for (let joint = 0; joint < clip.jointCount; joint++) {
    const values = new Float32Array(frames * 4);
    for (let f = 0; f < frames; f++) {
      readRotation(clip, joint, f, q, 0);
      // The nearer of the two quaternions that are the same turn, so that what lies between goes the short way.
      const o = f * 4;
      const dot = f === 0 ? 1 : values[o - 4] * q[0] + values[o - 3] * q[1] + values[o - 2] * q[2] + values[o - 1] * q[3];
      for (let i = 0; i < 4; i++) values[o + i] = dot < 0 ? -q[i] : q[i];
    }
    track(joint, "rotation", values, skeleton.restRotations.subarray(joint * 4, joint * 4 + 4));
  }
  clip.positionJoints.forEach((joint, slot) => {
    const values = new Float32Array(frames * 3);
    for (let f = 0; f < frames; f++) {
      readPosition(clip, slot, f, q, 0);
      for (let i = 0; i < 3; i++) values[f * 3 + i] = q[i] / unit(joint);
    }
    track(
      joint,
      "translation",
      values,
      skeleton.offsets.subarray(joint * 3, joint * 3 + 3).map((v) => v / unit(joint)),
    );
  });
  // An animation has at least one track.
  if (channels.length === 0) {
    const values = new Float32Array(frames * 4);
    for (let f = 0; f < frames; f++) values.set(skeleton.restRotations.subarray(0, 4), f * 4);
    const output = add(values, "VEC4", false);
    samplers.push({ input: every, output, interpolation: "LINEAR" });
    channels.push({ sampler: 0, joint: 0, target: { path: "rotation" } });
  }
  const bytes = new Uint8Array(at - start);
  let to = 0;
  for (const piece of pieces) {
    bytes.set(new Uint8Array(piece.buffer, piece.byteOffset, piece.byteLength), to);
    to += piece.byteLength;
  }
  return { bytes, data, samplers, channels };
}
