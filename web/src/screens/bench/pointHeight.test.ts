import type { ContactPoint } from "@stride/motion";
import { LEVEL_GROUND } from "@stride/motion";
import { expect, it } from "vitest";
import type { MotionView } from "../../worker/views.ts";
import { pointHeight } from "./pointHeight.ts";

it("a point's height is counted from where it would rest, on the surface under it, as its joint is turned", () => {
  const quarter = Math.SQRT1_2;
  const view = {
    frameCount: 2,
    jointCount: 2,
    positions: new Float32Array([0, 0, 0, 1, 0.5, 3, 0, 0, 0, 1, 0.9, 3]),
    // Joint 1 lies on its side on the second frame: its x points up.
    rotations: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, quarter, quarter]),
    ground: { ...LEVEL_GROUND, height: 0.1 },
  } as unknown as MotionView;
  const point = { id: "leftToe", joint: 1, local: [0.2, 0, 0], clearance: 0.03 } as unknown as ContactPoint;
  expect(pointHeight(view, point, 0)).toBeCloseTo(0.5 - 0.03 - 0.1, 6);
  expect(pointHeight(view, point, 1)).toBeCloseTo(0.9 + 0.2 - 0.03 - 0.1, 6);
  // Behind the last frame it is as on the last.
  expect(pointHeight(view, point, 9)).toBeCloseTo(0.97, 6);
  const stepped = { ...view, ground: { ...view.ground, shapes: [{ shape: "box", x: 0, z: 2, heading: 0, width: 4, length: 2, height: 0.25 }] } } as MotionView;
  expect(pointHeight(stepped, point, 0)).toBeCloseTo(0.5 - 0.03 - 0.35, 6);
});
