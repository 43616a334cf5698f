import { BufferAttribute, BufferGeometry, type Group, LineBasicMaterial, LineSegments } from "three";
import { clearGroup } from "./ground.ts";

/** Radius of the rings, metres, and corners of each. */
const SIZE = 0.045;
const CORNERS = 24;

/** Two rings on a stem where the body turns, seen through everything; null takes them away. */
export function drawPivot(group: Group, place: readonly number[] | null, color: string): void {
  clearGroup(group);
  if (!place) return;
  const points: number[] = [];
  for (let i = 0; i < CORNERS; i++) {
    const [a, b] = [(i / CORNERS) * 2 * Math.PI, ((i + 1) / CORNERS) * 2 * Math.PI];
    points.push(SIZE * Math.cos(a), 0, SIZE * Math.sin(a), SIZE * Math.cos(b), 0, SIZE * Math.sin(b));
    points.push(SIZE * Math.cos(a), SIZE * Math.sin(a), 0, SIZE * Math.cos(b), SIZE * Math.sin(b), 0);
  }
  for (const axis of [1, 0, 2]) for (const end of [-1.6 * SIZE, 1.6 * SIZE]) points.push(...[0, 1, 2].map((i) => (i === axis ? end : 0)));
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(points), 3));
  const mark = new LineSegments(geometry, new LineBasicMaterial({ color, depthTest: false }));
  mark.renderOrder = 7;
  mark.position.set(place[0], place[1], place[2]);
  group.add(mark);
}
