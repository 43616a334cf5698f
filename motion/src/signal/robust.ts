/** Value at a share (0..1) of the sorted values; NaN for none. */
export function quantile(values: ArrayLike<number>, share: number): number {
  if (values.length === 0) return Number.NaN;
  const sorted = Float64Array.from(values as ArrayLike<number>).sort();
  const at = share * (sorted.length - 1);
  const low = Math.floor(at);
  const high = Math.min(sorted.length - 1, low + 1);
  return sorted[low] + (at - low) * (sorted[high] - sorted[low]);
}

export function median(values: ArrayLike<number>): number {
  return quantile(values, 0.5);
}

/**
 * Standard deviation of sample-to-sample noise in a signal that is otherwise smooth, from the median size of its second differences
 * (white noise of deviation s has second differences of deviation s·√6). The median keeps fast stretches from counting.
 */
export function noiseLevel(values: ArrayLike<number>): number {
  if (values.length < 5) return 0;
  const differences = new Float64Array(values.length - 2);
  for (let i = 1; i + 1 < values.length; i++) differences[i - 1] = Math.abs(values[i + 1] - 2 * values[i] + values[i - 1]);
  return (1.4826 * median(differences)) / Math.sqrt(6);
}

/**
 * The same, read off the stillest part of a signal that moves most of the time: from the size below which 15 % of the second differences lie
 * (0.189 of the deviation of a normal variable), so that movement on up to four frames of five does not count as noise.
 */
export function stillNoise(values: ArrayLike<number>): number {
  if (values.length < 5) return 0;
  const differences = new Float64Array(values.length - 2);
  for (let i = 1; i + 1 < values.length; i++) differences[i - 1] = Math.abs(values[i + 1] - 2 * values[i] + values[i - 1]);
  return quantile(differences, 0.15) / 0.189 / Math.sqrt(6);
}

/** Solves the symmetric positive 3×3 system A x = b (row-major A) by elimination with pivoting; undefined when singular. */
export function solve3(a: readonly number[], b: readonly number[]): [number, number, number] | undefined {
  const m = [
    [a[0], a[1], a[2], b[0]],
    [a[3], a[4], a[5], b[1]],
    [a[6], a[7], a[8], b[2]],
  ];
  for (let c = 0; c < 3; c++) {
    let pivot = c;
    for (let r = c + 1; r < 3; r++) if (Math.abs(m[r][c]) > Math.abs(m[pivot][c])) pivot = r;
    if (Math.abs(m[pivot][c]) < 1e-14) return undefined;
    [m[c], m[pivot]] = [m[pivot], m[c]];
    for (let r = 0; r < 3; r++) {
      if (r === c) continue;
      const f = m[r][c] / m[c][c];
      for (let k = c; k < 4; k++) m[r][k] -= f * m[c][k];
    }
  }
  return [m[0][3] / m[0][0], m[1][3] / m[1][1], m[2][3] / m[2][2]];
}
