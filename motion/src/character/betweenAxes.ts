import { normalizeQuatFlat } from "../math/quat.ts";

/** A body's left, up and forward, unit vectors square to each other. */
export interface BodyAxes {
  readonly left: ArrayLike<number>;
  readonly up: ArrayLike<number>;
  readonly forward: ArrayLike<number>;
}

/** The rotation that takes one body's axes to another's: B_to · B_from⁻¹ with B the body's left, up and forward as columns. */
export function betweenAxes(from: BodyAxes, to: BodyAxes): Float64Array {
  const m = Array.from({ length: 9 }, (_, i) => {
    const [r, c] = [Math.floor(i / 3), i % 3];
    return to.left[r] * from.left[c] + to.up[r] * from.up[c] + to.forward[r] * from.forward[c];
  });
  // Rotation matrix → quaternion, by its largest part (Shepperd 1978).
  const trace = m[0] + m[4] + m[8];
  const q = new Float64Array(4);
  if (trace > 0) q.set([m[7] - m[5], m[2] - m[6], m[3] - m[1], 1 + trace]);
  else if (m[0] > m[4] && m[0] > m[8]) q.set([1 + m[0] - m[4] - m[8], m[1] + m[3], m[2] + m[6], m[7] - m[5]]);
  else if (m[4] > m[8]) q.set([m[1] + m[3], 1 + m[4] - m[0] - m[8], m[5] + m[7], m[2] - m[6]]);
  else q.set([m[2] + m[6], m[5] + m[7], 1 + m[8] - m[0] - m[4], m[3] - m[1]]);
  normalizeQuatFlat(q, 0);
  return q;
}
