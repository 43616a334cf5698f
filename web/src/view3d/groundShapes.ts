import { type Ground, type GroundShape, placeOnShape, planeHeight, profileCorners } from "@stride/motion";
import { BufferAttribute, BufferGeometry, DoubleSide, type Group, LineBasicMaterial, LineSegments, Mesh, MeshLambertMaterial } from "three";
import { clearGroup } from "./ground.ts";

type Corner = readonly [number, number, number];

/** What stands on a ground, as solid blocks with their edges. */
export function drawShapes(group: Group, ground: Ground, colorOf: (name: string) => string): void {
  clearGroup(group);
  for (const shape of ground.shapes) {
    const { faces, edges } = blockOf(shape, ground);
    const solid = new BufferGeometry();
    solid.setAttribute("position", new BufferAttribute(new Float32Array(faces.flat(2)), 3));
    solid.computeVertexNormals();
    const material = new MeshLambertMaterial({
      color: colorOf("--sheet"),
      side: DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    const lines = new BufferGeometry();
    lines.setAttribute("position", new BufferAttribute(new Float32Array(edges.flat(2)), 3));
    group.add(new Mesh(solid, material), new LineSegments(lines, new LineBasicMaterial({ color: colorOf("--ink-soft") })));
  }
}

/** Triangles and edges of a shape: its profile across its width, with sides down (or up) to the ground's plane. */
function blockOf(shape: GroundShape, ground: Ground): { faces: Corner[][]; edges: Corner[][] } {
  const base = planeHeight(ground, shape.x, shape.z);
  const half = shape.width / 2;
  const at = (along: number, height: number, side: number): Corner => {
    const [x, z] = placeOnShape(shape, along, side * half);
    return [x, base + height, z];
  };
  const foot = (along: number, side: number): Corner => {
    const [x, z] = placeOnShape(shape, along, side * half);
    return [x, planeHeight(ground, x, z), z];
  };
  const faces: Corner[][] = [];
  const edges: Corner[][] = [];
  const quad = (a: Corner, b: Corner, c: Corner, d: Corner) => faces.push([a, b, c], [a, c, d]);
  const corners = profileCorners(shape);
  corners.forEach(([along, height], i) => {
    edges.push([at(along, height, -1), at(along, height, 1)]);
    const next = corners[i + 1];
    if (!next) return;
    const [to, top] = next;
    quad(at(along, height, -1), at(to, top, -1), at(to, top, 1), at(along, height, 1));
    for (const side of [-1, 1]) {
      edges.push([at(along, height, side), at(to, top, side)]);
      quad(at(along, height, side), at(to, top, side), foot(to, side), foot(along, side));
    }
  });
  for (const [along, height] of [corners[0], corners.at(-1) as [number, number]]) {
    quad(at(along, height, -1), at(along, height, 1), foot(along, 1), foot(along, -1));
    edges.push([foot(along, -1), foot(along, 1)]);
    for (const side of [-1, 1]) edges.push([at(along, height, side), foot(along, side)]);
  }
  return { faces, edges };
}
