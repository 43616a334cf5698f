/** Normal numbers of deviation 1 from a seed, the same ones each time (Lehmer's generator, Box and Muller's transform). */
export function normalNumbers(seed: number): () => number {
  let state = (seed * 48271 + 12345) % 2147483647;
  const uniform = () => {
    state = (state * 16807) % 2147483647;
    return (state + 0.5) / 2147483647;
  };
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
}
