/**
 * Solves A·x = b for a symmetric positive definite matrix A (row-major, size n) by Cholesky decomposition, in place: A is overwritten by
 * its factor, b by the solution. Returns false when A is not positive definite (b is then of no use). Source: textbook.
 */
export function solveSymmetricMutable(a: Float64Array, b: Float64Array, n: number): boolean {
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j];
      for (let k = 0; k < j; k++) sum -= a[i * n + k] * a[j * n + k];
      if (i === j) {
        if (!(sum > 0)) return false;
        a[i * n + i] = Math.sqrt(sum);
      } else a[i * n + j] = sum / a[j * n + j];
    }
  }
  for (let i = 0; i < n; i++) {
    let sum = b[i];
    for (let k = 0; k < i; k++) sum -= a[i * n + k] * b[k];
    b[i] = sum / a[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = b[i];
    for (let k = i + 1; k < n; k++) sum -= a[k * n + i] * b[k];
    b[i] = sum / a[i * n + i];
  }
  return true;
}
