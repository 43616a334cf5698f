import { type Group, Mesh, MeshBasicMaterial, SphereGeometry } from "three";
import { clearGroup } from "./ground.ts";

/** A place on a body that is marked. */
export interface PointMark {
  readonly place: readonly [number, number, number];
  readonly picked: boolean;
}

/** Radius of a mark, share of the body's height. */
const SIZE = 0.008;

/** Balls where a body's points lie, seen through everything; the picked one larger. */
export function drawPointMarks(group: Group, marks: readonly PointMark[], height: number, color: string, pickedColor: string): void {
  clearGroup(group);
  for (const { place, picked } of marks) {
    const ball = new Mesh(
      new SphereGeometry(height * SIZE * (picked ? 1.8 : 1), 16, 12),
      new MeshBasicMaterial({ color: picked ? pickedColor : color, depthTest: false }),
    );
    ball.renderOrder = 9;
    ball.position.set(...place);
    group.add(ball);
  }
}
