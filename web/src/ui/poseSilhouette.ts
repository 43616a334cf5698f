/** A pose from the front as strokes from each joint to its parent: an SVG path in a box of 100 by 100. */
export function posePath(
  posed: { readonly positions: ArrayLike<number> },
  parents: ArrayLike<number>,
  heading: number,
  joints: ReadonlySet<number> | null,
): string {
  const [c, s] = [Math.cos(heading), Math.sin(heading)];
  const points: [number, number][] = [];
  for (let j = 0; j < parents.length; j++) {
    const o = j * 3;
    points.push([-(posed.positions[o] * c - posed.positions[o + 2] * s), -posed.positions[o + 1]]);
  }
  const shown = points.filter((_, j) => !joints || joints.has(j));
  if (shown.length === 0) return "";
  const [minX, maxX] = [Math.min(...shown.map((p) => p[0])), Math.max(...shown.map((p) => p[0]))];
  const [minY, maxY] = [Math.min(...shown.map((p) => p[1])), Math.max(...shown.map((p) => p[1]))];
  const scale = 88 / Math.max(maxX - minX, maxY - minY, 0.05);
  const place = ([x, y]: [number, number]) => `${(50 + (x - (minX + maxX) / 2) * scale).toFixed(1)} ${(50 + (y - (minY + maxY) / 2) * scale).toFixed(1)}`;
  const strokes: string[] = [];
  points.forEach((point, j) => {
    const parent = parents[j];
    if (parent < 0 || (joints && !(joints.has(j) && joints.has(parent)))) return;
    strokes.push(`M${place(points[parent])}L${place(point)}`);
  });
  return strokes.join("");
}
