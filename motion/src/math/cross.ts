/** Cross product of two vectors of 3. */
export function cross(a: ArrayLike<number>, b: ArrayLike<number>): Float64Array {
  return Float64Array.of(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]);
}
