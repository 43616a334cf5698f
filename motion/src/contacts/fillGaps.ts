/** Weighted means where there is weight, straight lines across the rest, the nearest value before the first and after the last; written to out[frame · stride + axis]. */
export function fillGaps(out: Float64Array, sum: Float64Array, weight: Float64Array, stride: number, axis: number): void {
  const n = weight.length;
  const least = Math.max(1e-9, 0.02 * weight.reduce((most, w) => Math.max(most, w), 0));
  let last = -1;
  for (let f = 0; f < n; f++) {
    if (weight[f] < least) continue;
    const value = sum[f] / weight[f];
    const from = last < 0 ? value : out[last * stride + axis];
    for (let g = last + 1; g < f; g++) out[g * stride + axis] = from + ((value - from) * (g - last)) / (f - last);
    out[f * stride + axis] = value;
    last = f;
  }
  if (last >= 0) for (let g = last + 1; g < n; g++) out[g * stride + axis] = out[last * stride + axis];
}
