import { type Ground, groundHeight } from "@stride/motion";
import { BufferAttribute, BufferGeometry, DoubleSide, type Group, LineBasicMaterial, LineSegments, Mesh, MeshBasicMaterial } from "three";
import { soleOutline, stepOutline } from "../ui/soleShape.ts";
import type { Footprint, MotionView } from "../worker/views.ts";

/** Side of a square of the floor, metres. */
const SQUARE = 0.5;

/** The ground under a motion as a grid of half-metre squares that lies as the ground does, as far as its hips go and a little on. */
export function drawFloor(group: Group, view: MotionView, ground: Ground, hips: number, color: string): void {
  clearGroup(group);
  let [minX, maxX, minZ, maxZ] = [-1.5, 1.5, -1.5, 1.5];
  for (let f = 0; f < view.frameCount; f += 4) {
    const o = (f * view.jointCount + hips) * 3;
    minX = Math.min(minX, view.positions[o] - 2.5);
    maxX = Math.max(maxX, view.positions[o] + 2.5);
    minZ = Math.min(minZ, view.positions[o + 2] - 2.5);
    maxZ = Math.max(maxZ, view.positions[o + 2] + 2.5);
  }
  const points: number[] = [];
  const snap = (v: number, round: (n: number) => number) => round(v / SQUARE) * SQUARE;
  const [x0, x1, z0, z1] = [snap(minX, Math.floor), snap(maxX, Math.ceil), snap(minZ, Math.floor), snap(maxZ, Math.ceil)];
  const at = (x: number, z: number) => [x, groundHeight(ground, x, z), z];
  for (let x = x0; x <= x1 + 1e-6; x += SQUARE) points.push(...at(x, z0), ...at(x, z1));
  for (let z = z0; z <= z1 + 1e-6; z += SQUARE) points.push(...at(x0, z), ...at(x1, z));
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(points), 3));
  group.add(new LineSegments(geometry, new LineBasicMaterial({ color: color })));
}

/** Where feet rest: a sole shape each, filled on the left and outlined on the right, with the smear that it leaves. */
export function drawPrints(group: Group, prints: readonly Footprint[], ground: Ground, colorOf: (name: string) => string): void {
  clearGroup(group);
  for (const print of prints) {
    const over = (x: number, z: number, by: number) => groundHeight(ground, x, z) + print.rise + by;
    if (print.rise > 0) group.add(...stepUnder(print, ground, colorOf));
    const color = colorOf(print.side === "left" ? "--plum" : "--teal");
    const long = Math.max(0.1, print.length * 1.25);
    const wide = 0.085;
    const shape = soleOutline(print.x, print.z, print.heading, long, wide);
    const geometry = new BufferGeometry();
    const triangles: number[] = [];
    for (let i = 1; i + 1 < shape.length; i++) for (const p of [shape[0], shape[i], shape[i + 1]]) triangles.push(p[0], over(p[0], p[1], 0.004), p[1]);
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(triangles), 3));
    group.add(
      new Mesh(geometry, new MeshBasicMaterial({ color, side: DoubleSide, transparent: true, opacity: print.side === "left" ? 0.5 : 0.14, depthWrite: false })),
    );
    const ring: number[] = [];
    shape.forEach((p, i) => {
      const next = shape[(i + 1) % shape.length];
      ring.push(p[0], over(p[0], p[1], 0.005), p[1], next[0], over(next[0], next[1], 0.005), next[1]);
    });
    const edge = new BufferGeometry();
    edge.setAttribute("position", new BufferAttribute(new Float32Array(ring), 3));
    group.add(new LineSegments(edge, new LineBasicMaterial({ color })));
    const smear: number[] = [];
    for (let i = 2; i < print.smear.length; i += 2)
      for (const [x, z] of [print.smear.slice(i - 2, i), print.smear.slice(i, i + 2)]) smear.push(x, over(x, z, 0.007), z);
    const line = new BufferGeometry();
    line.setAttribute("position", new BufferAttribute(new Float32Array(smear), 3));
    group.add(new LineSegments(line, new LineBasicMaterial({ color: colorOf("--coral") })));
  }
}

/** A block under a footprint that stands higher than the ground: its top, and its edges down to the ground. */
function stepUnder(print: Footprint, ground: Ground, colorOf: (name: string) => string): [Mesh, LineSegments] {
  const corners = stepOutline(print.x, print.z, print.heading, print.length);
  const top = corners.map(([x, z]) => [x, groundHeight(ground, x, z) + print.rise, z]);
  const foot = corners.map(([x, z]) => [x, groundHeight(ground, x, z), z]);
  const face = (a: number[], b: number[], c: number[], d: number[]) => [a, b, c, a, c, d].flat();
  const sides = corners.flatMap((_, i) => face(foot[i], foot[(i + 1) % 4], top[(i + 1) % 4], top[i]));
  const faces = new BufferGeometry();
  faces.setAttribute("position", new BufferAttribute(new Float32Array([...face(top[0], top[1], top[2], top[3]), ...sides]), 3));
  const edges = new BufferGeometry();
  const lines = corners.flatMap((_, i) => [...top[i], ...top[(i + 1) % 4], ...top[i], ...foot[i]]);
  edges.setAttribute("position", new BufferAttribute(new Float32Array(lines), 3));
  return [
    new Mesh(
      faces,
      new MeshBasicMaterial({
        color: colorOf("--paper"),
        side: DoubleSide,
        transparent: true,
        opacity: 0.72,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      }),
    ),
    new LineSegments(edges, new LineBasicMaterial({ color: colorOf("--ink-soft") })),
  ];
}

/** Takes everything out of a group and frees it. */
export function clearGroup(group: Group): void {
  for (const child of [...group.children]) {
    group.remove(child);
    if (child instanceof Mesh || child instanceof LineSegments) {
      child.geometry.dispose();
      for (const material of [child.material].flat()) material.dispose();
    }
  }
}
