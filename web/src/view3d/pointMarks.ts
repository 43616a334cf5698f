import { type Group, Mesh, MeshBasicMaterial, SphereGeometry } from "three";
import { clearGroup } from "./ground.ts";

/** A place on a body that is marked. */
export interface PointMark {
  readonly place: readonly [number, number, number];
  readonly picked: boolean;
}

/** How marks are coloured: their rim, their middle, and the middle of the picked one. */
export interface MarkColors {
  readonly rim: string;
  readonly middle: string;
  readonly picked: string;
}

/** Radius of a mark, share of the body's height, and of its middle, share of that. */
const SIZE = 0.0085;
const MIDDLE = 0.66;

/** Rimmed balls where a body's points lie, seen through everything and on dark and light alike; the picked one larger. */
export function drawPointMarks(group: Group, marks: readonly PointMark[], height: number, colors: MarkColors): void {
  clearGroup(group);
  for (const { place, picked } of marks) {
    const radius = height * SIZE * (picked ? 1.6 : 1);
    const ball = (size: number, color: string, order: number) => {
      const mesh = new Mesh(new SphereGeometry(size, 16, 12), new MeshBasicMaterial({ color, depthTest: false, transparent: true }));
      mesh.renderOrder = order;
      mesh.position.set(...place);
      group.add(mesh);
    };
    ball(radius, colors.rim, 9);
    ball(MIDDLE * radius, picked ? colors.picked : colors.middle, 10);
  }
}
