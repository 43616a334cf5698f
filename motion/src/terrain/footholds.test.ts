import { describe, expect, it } from "vitest";
import { LEVEL_GROUND } from "../ground/ground.ts";
import type { GroundShape } from "../ground/shapes.ts";
import { footholdOn } from "./footholds.ts";

const sole = (z: number) => ({ x: 0, z, dirX: 0, dirZ: 1, front: 0.06, back: 0.2 });
const on = (shape: GroundShape) => ({ ...LEVEL_GROUND, shapes: [shape] });
const steps = (tread: number, rise = 0.17): GroundShape => ({ shape: "steps", x: 0, z: 0, heading: 0, width: 2, rise, tread, count: 8, landing: 2 });

/** Heights under heel and toe tip of a foothold, over its own: above zero is inside the ground. */
function under(ground: ReturnType<typeof on>, z: number): { shift: number; off: number[] } {
  const hold = footholdOn(ground, sole(z), 0);
  const at = (s: number) => {
    const along = z + hold.shift + s;
    const shape = ground.shapes[0];
    const step = shape.shape === "steps" ? Math.min(shape.count, Math.floor(along / shape.tread) + 1) : 0;
    const height = shape.shape === "steps" && along >= 0 ? step * shape.rise : 0;
    return height - hold.height;
  };
  return { shift: hold.shift, off: [at(-0.2), at(-0.1), at(0), at(0.06)] };
}

describe("a foothold", () => {
  it("is where the sole comes down on level ground, and on a wide step's middle", () => {
    expect(footholdOn(LEVEL_GROUND, sole(0.3), 0)).toEqual({ shift: 0, height: 0, normal: [expect.closeTo(0), 1, expect.closeTo(0)] });
    expect(under(on(steps(0.7)), 0.45).shift).toBe(0);
  });

  it("is moved off an edge until the whole sole lies on one step", () => {
    for (let z = 0.05; z < 2; z += 0.05) {
      const { shift, off } = under(on(steps(0.5)), z);
      expect(Math.max(...off.map(Math.abs)), `${z}`).toBeLessThan(1e-9);
      expect(Math.abs(shift)).toBeLessThanOrEqual(0.36);
    }
  });

  it("leaves the heel over the edge of a narrow step, and never lies inside one", () => {
    for (const rise of [0.17, -0.17])
      for (let z = 0.3; z < 1.4; z += 0.05) {
        const { off } = under(on(steps(0.22, rise)), z);
        expect(Math.max(...off), `${rise}, ${z}`).toBeLessThan(0.005);
        expect(off[2]).toBeCloseTo(0, 9);
      }
  });
});
