import { MotionFormatError } from "../errors.ts";
import { readAccessor } from "./accessors.ts";
import type { GltfContainer } from "./container.ts";
import type { GltfAnimation } from "./document.ts";

/** Keys of one node's rotation, translation or scale, or of its morph targets' weights. */
export interface Track {
  readonly node: number;
  readonly path: "rotation" | "translation" | "scale" | "weights";
  readonly times: Float64Array;
  /** [key][size], or for CUBICSPLINE [key][in-tangent, value, out-tangent][size] */
  readonly values: Float64Array;
  readonly size: number;
  readonly interpolation: GltfAnimation["samplers"][number]["interpolation"];
}

/** The tracks of an animation that move joints; those that scale nodes or weigh morph targets are counted. Throws MotionFormatError. */
export function readTracks(
  container: GltfContainer,
  animation: GltfAnimation,
  fileName: string,
): { readonly tracks: readonly Track[]; readonly scaled: number; readonly morphed: number } {
  const tracks: Track[] = [];
  let [scaled, morphed] = [0, 0];
  animation.channels.forEach(({ sampler: at, target: { node, path } }, i) => {
    const fail = (problem: string) => new MotionFormatError(`channel ${i} of its animation: ${problem}`, 0, fileName);
    if (path === "scale") scaled++;
    if (path === "weights") morphed++;
    if (node === undefined || (path !== "rotation" && path !== "translation")) return;
    const sampler = animation.samplers[at];
    if (!sampler) throw fail(`it names sampler ${at}, which is not there`);
    const size = path === "rotation" ? 4 : 3;
    const times = readAccessor(container, sampler.input, fileName);
    const output = readAccessor(container, sampler.output, fileName);
    if (times.size !== 1) throw fail("its times are no single numbers");
    if (output.size !== size) throw fail(`its values have ${output.size} parts, where a ${path} has ${size}`);
    const each = sampler.interpolation === "CUBICSPLINE" ? 3 : 1;
    if (output.count !== times.count * each) throw fail(`it has ${times.count} times but ${output.count} values, where ${times.count * each} were expected`);
    for (let k = 0; k < times.count; k++)
      if (times.values[k] < 0 || (k > 0 && times.values[k] <= times.values[k - 1])) throw fail(`its times do not grow at key ${k}`);
    tracks.push({ node, path, times: times.values, values: output.values, size, interpolation: sampler.interpolation });
  });
  return { tracks, scaled, morphed };
}

/** The values of a sampler at moments, seconds, [moment][size]; null where its values do not go with its times. Throws MotionFormatError. */
export function valuesAt(
  container: GltfContainer,
  { input, output, interpolation }: GltfAnimation["samplers"][number],
  path: "scale" | "weights",
  moments: Float64Array,
  fileName: string,
): { readonly values: Float32Array; readonly size: number } | null {
  const [times, given] = [input, output].map((accessor) => readAccessor(container, accessor, fileName));
  const size = (given.count * given.size) / (times.count * (interpolation === "CUBICSPLINE" ? 3 : 1));
  if (!Number.isInteger(size) || size < 1) return null;
  const track = { node: -1, path, times: times.values, values: given.values, size, interpolation };
  const values = new Float32Array(moments.length * size);
  const value = new Float64Array(size);
  let reader = new TrackReader(track);
  moments.forEach((moment, f) => {
    // A stretch that is repeated goes back.
    if (f > 0 && moment < moments[f - 1]) reader = new TrackReader(track);
    reader.read(moment, value);
    values.set(value, f * size);
  });
  return { values, size };
}

/** Reads a track at moments that never go back: each call a later one. */
export class TrackReader {
  private at = 0;

  constructor(readonly track: Track) {}

  /** Value at a moment, seconds, by the track's own interpolation (glTF 2.0, appendix C), rotations of unit length: dst[0..size). */
  read(moment: number, dst: Float64Array): void {
    const { times, values, size, interpolation, path } = this.track;
    const turns = path === "rotation";
    const last = times.length - 1;
    while (this.at < last && times[this.at + 1] <= moment) this.at++;
    const k = this.at;
    const cubic = interpolation === "CUBICSPLINE";
    const value = (key: number, part: number, i: number) => values[cubic ? (key * 3 + part) * size + i : key * size + i];
    if (k === last || moment <= times[0] || interpolation === "STEP") {
      for (let i = 0; i < size; i++) dst[i] = value(k, 1, i);
    } else {
      const span = times[k + 1] - times[k];
      const t = (moment - times[k]) / span;
      if (cubic) {
        const [t2, t3] = [t * t, t * t * t];
        for (let i = 0; i < size; i++)
          dst[i] =
            (2 * t3 - 3 * t2 + 1) * value(k, 1, i) +
            span * (t3 - 2 * t2 + t) * value(k, 2, i) +
            (3 * t2 - 2 * t3) * value(k + 1, 1, i) +
            span * (t3 - t2) * value(k + 1, 0, i);
      } else if (turns) {
        slerp(dst, (key, i) => value(key, 1, i), k, t);
        return;
      } else for (let i = 0; i < size; i++) dst[i] = (1 - t) * value(k, 1, i) + t * value(k + 1, 1, i);
    }
    if (turns) normalize(dst);
  }
}

/** Below this the two are as good as one, and a straight line between them does. */
const NEARLY_ONE = 1 - 1e-9;

function slerp(dst: Float64Array, value: (key: number, i: number) => number, k: number, t: number): void {
  let dot = 0;
  for (let i = 0; i < 4; i++) dot += value(k, i) * value(k + 1, i);
  const sign = dot < 0 ? -1 : 1;
  const cos = Math.min(1, Math.abs(dot));
  const angle = Math.acos(cos);
  const [a, b] = cos > NEARLY_ONE ? [1 - t, t] : [Math.sin((1 - t) * angle) / Math.sin(angle), Math.sin(t * angle) / Math.sin(angle)];
  for (let i = 0; i < 4; i++) dst[i] = a * value(k, i) + sign * b * value(k + 1, i);
  normalize(dst);
}

function normalize(q: Float64Array): void {
  const size = Math.hypot(q[0], q[1], q[2], q[3]);
  if (size === 0) q.set([0, 0, 0, 1]);
  else for (let i = 0; i < 4; i++) q[i] /= size;
}
