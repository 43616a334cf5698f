/** Value at a share (0..1) of the sorted values; NaN for none. */
export function quantile(values: ArrayLike<number>, share: number): number {
  if (values.length === 0) return Number.NaN;
  return quantileMutable(new Float64Array(values), share);
}

/** The same, leaving the values in another order. */
export function quantileMutable(values: Float64Array, share: number): number {
  const at = share * (values.length - 1);
  const low = Math.floor(at);
  const below = selectMutable(values, low);
  // With the lower one in its place, the next larger is the least of those behind it.
  if (at === low) return below;
  let above = values[low + 1];
  for (let i = low + 2; i < values.length; i++) if (values[i] < above) above = values[i];
  return below + (at - low) * (above - below);
}

/** Fewer values than this are sorted by insertion. */
const FEW = 12;

/** The k-th smallest value, with none larger before it and none smaller behind it (quickselect by the median of three: Hoare, Algorithm 65, 1961). */
function selectMutable(values: Float64Array, k: number): number {
  let [from, to] = [0, values.length - 1];
  while (to - from > FEW) {
    const [a, b, c] = [values[from], values[(from + to) >> 1], values[to]];
    const pivot = Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
    let [i, j] = [from, to];
    while (i <= j) {
      while (values[i] < pivot) i++;
      while (pivot < values[j]) j--;
      if (i > j) break;
      const swapped = values[i];
      values[i++] = values[j];
      values[j--] = swapped;
    }
    if (k <= j) to = j;
    else if (k >= i) from = i;
    else return values[k];
  }
  for (let i = from + 1; i <= to; i++) {
    const value = values[i];
    let j = i - 1;
    for (; j >= from && values[j] > value; j--) values[j + 1] = values[j];
    values[j + 1] = value;
  }
  return values[k];
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
  return (1.4826 * quantileMutable(differences, 0.5)) / Math.sqrt(6);
}

/**
 * The same, read off the stillest part of a signal that moves most of the time: from the size below which 15 % of the second differences lie
 * (0.189 of the deviation of a normal variable), so that movement on up to four frames of five does not count as noise.
 */
export function stillNoise(values: ArrayLike<number>): number {
  if (values.length < 5) return 0;
  const differences = new Float64Array(values.length - 2);
  for (let i = 1; i + 1 < values.length; i++) differences[i - 1] = Math.abs(values[i + 1] - 2 * values[i] + values[i - 1]);
  return quantileMutable(differences, 0.15) / 0.189 / Math.sqrt(6);
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
